/** Exports in which who wrote is said otherwise than by a name before each text: by a way, in a column, by where a message stands. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import type { Woven } from '../../src/core/weave';

const ODILE = 'Odile Marchetti';
const BRAM = 'Bram Vesterholt';
const WEN = 'Li Wen';
const OWNER = 'Piet Hallorann';

function look(files: Record<string, string>, owner: string | null = null): Woven[] {
	const given = Object.entries(files).map(([path, content]) => ({
		name: path.slice(path.lastIndexOf('/') + 1),
		path,
		source: new MemorySource(new TextEncoder().encode(content))
	}));
	const one = new Look(given, { reach: 'raw', owner });
	for (const event of one.run()) void event;
	return one.findings().weave.threads.flatMap((t) => t.messages);
}

const inOrder = (messages: readonly Woven[]): Woven[] => [...messages].sort((a, b) => a.first.sentAt! - b.first.sentAt!);
/** Way, other side and text of each, in order of time. */
const told = (messages: readonly Woven[]): unknown[][] =>
	inOrder(messages).map(({ first }) => [first.direction, first.correspondent?.name ?? first.correspondent?.address ?? null, first.text]);
const stamp = (minute: number): string => `2025-01-14 10:${String(minute).padStart(2, '0')}:00`;

describe('a way instead of a writer', () => {
	it('in words, of several other sides in one file: a thread for each', () => {
		const lines = [
			['Sent to', ODILE],
			['Received from', ODILE],
			['Received from', BRAM],
			['Sent to', BRAM],
			['Received from', ODILE]
		].map(([way, who], i) => `${way} ${who} ${stamp(i)}\nThe boiler, ${i}\nand more\n\n`);
		const messages = look({ 'talk.txt': lines.join('') });
		assert.deepEqual(
			told(messages),
			[ODILE, ODILE, BRAM, BRAM, ODILE].map((who, i) => [i === 0 || i === 3 ? 'out' : 'in', who, `The boiler, ${i}\nand more`])
		);
		assert.equal(new Set(messages.map((m) => m.thread)).size, 2);
	});
	it('by an arrow, in a group: who wrote stands behind it, and the group behind the owner’s', () => {
		const ways = [`→ House 9`, `← ${ODILE}`, `← ${BRAM}`, `→ House 9`, `← ${WEN}`, `← ${ODILE}`];
		const messages = look({ 'talk.txt': ways.map((w, i) => `${stamp(i)} ${w}\nThe boiler, ${i}\n\n`).join('') });
		assert.deepEqual(
			told(messages),
			[null, ODILE, BRAM, null, WEN, ODILE].map((who, i) => [who === null ? 'out' : 'in', who, `The boiler, ${i}`])
		);
		assert.equal(new Set(messages.map((m) => m.thread)).size, 1);
	});
	it('by labels of which each message has one: the other side with name and number, also where nobody answered', () => {
		const [odile, bram, wen] = [`${ODILE} (+44 7700 900101)`, '+44 7700 900102', `${WEN} (+44 7700 900103)`];
		const talk = [
			['From', odile],
			['To', odile],
			['From', bram],
			['To', bram],
			['To', wen],
			['From', odile]
		].map(([way, who], i) => `${way}: ${who}\nDate: ${stamp(i)}\nThe boiler, ${i}\nand more\n`);
		const messages = inOrder(look({ 'messages.txt': talk.join('\n') }));
		assert.deepEqual(
			messages.map(({ first: { direction, correspondent, text } }) => [
				direction,
				correspondent?.address,
				correspondent?.name ?? null,
				text
			]),
			[odile, odile, bram, bram, wen, odile].map((who, i) => [
				[1, 3, 4].includes(i) ? 'out' : 'in',
				/\+[\d ]*\d/.exec(who)![0],
				who === odile ? ODILE : who === wen ? WEN : null,
				`The boiler, ${i}\nand more`
			])
		);
		assert.equal(new Set(messages.map((m) => m.thread)).size, 3);
	});
	it('but no initial of a name is a way, nor a weekday', () => {
		const [a, b] = ['Ada S', 'Ben R'];
		const lines = [a, b, a, a, b].map((who, i) => `${who}, ${stamp(i)}\nThe boiler, ${i}\n\n`);
		assert.deepEqual(
			told(look({ 'talk.txt': lines.join('') }, a)).map(([way, who]) => [way, who]),
			[a, b, a, a, b].map((who) => [who === a ? 'out' : 'in', b])
		);
	});
	it('but no end of a name is a weekday where the others’ dates have none', () => {
		for (const [a, b] of [
			['Ada Sun', 'Li To'],
			['Ada May', 'Ben']
		] as const) {
			const who = [a, b, a, 'Bram Vesterholt', b, a, b];
			const lines = who.map((w, i) => `${w}, ${stamp(i)}\nThe boiler, ${i}\n\n`);
			const messages = look({ 'talk.txt': lines.join('') }, 'Bram Vesterholt');
			assert.deepEqual(
				told(messages).map(([, who, text]) => [who, text]),
				who.map((w, i) => [w === 'Bram Vesterholt' ? null : w, `The boiler, ${i}`])
			);
		}
	});
	it('with a writer before or above each text, of a short talk of several: those who come back are persons', () => {
		const who = ['Bram Vesterholt', 'Łucja', 'Ada', 'Þóra', 'Łucja', 'Ada'];
		for (const line of [
			(w: string, i: number) => `${stamp(i)} - ${w}: The boiler, ${i}\n`,
			(w: string, i: number) => `${w}  ${stamp(i)}\nThe boiler, ${i}\n\n`
		]) {
			const messages = look({ 'talk.txt': who.map(line).join('') }, 'Bram Vesterholt');
			assert.deepEqual(
				told(messages).map(([, name]) => name),
				who.map((w, i) => (i === 0 ? null : w))
			);
		}
	});
	it('by the class of a page’s parts, whose words stand side by side without a blank', () => {
		const page = [0, 1, 2, 3, 4, 5]
			.map((i) =>
				i % 2
					? `<div class="them"><p>The boiler, ${i}</p><small>2025/01/14 10h3${i}</small><b>${ODILE}</b></div>`
					: `<div class="me"><p>The boiler, ${i}</p><small>2025/01/14 10h3${i}</small></div>`
			)
			.join('\n');
		const messages = look({ 'talk.html': `<html><head><title>${ODILE}</title></head><body>${page}</body></html>` }, OWNER);
		assert.deepEqual(
			told(messages),
			[0, 1, 2, 3, 4, 5].map((i) => [i % 2 ? 'in' : 'out', ODILE, `The boiler, ${i}`])
		);
		assert.ok(
			messages.every((m) => m.first.files.length === 0),
			'a time with a stroke in it is no path'
		);
	});
});

describe('persons in columns', () => {
	const table = (head: string, rows: readonly string[][]): string => [head, ...rows.map((r) => r.join(';'))].join('\n');

	it('who stands in every row as the one written to is a group, where the file is called after it', () => {
		const writers = ['me', ODILE, BRAM, WEN, 'me', ODILE, BRAM, 'me'];
		const rows = writers.map((w, i) => [stamp(i), w, 'House 9', `The boiler, ${i}`]);
		const messages = look({ 'House 9.csv': table('Date;From;To;Text', rows) }, OWNER);
		assert.deepEqual(
			told(messages),
			writers.map((w, i) => [w === 'me' ? 'out' : 'in', w === 'me' ? null : w, `The boiler, ${i}`])
		);
		assert.equal(new Set(messages.map((m) => m.thread)).size, 1);
	});
	it('but the owner, where many wrote to him', () => {
		const writers = [ODILE, BRAM, WEN, ODILE, BRAM, ODILE];
		const rows = writers.map((w, i) => [stamp(i), w, OWNER, `The boiler, ${i}`]);
		const messages = look({ 'messages.csv': table('Date;From;To;Text', rows) }, OWNER);
		assert.deepEqual(
			told(messages),
			writers.map((w, i) => ['in', w, `The boiler, ${i}`])
		);
	});
	it('of two numbers a word for the way says which is the owner’s', () => {
		const [own, other] = ['+447700900199', '+33639980417'];
		const rows = [0, 1, 2, 3, 4, 5].map((i) => [
			i % 3 === 0 ? 'envoyé' : 'reçu',
			stamp(i),
			i % 3 === 0 ? other : own,
			`The boiler, ${i}`,
			i % 3 === 0 ? own : other
		]);
		const messages = look({ 'messages.csv': table('Sens;Date;Destinataire;Message;Expéditeur', rows) });
		assert.deepEqual(
			told(messages),
			rows.map((r, i) => [i % 3 === 0 ? 'out' : 'in', other, r[3]])
		);
	});
	it('no word for the way is a person', () => {
		const rows = [0, 1, 2, 3, 4, 5].map((i) => [`The boiler, ${i}`, ODILE, i % 2 ? 'Incoming' : 'Outgoing', stamp(i)]);
		assert.deepEqual(
			told(look({ 'messages.csv': table('Nachricht;Contact;Richtung;Datum', rows) })),
			rows.map((r, i) => [i % 2 ? 'in' : 'out', ODILE, r[0]])
		);
	});
	it('hardly one comes back in a short talk of many', () => {
		const writers = [OWNER, ODILE, BRAM, WEN, 'Tamsin Okafor', ODILE, 'Ada Renn', OWNER];
		const list = writers.map((w, i) => ({ date: `${stamp(i).replace(' ', 'T')}Z`, sender_name: w, content: `The boiler, ${i}` }));
		assert.deepEqual(
			told(look({ 'House 9.json': JSON.stringify(list) }, OWNER)).map(([way, who]) => [way, who]),
			writers.map((w) => (w === OWNER ? ['out', null] : ['in', w]))
		);
	});
	it('whom one program calls "me" is called otherwise by another: its messages are not all received', () => {
		const own = [0, 1, 2, 3].map((i) => [stamp(i), i % 2 ? ODILE : 'me', `The boiler, ${i}`]);
		const other = [OWNER, BRAM, WEN, OWNER, BRAM, WEN].map((w, i) => ({ at: `${stamp(i + 10)}Z`, by: w, words: `The lift, ${i}` }));
		const ways = (files: Record<string, string>): Set<string | null> =>
			new Set(
				look(files)
					.filter((m) => m.first.text!.startsWith('The lift'))
					.map((m) => m.first.direction)
			);
		const talk = table('Date;From;Text', own);
		assert.deepEqual(ways({ 'a.csv': talk, 'b.json': JSON.stringify(other) }), new Set([null]));
		// Another file of the same program: he did not write in it.
		const same = [BRAM, WEN, BRAM, WEN].map((w, i) => [stamp(i + 10), w, `The lift, ${i}`]);
		assert.deepEqual(ways({ 'a.csv': talk, 'b.csv': table('Date;From;Text', same) }), new Set(['in']));
	});
});

describe('several conversations in one file', () => {
	const people = [ODILE, BRAM, WEN];
	/** What the owner and each of the three wrote. */
	const said = people.flatMap((who, p) =>
		[0, 1, 2, 3, 4, 5].map((i) => ({ who, by: i % 2 ? who : OWNER, at: p * 10 + i, text: `The boiler, ${p}${i}` }))
	);
	const check = (files: Record<string, string>): void => {
		const messages = look(files, OWNER);
		assert.deepEqual(
			told(messages),
			said.map((s) => [s.by === OWNER ? 'out' : 'in', s.who, s.text])
		);
		assert.equal(new Set(messages.map((m) => m.thread)).size, 3);
	};

	it('under headings, with lines drawn around them', () => {
		const parts = people.map((who) => {
			const lines = said.filter((s) => s.who === who).map((s) => `[${stamp(s.at)}] ${s.by}: ${s.text}\n`);
			return `${'='.repeat(30)}\nConversation with ${who}\n${'='.repeat(30)}\n\n${lines.join('')}\n`;
		});
		check({ 'archive.txt': parts.join('') });
	});
	it('but not those of days and of weeks', () => {
		for (const heading of [(p: number) => `January ${14 + p}, 2025`, (p: number) => `Week ${14 + p}`]) {
			const lines = said.map(
				(s, i) => `${i % 6 ? '' : `\n${heading(i / 6)}\n\n`}[${stamp(s.at)}] ${s.by === OWNER ? OWNER : ODILE}: ${s.text}\n`
			);
			assert.equal(new Set(look({ 'archive.txt': lines.join('') }, OWNER).map((m) => m.thread)).size, 1);
		}
	});
	it('as numbers of the other side, sent and received by a number', () => {
		const number = (who: string): string => `+33639980${people.indexOf(who)}17`;
		const at = (s: (typeof said)[number]): number => Date.UTC(2025, 0, 14, 10, s.at);
		const rows = said.map(
			(s) =>
				`<text address="${number(s.who)}" date="${at(s)}" type="${s.by === OWNER ? 2 : 1}" body="${s.text}" read="1" readable_date="${new Date(at(s)).toUTCString()}" contact_name="${s.who}"/>`
		);
		check({ 'archive.xml': `<?xml version="1.0"?>\n<texts count="18">\n${rows.join('\n')}\n</texts>` });
	});
	it('of parts with a kind instead of a media type; a message with a kind is no part', () => {
		const iso = (s: (typeof said)[number]): string => `${stamp(s.at).replace(' ', 'T')}Z`;
		const of = (who: string): typeof said => said.filter((s) => s.who === who);
		check({
			'archive.json': JSON.stringify({
				conversations: people.map((who) => ({
					title: who,
					messages: of(who).map((s) => ({ time: iso(s), author: s.by, content: [{ kind: 'text', value: s.text }] }))
				}))
			})
		});
		check({
			'archive.json': JSON.stringify({
				chats: people.map((who, i) => ({
					id: i + 70,
					name: who,
					messages: of(who).map((s, k) => ({ id: k, type: 'text', date: iso(s), from: s.by, text: s.text }))
				}))
			})
		});
	});
	it('with keys of persons, who are listed; conversations without a title', () => {
		const key = (who: string): string => `user${people.indexOf(who) + 731_002}`;
		check({
			'archive.json': JSON.stringify({
				people: [OWNER, ...people].map((p) => ({ id: key(p), displayName: p })),
				threads: people.map((who, i) => ({
					threadId: `t${i}`,
					subject: null,
					messages: said.filter((s) => s.who === who).map((s) => ({ authorId: key(s.by), when: stamp(s.at), text: s.text }))
				}))
			})
		});
	});
	it('in columns, behind a line that says what divides them, or lines that say whose they are', () => {
		const table = ['When;Conversation;Sender;Message', ...said.map((s) => `${stamp(s.at)};${s.who};${s.by};${s.text}`)].join('\r\n');
		check({ 'archive.csv': `sep=;\r\n${table}` });
		check({ 'archive.csv': `Messages of ${OWNER}\r\nExported today\r\n\r\n${table}` });
	});
	it('a writer within its message has the name that stands in it, be it in a room', () => {
		const list = [ODILE, BRAM, OWNER, ODILE, WEN, BRAM].map((w, i) => ({
			conversation: { id: 1, title: 'House 9' },
			sender: { id: `user${[ODILE, BRAM, WEN, OWNER].indexOf(w) + 731_002}`, name: w },
			sentAt: `${stamp(i).replace(' ', 'T')}Z`,
			isOutgoing: w === OWNER,
			body: `The boiler, ${i}`
		}));
		assert.deepEqual(
			told(look({ 'archive.json': JSON.stringify(list) }, OWNER)).map(([way, who]) => [way, who]),
			[ODILE, BRAM, OWNER, ODILE, WEN, BRAM].map((w) => (w === OWNER ? ['out', null] : ['in', w]))
		);
	});
});

it('a short name before a stamp is one where others have names like it', () => {
	const writers = ['Wen', ODILE, 'Wen', 'Wen', ODILE];
	const messages = look({ 'talk.txt': writers.map((w, i) => `${w} ${stamp(i)}\nThe boiler, ${i}\n\n`).join('') }, 'Wen');
	assert.deepEqual(
		told(messages),
		writers.map((w, i) => [w === 'Wen' ? 'out' : 'in', ODILE, `The boiler, ${i}`])
	);
});

describe('files of several words', () => {
	const names = ['PIC 20250114 8301.png', 'Rent statement 596.pdf', 'PIC 20250114 8302.png'];
	const phrases: Record<string, (name: string) => string> = {
		'behind the name': (n) => `${n} (file attached)`,
		'in brackets with a word': (n) => `(attachment ${n})`,
		'in brackets': (n) => `[${n}]`,
		'behind a sign': (n) => `📎 ${n}`,
		'a path': (n) => `media/${n}`,
		'the name alone': (n) => n
	};
	const talk = (phrase: (name: string) => string): string =>
		names.map((n, i) => `${stamp(i * 2)} - ${ODILE}: ${phrase(n)}\n${stamp(i * 2 + 1)} - ${OWNER}: I saw it, ${i}\n`).join('');
	const filesOf = (messages: readonly Woven[]): (string | null)[] => inOrder(messages).flatMap((m) => m.first.files.map((f) => f.name));
	for (const [how, phrase] of Object.entries(phrases)) {
		it(`${how}, in a folder below`, () => {
			const beside = Object.fromEntries(names.map((n) => [`talk/media/${n}`, n]));
			const messages = look({ 'talk/chat.txt': talk(phrase), ...beside }, OWNER);
			assert.deepEqual(filesOf(messages), names);
			assert.deepEqual(
				inOrder(messages).map((m) => m.first.text),
				names.flatMap((_, i) => [null, `I saw it, ${i}`])
			);
		});
		// By a sign or a path alone nothing says where a name that nobody has begins.
		if (['behind the name', 'in brackets with a word', 'in brackets'].includes(how))
			it(`${how}, that are not there`, () => assert.deepEqual(filesOf(look({ 'talk/chat.txt': talk(phrase) }, OWNER)), names));
	}
	it('a picture within a line of a page is its message’s', () => {
		const page = names
			.map(
				(n, i) =>
					`<div class="msg"><span class="time">10:0${i}</span> <b>${ODILE}</b>: <span><img src="media/${encodeURIComponent(n)}" alt=""></span></div><div class="msg"><span class="time">10:1${i}</span> <b>${OWNER}</b>: <span>I saw it, ${i}</span></div>`
			)
			.join('');
		const beside = Object.fromEntries(names.map((n) => [`talk/media/${n}`, n]));
		const messages = look({ 'talk/chat.html': `<html><body><h3>14 January 2025</h3>${page}</body></html>`, ...beside }, OWNER);
		assert.deepEqual(filesOf(messages), names);
		assert.deepEqual(
			messages.filter((m) => m.first.files.length > 0).map((m) => m.first.text),
			[null, null, null]
		);
	});
});
