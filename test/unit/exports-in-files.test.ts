/** Exports that are parted in files: pages, days, a file for each message, lists of persons and conversations beside. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Look } from '../../src/core/look';
import type { Weave } from '../../src/core/weave';
import { lookAt } from '../vectors/look-at';

type Thread = Weave['threads'][number];

const ODILE = 'Odile Marchetti';
const PIET = 'Piet Hallorann';
const TAMSIN = 'Tamsin Okafor';

async function threadsOf(files: Record<string, string>, owner: string | null = PIET): Promise<{ one: Look; threads: readonly Thread[] }> {
	const one = await lookAt(files, owner);
	return { one, threads: one.findings().weave.threads };
}

/** Of each thread what was said, in order; the writer of what was received. */
const said = (threads: readonly Thread[]): string[][] =>
	threads
		.map((t) =>
			t.messages.map(({ first: m }) => {
				const who = m.direction === 'out' ? 'out' : (m.correspondent?.name ?? m.correspondent?.address);
				return `${who}: ${m.text}`;
			})
		)
		.sort((a, b) => (a[0]! < b[0]! ? -1 : 1));

const at = (i: number): number => Date.UTC(2025, 0, 14, 10) + i * 60_000;
const lines = (who: readonly string[], from = 0): { who: string; at: number; text: string }[] =>
	who.map((w, i) => ({ who: w, at: at(from + i), text: `The boiler, ${from + i}` }));

describe('pages', () => {
	const page = (title: string, messages: unknown[]): string =>
		JSON.stringify({ participants: [ODILE, TAMSIN, PIET].map((name) => ({ name })), messages, title, path: `messages/${title}` });
	it('of a group, on the last of which one alone wrote, with the pictures of each', async () => {
		const [first, last] = [lines([ODILE, PIET, TAMSIN, PIET]), lines([ODILE, ODILE], 4)];
		const of = (part: typeof first): unknown[] =>
			part.map((m, i) => ({
				sender_name: m.who,
				timestamp_ms: m.at,
				content: m.text,
				...(i === 0 ? { photos: [{ uri: `photos/${m.at}.png` }] } : {})
			}));
		const { threads, one } = await threadsOf({
			'rota/message_1.json': page('Laundry rota', of(first)),
			'rota/message_2.json': page('Laundry rota', of(last))
		});
		assert.deepEqual(said(threads), [[...first, ...last].map((m) => `${m.who === PIET ? 'out' : m.who}: ${m.text}`)]);
		assert.deepEqual(
			threads[0]!.messages.map((m) => m.first.files.length),
			[1, 0, 0, 0, 1, 0]
		);
		assert.equal(one.account()[0]!.lines[0]!.files, 2);
	});
	it('a last one with a single message', async () => {
		const { threads } = await threadsOf({
			'rota/message_1.json': page(
				'Rota',
				lines([ODILE, PIET, TAMSIN, PIET, ODILE]).map((m) => ({ from: m.who, sent: m.at, text: m.text }))
			),
			'rota/message_2.json': page(
				'Rota',
				lines([PIET], 5).map((m) => ({ from: m.who, sent: m.at, text: m.text }))
			)
		});
		assert.deepEqual(said(threads)[0]!.at(-1), 'out: The boiler, 5');
		assert.equal(threads.length, 1);
	});
	it('numbered files of different persons stay apart, also below one and the same heading', async () => {
		const talk = (other: string, from: number): { from: string; sent: number; text: string }[] =>
			lines([other, PIET, other, PIET], from).map((m) => ({ from: m.who, sent: m.at, text: m.text }));
		for (const headed of [(messages: unknown) => messages, (messages: unknown) => ({ made: 'by Wickerdesk', account: 'piet', messages })]) {
			const files = {
				'chats/chat_1.json': JSON.stringify(headed(talk(ODILE, 0))),
				'chats/chat_2.json': JSON.stringify(headed(talk(TAMSIN, 10)))
			};
			assert.equal((await threadsOf(files)).threads.length, 2);
		}
	});
});

describe('days of records', () => {
	it('of each folder are one conversation, also with a message a day; who writes stands in a list above', async () => {
		const day = (who: string[], i: number): string =>
			JSON.stringify(
				who.map((user, k) => ({
					type: 'message',
					user,
					text: `The boiler, ${i}.${k}`,
					ts: `${(at(i * 1440) + k * 60_000) / 1000}.000${k}`
				}))
			);
		const { threads } = await threadsOf({
			'export/users.json': JSON.stringify(
				[ODILE, PIET, TAMSIN].map((name, i) => ({ id: `U${i}04`, name: name.split(' ')[0]!.toLowerCase(), real_name: name }))
			),
			'export/rooms.json': JSON.stringify([
				{ id: 'C1', name: 'heat charges', members: ['U004', 'U104', 'U204'] },
				{ id: 'C2', name: 'rota', members: ['U104', 'U204'] }
			]),
			'export/heat charges/2025-01-14.json': day(['U004', 'U104', 'U204'], 0),
			'export/heat charges/2025-01-15.json': day(['U104'], 1),
			'export/rota/2025-01-14.json': day(['U204', 'U104', 'U204'], 2)
		});
		assert.deepEqual(said(threads), [
			[`${ODILE}: The boiler, 0.0`, 'out: The boiler, 0.1', `${TAMSIN}: The boiler, 0.2`, 'out: The boiler, 1.0'],
			[`${TAMSIN}: The boiler, 2.0`, 'out: The boiler, 2.1', `${TAMSIN}: The boiler, 2.2`]
		]);
	});
	it('pages of a day each, headed by whom they are with', async () => {
		const page = (d: string, rows: string[][]): string =>
			`<html><head><title>Conversation with ${ODILE} on ${d}</title></head><body><h3>Conversation with ${ODILE} on ${d}</h3>\n${rows
				.map(([time, who, text]) => `<font size="2">(${time})</font> <b>${who}:</b> ${text}<br/>`)
				.join('\n')}\n</body></html>`;
		const { threads } = await threadsOf({
			'logs/odile.marchetti/2025-01-14.html': page('2025-01-14', [
				['10:01:00', ODILE, 'The boiler'],
				['10:02:00', PIET, 'is off'],
				['10:03:00', PIET, 'again']
			]),
			'logs/odile.marchetti/2025-01-15.html': page('2025-01-15', [['09:00:30', PIET, 'Still off']])
		});
		assert.deepEqual(said(threads), [[`${ODILE}: The boiler`, 'out: is off', 'out: again', 'out: Still off']]);
		assert.equal(new Date(threads[0]!.messages.at(-1)!.first.sentAt!).toISOString(), '2025-01-15T09:00:30.000Z');
	});
});

describe('marked-up text', () => {
	it('under headings of days, names and times each marked', async () => {
		const talk = ['# Laundry rota', '', '## Tuesday, 14 January 2025', ''];
		const texts = ['The boiler is off', 'again at 10:30', '**Really** off\nsince noon', 'I come *at once*'];
		for (const [i, text] of texts.entries()) talk.push(`**${i % 2 === 0 ? ODILE : PIET}** *10:0${i}*`, '', text, '');
		const { threads } = await threadsOf({ 'rota.md': talk.join('\n') });
		assert.deepEqual(said(threads), [
			[`${ODILE}: The boiler is off`, 'out: again at 10:30', `${ODILE}: Really off\nsince noon`, 'out: I come *at once*']
		]);
	});
});

describe('lists beside the messages', () => {
	it('of persons, conversations and members, in columns', async () => {
		const who = [ODILE, PIET, PIET, ODILE, ODILE, PIET, TAMSIN, PIET, PIET, TAMSIN];
		const people = [PIET, ODILE, TAMSIN];
		const rows = lines(who).map((m, i) => [i, i < 6 ? 41 : 42, 7 + people.indexOf(m.who), m.at, `"${m.text}"`]);
		const { threads } = await threadsOf({
			'dump/messages.csv': [['id', 'chat_id', 'author_id', 'sent_at', 'body'], ...rows].map((r) => r.join(',')).join('\n'),
			'dump/people.csv': `id,name,phone\n7,${PIET},+447700900100\n8,${ODILE},+447700900107\n9,${TAMSIN},+447700900114`,
			'dump/members.csv': 'chat_id,person_id\n41,7\n41,8\n42,7\n42,9'
		});
		const line = (w: string, i: number): string => `${w === PIET ? 'out' : w}: The boiler, ${i}`;
		assert.deepEqual(said(threads), [who.map(line).slice(0, 6), who.map(line).slice(6)]);
	});
	it('a file of several lists is one file of the account', async () => {
		const rows = lines([ODILE, PIET, TAMSIN, PIET, ODILE, PIET, TAMSIN, PIET]);
		const key: Record<string, string> = { [ODILE]: 'u4401', [PIET]: 'u2525', [TAMSIN]: 'u9102' };
		const { one, threads } = await threadsOf({
			'out/messages.json': JSON.stringify(rows.map((m) => ({ author: key[m.who], sent: m.at, body: m.text }))),
			'out/lists.json': JSON.stringify({
				people: Object.entries(key).map(([name, id]) => ({ id, name })),
				devices: Object.values(key).map((user) => ({ user, model: `Fennel ${user}` }))
			})
		});
		assert.equal(said(threads)[0]![0], `${ODILE}: The boiler, 0`);
		assert.equal(one.account()[0]!.lines[0]!.files, 2);
	});
});

describe('the tables of a database', () => {
	const round = [ODILE, PIET, TAMSIN, ODILE, PIET, TAMSIN, PIET, ODILE, PIET, TAMSIN, PIET, ODILE];
	const who = [...round, ...round, ...round];
	const people = [PIET, ODILE, TAMSIN];
	const room = (i: number): number => (who[i] === PIET ? (who[i - 1] === TAMSIN ? 42 : 41) : who[i] === TAMSIN ? 42 : 41);
	const tables: Record<string, Record<string, string | number | null>[]> = {
		Msgs: who.map((w, i) => ({
			MsgID: i + 1,
			Author: people.indexOf(w) + 1,
			Content: i === 3 ? null : `The boiler, ${i}`,
			Stamp: at(i),
			status: 2
		})),
		Threads: [41, 42].map((n) => ({ id: n, title: null, last: null })),
		Threads_Msgs: who.map((_, i) => ({ c: room(i), m: i + 1 })),
		Threads_member: [41, 42].flatMap((c) => [1, c - 39].map((p) => ({ c, p }))),
		People: people.map((name, i) => ({ id: i + 1, DisplayName: name, Phone: `+4477009001${i}7` })),
		attach: [{ id: 1, name: 'meter.png', mime: 'image/png', size: 345, path: 'files/meter.png' }],
		msg_attach: [{ msg: 4, attach: 1 }],
		reaction: [5, 6, 9, 10].map((msg, i) => ({ id: i + 1, msg, who: (i % 2) + 1, emoji: '👍', at: at(msg + 1) }))
	};
	const line = (w: string, i: number): string => `${w === PIET ? 'out' : w}: ${i === 3 ? null : `The boiler, ${i}`}`;
	const expected = [41, 42].map((r) =>
		who
			.map((w, i) => [r, line(w, i)] as const)
			.filter((_, i) => room(i) === r)
			.map(([, l]) => l)
	);
	const csv = (rows: Record<string, unknown>[]): string =>
		[Object.keys(rows[0]!), ...rows.map((r) => Object.values(r).map((v) => JSON.stringify(v ?? '')))].map((r) => r.join(',')).join('\n');
	const xml = (rows: Record<string, unknown>[]): string =>
		rows
			.map(
				(r) =>
					`<row ${Object.entries(r)
						.flatMap(([k, v]) => (v === null ? [] : [`${k}="${v}"`]))
						.join(' ')}/>`
			)
			.join('');
	const forms: Record<string, Record<string, string>> = {
		'in one file of JSON': { 'dump/export.json': JSON.stringify(tables) },
		'in files of JSON': Object.fromEntries(Object.entries(tables).map(([name, rows]) => [`dump/${name}.json`, JSON.stringify(rows)])),
		'in columns': Object.fromEntries(Object.entries(tables).map(([name, rows]) => [`dump/${name}.csv`, csv(rows)])),
		'in XML': {
			'dump/export.xml': `<?xml version="1.0"?><export>${Object.entries(tables)
				.map(([name, rows]) => `<${name}>${xml(rows)}</${name}>`)
				.join('')}</export>`
		}
	};
	for (const [form, files] of Object.entries(forms))
		it(form, async () => {
			const { threads } = await threadsOf(files);
			assert.deepEqual(said(threads), expected);
			assert.deepEqual(
				threads.flatMap((t) => t.messages.flatMap((m) => m.first.files.map((f) => f.name))),
				['meter.png']
			);
		});
});

describe('a file for each message', () => {
	const card = (number: string): string => `BEGIN:VCARD\nVERSION:2.1\nN:\nTEL:${number}\nEND:VCARD\n`;
	const vmessage = (i: number, out: boolean, text: string): string =>
		`BEGIN:VMSG\nVERSION:1.1\nX-IRMC-BOX:${out ? 'SENT' : 'INBOX'}\n${card(out ? '' : '+447700900107')}BEGIN:VENV\n${out ? `${card('+447700900107')}BEGIN:VENV\n` : ''}` +
		`BEGIN:VBODY\nDate:14-01-2025 10:0${i}:00\nTEXT;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:${text}\nEND:VBODY\nEND:VENV\nEND:VMSG\n`;
	const texts = [vmessage(1, false, 'The boiler =C3=A9tait'), vmessage(2, true, 'is =\noff'), vmessage(3, false, 'again')];
	const expected = [['+447700900107: The boiler était', 'out: is off', '+447700900107: again']];
	it('is one conversation with the others of its folder', async () => {
		const files = Object.fromEntries(texts.map((text, i) => [`texts/000${i}.vmg`, text]));
		assert.deepEqual(said((await threadsOf(files)).threads), expected);
	});
	it('as well as all in one file', async () => {
		assert.deepEqual(said((await threadsOf({ 'texts.vmsg': texts.join('') })).threads), expected);
	});
	it('of JSON, each with its place', async () => {
		const files = Object.fromEntries(
			lines([ODILE, PIET, ODILE]).map((m, i) => [
				`out/m${i}.json`,
				JSON.stringify({ from: m.who, sent: new Date(m.at).toISOString(), text: m.text })
			])
		);
		const { threads } = await threadsOf(files);
		assert.deepEqual(said(threads), [[`${ODILE}: The boiler, 0`, 'out: The boiler, 1', `${ODILE}: The boiler, 2`]]);
		assert.deepEqual(new Set(threads[0]!.messages.flatMap((m) => m.sightings.map((s) => s.file))).size, 3);
	});
	it('of JSON, in a folder for each conversation, is one store with those beside, also of one message or a file alone', async () => {
		const talk = (who: string): string => `c-${who.slice(0, 3).toLowerCase()}4f01`;
		const entry = (i: number, who: string, writer: string, more: object = { body: `The boiler, ${i}` }): [string, string] => [
			// Digits of a key can be written as a day's would.
			`store/talks/${talk(who)}/${at(i)}-192020${10 + i}.json`,
			JSON.stringify({ id: `m-${i}`, conversation: talk(who), author: writer, created: new Date(at(i)).toISOString(), ...more })
		];
		const file = { body: null, attachments: [{ file: 'files/1.png', contentType: 'image/png', size: 12 }] };
		const { one, threads } = await threadsOf(
			Object.fromEntries([
				entry(0, ODILE, ODILE),
				entry(1, ODILE, PIET),
				entry(2, ODILE, ODILE, file),
				entry(3, ODILE, PIET),
				entry(4, TAMSIN, TAMSIN),
				['store/account.json', '{"me":"nobody","theme":"dark"}']
			])
		);
		assert.equal(one.findings().stores.length, 1);
		assert.deepEqual(said(threads), [
			[`${ODILE}: The boiler, 0`, 'out: The boiler, 1', `${ODILE}: null`, 'out: The boiler, 3'],
			[`${TAMSIN}: The boiler, 4`]
		]);
	});
	it('of JSON, in folders that say whom each conversation is with, beside settings that say whose it is', async () => {
		const rooms = [
			{ folder: 'c-7c1e8a52', title: null, members: ['odile', 'piet'], writers: ['odile', 'odile', 'piet'] },
			{ folder: 'c-90ab3f17', title: 'Stairwell B', members: ['odile', 'piet', 'tamsin'], writers: ['tamsin', 'odile', 'tamsin', 'odile'] },
			{ folder: 'c-d4420c6e', title: null, members: ['tamsin', 'piet'], writers: ['piet', 'piet'] }
		];
		const files: Record<string, string> = {
			'store/account.json': '{"me":"piet"}',
			'store/contacts.json': JSON.stringify([
				{ key: 'odile', name: ODILE, number: '+447700900111' },
				{ key: 'piet', name: PIET, number: '+447700900222' },
				{ key: 'tamsin', name: TAMSIN, number: '+447700900333' }
			])
		};
		let i = 0;
		for (const { folder, title, members, writers } of rooms) {
			files[`store/talks/${folder}/info.json`] = JSON.stringify({ title, members });
			for (const author of writers) {
				files[`store/talks/${folder}/${at(i)}-192020${10 + i}.json`] = JSON.stringify({
					id: `m-${i}`,
					author,
					created: new Date(at(i)).toISOString(),
					body: `The boiler, ${i++}`
				});
			}
		}
		const { threads } = await threadsOf(files);
		assert.deepEqual(
			threads.toReversed().map((t) => [t.title, t.messages.map((m) => `${m.first.direction} ${m.first.text}`)]),
			[
				[ODILE, ['in The boiler, 0', 'in The boiler, 1', 'out The boiler, 2']],
				['Stairwell B', ['in The boiler, 3', 'in The boiler, 4', 'in The boiler, 5', 'in The boiler, 6']],
				[TAMSIN, ['out The boiler, 7', 'out The boiler, 8']]
			]
		);
	});
	it('of JSON, in copies of one folder beside each other, is found once', async () => {
		const copy = (of: string, count: number): Record<string, string> =>
			Object.fromEntries(
				lines(Array.from({ length: count }, (_, i) => (i % 2 ? PIET : ODILE))).map((m, i) => [
					`copies/${of}/m${i}.json`,
					JSON.stringify({ id: `m-${i}`, from: m.who, sent: new Date(m.at).toISOString(), text: m.text })
				])
			);
		const { threads } = await threadsOf({ ...copy('first', 6), ...copy('second', 9) });
		const messages = threads.flatMap((t) => t.messages);
		assert.deepEqual(
			messages.map((m) => m.first.text).sort(),
			Array.from({ length: 9 }, (_, i) => `The boiler, ${i}`)
		);
	});
	it('settings of a program are none', async () => {
		const { threads } = await threadsOf({
			'conf/a.json': '{"name":"Odile","theme":"dark sea","updated":"2025-01-14T10:00:00Z","size":3}',
			'conf/b.json': '{"name":"Piet","theme":"light sea","updated":"2025-01-14T11:00:00Z","size":4}'
		});
		assert.deepEqual(threads, []);
	});
});
