/** Records whose shape is not that of a list of messages with a text each: runs of text, maps, tables, events, wrappers, stanzas, property lists. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { plainMessage, type Weave } from '../../src/core/weave';
import { lookAt } from '../vectors/look-at';

const ODILE = 'Odile Marchetti';
const PIET = 'Piet Hallorann';
const TAMSIN = 'Tamsin Okafor';
const NUMBER: Record<string, string> = { [PIET]: '+447700900100', [ODILE]: '+447700900107', [TAMSIN]: '+447700900114' };
const KEY: Record<string, string> = { [PIET]: 'u4401', [ODILE]: 'u2525', [TAMSIN]: 'u9102' };

const threadsOf = async (name: string, content: string | Uint8Array, owner: string | null = PIET): Promise<Weave['threads']> =>
	(await lookAt({ [name]: content }, owner)).findings().weave.threads;

/** Of each thread what was said, in order; the writer of what was received, to whom what was sent to one. */
const said = (threads: Weave['threads']): string[][] =>
	threads
		.map((t) =>
			t.messages.map(({ first: m }) => {
				const who = m.correspondent?.name ?? m.correspondent?.address ?? '';
				return `${m.direction === 'out' ? `to ${t.group ? 'all' : who}` : who}: ${m.text}`;
			})
		)
		.sort((a, b) => (a[0]! < b[0]! ? -1 : 1));

interface Said {
	n: number;
	/** The other of two, or the name of a group. */
	room: string;
	who: string;
	at: number;
	text: string;
}
const GROUP = 'Laundry rota';
const TALK: Said[] = [ODILE, GROUP, TAMSIN, ODILE, GROUP, TAMSIN, GROUP, ODILE].flatMap((room, i) =>
	[0, 1].map((k) => {
		const other = room === GROUP ? (i % 4 === 0 ? ODILE : TAMSIN) : room;
		const n = i * 2 + k;
		return { n, room, who: k === 0 ? other : PIET, at: Date.UTC(2025, 0, 14, 10, n), text: `The boiler is off again, ${n}` };
	})
);
const membersOf = (room: string): string[] => (room === GROUP ? [ODILE, TAMSIN, PIET] : [room, PIET]);
const ROOMS = [ODILE, TAMSIN, GROUP];
/** What must come of it; `called`: how somebody is named where no name is known. */
const expected = (called: (name: string) => string = (name) => name): string[][] =>
	ROOMS.map((room) =>
		TALK.filter((m) => m.room === room).map(
			(m) => `${m.who === PIET ? `to ${room === GROUP ? 'all' : called(room)}` : called(m.who)}: ${m.text}`
		)
	).sort((a, b) => (a[0]! < b[0]! ? -1 : 1));

describe('JSON', () => {
	it('texts in runs, where others are plain', async () => {
		const messages = TALK.filter((m) => m.room === ODILE).map((m, i) => ({
			id: m.n,
			date: new Date(m.at).toISOString(),
			from: m.who,
			text: [
				m.text,
				[m.text],
				[
					{ type: 'bold', text: 'The boiler' },
					{ type: 'plain', text: m.text.slice(10) }
				],
				['The ', { type: 'link', text: 'boiler' }, m.text.slice(10)]
			][i % 4]
		}));
		const threads = await threadsOf('result.json', JSON.stringify({ name: ODILE, messages }));
		assert.deepEqual(
			threads[0]!.messages.map((m) => m.first.text),
			TALK.filter((m) => m.room === ODILE).map((m) => m.text)
		);
	});
	it('maps of persons, rooms and messages by key', async () => {
		const users = Object.fromEntries(Object.entries(KEY).map(([name, key]) => [key, { displayName: name, phone: NUMBER[name] }]));
		const rooms = Object.fromEntries(
			ROOMS.map((r, i) => [4712 + i, { title: r === GROUP ? r : null, members: membersOf(r).map((m) => KEY[m]) }])
		);
		const messages = Object.fromEntries(
			TALK.map((m) => [
				`m${String(m.n).padStart(5, '0')}`,
				{ room: String(4712 + ROOMS.indexOf(m.room)), author: KEY[m.who], createdAt: m.at, body: m.text }
			])
		);
		assert.deepEqual(
			said(await threadsOf('backup.json', JSON.stringify({ version: 4, account: KEY[PIET], users, rooms, messages }))),
			expected()
		);
	});
	it('tables with their columns beside them', async () => {
		const tables = [
			{ name: 'people', columns: ['id', 'name', 'phone'], rows: Object.keys(KEY).map((n) => [KEY[n], n, NUMBER[n]]) },
			{
				name: 'messages',
				columns: ['id', 'conversation', 'author', 'sent', 'body'],
				rows: TALK.map((m) => [m.n, 4330001 + ROOMS.indexOf(m.room), KEY[m.who], m.at, m.text])
			},
			{
				name: 'members',
				columns: ['conversation', 'person'],
				rows: ROOMS.flatMap((r, i) => membersOf(r).map((m) => [4330001 + i, KEY[m]]))
			}
		];
		assert.deepEqual(said(await threadsOf('tables.json', JSON.stringify({ tables }))), expected());
	});
	it('events of several kinds, of persons known by handles, whose names those who joined state', async () => {
		const handle = (name: string): string => `@${name.toLowerCase().replace(' ', '.')}:marrow.example`;
		const rooms = ROOMS.map((room) => ({
			room_id: `!${ROOMS.indexOf(room)}x:marrow.example`,
			messages: [
				...(room === GROUP ? [{ type: 'room.name', sender: handle(PIET), content: { name: GROUP }, origin_ts: TALK[0]!.at - 9000 }] : []),
				...membersOf(room).map((name) => ({
					type: 'room.member',
					state_key: handle(name),
					sender: handle(name),
					content: { membership: 'join', displayname: name },
					origin_ts: TALK[0]!.at - 8000
				})),
				...TALK.filter((m) => m.room === room).map((m) => ({
					type: 'room.message',
					sender: handle(m.who),
					content: { msgtype: 'text', body: m.text },
					origin_ts: m.at
				}))
			]
		}));
		const threads = await threadsOf('export.json', JSON.stringify({ user: handle(PIET), rooms }), null);
		assert.deepEqual(said(threads), expected());
	});
	it('the same under one name where it was received, and under another where it was sent', async () => {
		const envelope = (m: Said): unknown => {
			const group = m.room === GROUP ? { groupInfo: { groupId: 'Z3JvdXA=', name: GROUP } } : {};
			const words = { timestamp: m.at, message: m.text, ...group };
			const wrapped =
				m.who === PIET
					? { syncMessage: { sentMessage: { destination: m.room === GROUP ? null : NUMBER[m.room], ...words } } }
					: { dataMessage: words };
			return { envelope: { source: NUMBER[m.who], sourceName: m.who, timestamp: m.at, ...wrapped }, account: NUMBER[PIET] };
		};
		const threads = await threadsOf('received.jsonl', TALK.map((m) => JSON.stringify(envelope(m))).join('\n'), NUMBER[PIET]!);
		assert.deepEqual(said(threads), expected());
	});
	it('keys of those who write, and names of the others alone', async () => {
		const conversations = ROOMS.slice(0, 2).map((room) => ({
			id: `8:${KEY[room]}`,
			displayName: room,
			list: TALK.filter((m) => m.room === room).map((m) => ({
				displayName: m.who === PIET ? null : m.who,
				arrived: new Date(m.at).toISOString(),
				content: m.text,
				from: `8:${KEY[m.who]}`
			}))
		}));
		const threads = await threadsOf('conversations.json', JSON.stringify({ userId: KEY[PIET], conversations }), null);
		assert.deepEqual(
			said(threads),
			expected().filter((t) => !t[0]!.includes(', 2'))
		);
	});
	it('letters written as two or more each', async () => {
		const garbled = (text: string): string => Buffer.from(text, 'utf8').toString('latin1');
		const texts = ['Café, naïve', 'Straße 👍🏽', 'plain', '“Zoë”'];
		const messages = texts.map((content, i) => ({
			sender_name: garbled(i % 2 === 0 ? 'Zoë Müller' : PIET),
			timestamp_ms: TALK[i]!.at,
			content: garbled(content)
		}));
		const [thread] = await threadsOf('message_1.json', JSON.stringify({ messages }));
		assert.deepEqual(
			thread!.messages.map((m) => m.first.text),
			texts
		);
		assert.equal(thread!.messages[0]!.first.correspondent?.name, 'Zoë Müller');
	});
	it('letters that are meant so stay', async () => {
		const texts = ['Ã© is no letter', 'café', 'plain', 'Ã¯'];
		const messages = texts.map((content, i) => ({ sender_name: i % 2 === 0 ? ODILE : PIET, timestamp_ms: TALK[i]!.at, content }));
		const [thread] = await threadsOf('message_1.json', JSON.stringify({ messages }));
		assert.deepEqual(
			thread!.messages.map((m) => m.first.text),
			texts
		);
	});
	it('handles of two words are no files', async () => {
		const messages = TALK.filter((m) => m.room !== GROUP).map((m) => ({
			From: m.who.toLowerCase().replace(' ', '.').slice(0, -3),
			Created: new Date(m.at).toISOString(),
			Content: m.text,
			IsSender: m.who === PIET,
			message_id: `712/t${m.n}`
		}));
		const threads = await threadsOf('chats.json', JSON.stringify(messages));
		assert.deepEqual(
			threads.flatMap((t) => t.messages.flatMap((m) => m.first.files)),
			[]
		);
	});
});

describe('XML', () => {
	const escape = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;');
	it('texts that are marked up as a page is, with their lines', async () => {
		const text = 'The <i>boiler</i> is off<br/>again &lt;b&gt;';
		const rows = [ODILE, PIET, ODILE, PIET].map(
			(w, k) => `<message sender="${w}" time="2025-01-14T10:0${k}:00Z"><div><span style="font-size: 12pt;">${text}</span></div></message>`
		);
		const [thread] = await threadsOf('log.xml', `<?xml version="1.0"?><chat account="x">${rows.join('')}</chat>`);
		assert.deepEqual(
			thread!.messages.map((m) => m.first.text),
			Array.from({ length: 4 }, () => 'The boiler is off\nagain <b>')
		);
	});
	it('stanzas from somebody to somebody, and to rooms', async () => {
		const address = (name: string): string => `${name.toLowerCase().replace(' ', '.')}@marrow.example`;
		const stanzas = TALK.map((m) => {
			const to = m.room === GROUP ? 'rota@rooms.marrow.example' : m.who === PIET ? address(m.room) : address(PIET);
			return `<result id="r${m.n}"><forwarded xmlns="urn:xmpp:forward:0"><delay xmlns="urn:xmpp:delay" stamp="${new Date(m.at).toISOString()}"/><message from="${address(m.who)}/desk" to="${to}"><body>${escape(m.text)}</body></message></forwarded></result>`;
		});
		const archive = `<?xml version="1.0"?><archive>${stanzas.join('')}</archive>`;
		const one = await lookAt({ 'archive.xml': archive }, address(PIET));
		const { stores, weave } = one.findings();
		assert.deepEqual(said(weave.threads), expected(address));
		const readAs = (text: string): (string | undefined)[] => {
			const woven = weave.threads.flatMap((t) => t.messages).find((m) => m.first.text === text)!;
			const { stored } = plainMessage(woven, stores, one.files, { hex: false, stored: true, media: one.media });
			return [/\.from\b/, /\.to$/].map((name) => stored.find(([column, , read]) => name.test(column) && read)?.[2]);
		};
		assert.deepEqual(readAs(TALK[0]!.text), [`received; writer: ${address(ODILE)}`, 'recipient: the owner']);
		assert.deepEqual(readAs(TALK[1]!.text), ['sent by the owner; writer: the owner', `recipient: ${address(ODILE)}`]);
		assert.deepEqual(readAs(TALK[2]!.text), [`received; writer: ${address(TALK[2]!.who)}`, 'room']);
	});
	it('a property list', async () => {
		const dicts = TALK.filter((m) => m.room !== GROUP).map(
			(m) =>
				`<dict><key>conversation</key><string>${NUMBER[m.room]}</string><key>name</key><string>${m.room}</string><key>outgoing</key><${m.who === PIET}/><key>date</key><date>${new Date(m.at).toISOString().slice(0, 19)}Z</date><key>text</key><string>${escape(m.text)}</string></dict>`
		);
		const list = `<?xml version="1.0"?><!DOCTYPE plist PUBLIC "-//x//DTD PLIST 1.0//EN" "x"><plist version="1.0"><dict><key>version</key><integer>2</integer><key>messages</key><array>${dicts.join('')}</array></dict></plist>`;
		const threads = await threadsOf('messages.plist', list);
		assert.deepEqual(
			said(threads),
			expected().filter((t) => !t[0]!.includes(', 2'))
		);
		const { offset, length } = threads[0]!.messages[0]!.sightings[0]!;
		const place = list.slice(offset, offset + length);
		assert.ok(place.startsWith('<dict>') && place.endsWith('</dict>') && place.includes(threads[0]!.messages[0]!.first.text!), place);
	});
});

describe('YAML', () => {
	const yaml = (messages: readonly Said[]): string =>
		ROOMS.map((room) => {
			const own = messages.filter((m) => m.room === room);
			const lines = own.map(
				(m, i) =>
					`  - id: 0${m.n}\n    at: ${new Date(m.at).toISOString()}\n    from: "${m.who}"\n` +
					(i % 2 ? `    text: |-\n      ${m.text.replaceAll('\n', '\n      ')}\n` : `    text: ${JSON.stringify(m.text)}\n`)
			);
			return `- chat: "${room}"\n  members:\n${membersOf(room)
				.map((m) => `    - "${m}"\n`)
				.join('')}  messages:\n${lines.join('').replaceAll(/^(?=.)/gm, '  ')}`;
		}).join('');

	it('conversations with their messages, texts over several lines', async () => {
		const long = TALK.map((m) => ({ ...m, text: `${m.text}\n\n  - was it: ${m.n}?` }));
		const threads = await threadsOf('export.yaml', yaml(long));
		assert.deepEqual(
			said(threads),
			expected().map((room) => room.map((line) => line.replace(/, (\d+)$/, ', $1\n\n  - was it: $1?')))
		);
	});
	it('each message lies where it was read', async () => {
		const bytes = new TextEncoder().encode(yaml(TALK));
		for (const { messages } of await threadsOf('export.yaml', bytes))
			for (const { first } of messages) {
				const { offset, length } = first.row.sightings[0]!;
				assert.match(new TextDecoder().decode(bytes.subarray(offset, offset + length)), new RegExp(`${first.text}\\b`));
			}
	});
	it('what names itself again and again does not grow, what is broken gives what stands before it', async () => {
		const grown = Array.from({ length: 40 }, (_, i) => `a${i}: &a${i} [${i ? `*a${i - 1}, *a${i - 1}, *a${i - 1}` : 'x'}]`).join('\n');
		assert.deepEqual(await threadsOf('export.yaml', `when: 2025-01-14 10:00:00\n${grown}\n`), []);
		const whole = yaml(TALK);
		const threads = await threadsOf('export.yaml', `${whole}  "unclosed: [\n`);
		assert.equal(threads.flatMap((t) => t.messages).length, TALK.length);
	});
});
