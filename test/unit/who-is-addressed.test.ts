/** To whom messages went, where a row for each recipient says it, or one column of two, and rooms have a column of their own. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Weave } from '../../src/core/weave';
import { HOUR, NAMES, number, OWN, said, START } from '../vectors/said';
import { looked, written, type Put } from '../vectors/written';

const read = (bytes: Uint8Array): Weave => looked({ 'main.db': bytes }).findings().weave;

/** Each conversation: who it is with or what it is called, and how many came in, went out, or have no way. */
const talks = ({ threads }: Weave): Record<string, [number, number, number]> =>
	Object.fromEntries(
		threads.map((t) => {
			const ways = t.messages.map((m) => m.first.direction);
			const of = (way: string | null): number => ways.filter((w) => w === way).length;
			return [t.group ? t.title! : (t.messages[0]!.first.correspondent?.address ?? '?'), [of('in'), of('out'), of(null)]];
		})
	);

/** The same of messages by their place, as they were written. */
function expected(count: number, talk: (i: number) => string, isOut: (i: number) => boolean): Record<string, [number, number, number]> {
	const found: Record<string, [number, number, number]> = {};
	for (let i = 0; i < count; i++) (found[talk(i)] ??= [0, 0, 0])[isOut(i) ? 1 : 0]++;
	return found;
}

describe('a row for each recipient', () => {
	/** Who writes, and who is written to; in every ninth message two of them. `rooms`: whether those have a room. */
	function write(put: Put, count: number, rooms: 'named' | 'none'): void {
		put('party', 11, 'Piet Hallorann', OWN);
		for (const [i, name] of NAMES.entries()) put('party', 12 + i, name, number(i));
		for (let i = 0; i < count; i++) {
			const inRoom = rooms === 'named' && i % 9 === 4;
			const isOut = i % 5 < 2;
			const other = 12 + (i % 3);
			put('message', i + 1, isOut ? 11 : other, inRoom ? 1 : null, START + i * HOUR, said(i));
			const all = inRoom ? [11, 12, 13, 14] : [11, other];
			for (const who of all)
				if (who !== (isOut ? 11 : other)) put('delivery', i + 1, who, START + i * HOUR + 900, i % 3 ? START + i * HOUR + 60_000 : null);
		}
	}
	const TABLES = `create table message(id integer primary key autoincrement, sender_id integer, circle_id integer, sent_at integer, body text);
		create table delivery(message_id integer, recipient_id integer, delivered_at integer, read_at integer, primary key(message_id, recipient_id));
		create table circle(id integer primary key, name text); create table party(id integer primary key, name text, msisdn text)`;

	it('tells the conversations, though it has times, and rooms by the column that names them', () => {
		const [bytes] = written((db, put) => {
			db.exec(TABLES);
			put('circle', 1, 'Plant desk');
			write(put, 90, 'named');
		});
		const talk = (i: number): string => (i % 9 === 4 ? 'Plant desk' : number(i % 3));
		assert.deepEqual(
			talks(read(bytes!)),
			expected(90, talk, (i) => i % 5 < 2)
		);
	});

	it('is no number of its own where each message went to one, and what is left of lost messages is with who wrote them', () => {
		const [bytes] = written((db, put) => {
			db.exec(`pragma secure_delete = off; ${TABLES}`);
			write(put, 60, 'none');
			db.exec('delete from message where id <= 20; delete from delivery where message_id <= 20');
		});
		const weave = read(bytes!);
		const lost = weave.threads.flatMap((t) => t.messages.filter((m) => m.standing === 'remnant').map((m) => ({ t, m })));
		assert.ok(lost.length >= 15, `${lost.length} of 20 lost messages are found`);
		for (const { t, m } of lost.filter(({ m }) => m.first.direction === 'in')) {
			const i = Number(m.first.text!.split(' ').at(-1));
			assert.ok(
				t.messages.some((other) => other.standing === 'kept' && other.first.correspondent?.address === number(i % 3)),
				said(i)
			);
		}
		const kept = weave.threads.flatMap((t) => t.messages.filter((m) => m.standing === 'kept'));
		assert.deepEqual([kept.length, kept.filter((m) => m.first.direction === 'out').length], [40, 16]);
	});

	it('tells the owner as the one at an end of all, though one other is at an end of nearly all', () => {
		const [bytes] = written((db, put) => {
			db.exec(TABLES);
			put('party', 11, 'Piet Hallorann', OWN);
			for (const [i, name] of NAMES.entries()) put('party', 12 + i, name, number(i));
			for (let i = 0; i < 50; i++) {
				const isOut = i % 5 < 2;
				const other = i === 23 ? 13 : 12;
				put('message', i + 1, isOut ? 11 : other, null, START + i * HOUR, said(i));
				put('delivery', i + 1, isOut ? other : 11, START + i * HOUR + 900, null);
			}
		});
		assert.deepEqual(
			talks(read(bytes!)),
			expected(
				50,
				(i) => number(i === 23 ? 1 : 0),
				(i) => i % 5 < 2
			)
		);
	});

	it('of which few are known tells the owner as the one at an end of all', () => {
		const [bytes] = written((db, put) => {
			db.exec(`${TABLES}; create table file(id integer primary key, path text, mime text); alter table message add column file_id integer`);
			put('party', 11, 'Piet Hallorann', OWN);
			for (const [i, name] of NAMES.entries()) put('party', 12 + i, name, number(i));
			put('file', 1, 'files/a.png', 'image/png');
			for (let i = 0; i < 30; i++) {
				const isOut = i % 4 !== 1;
				const other = 12 + (i % 3);
				put('message', i + 1, isOut ? 11 : other, null, START + i * HOUR, said(i), i === 7 ? 1 : null);
				put('delivery', i + 1, isOut ? other : 11, START + i * HOUR + 900, null);
			}
		});
		assert.deepEqual(talks(read(bytes!)), { [number(0)]: [2, 8, 0], [number(1)]: [3, 7, 0], [number(2)]: [3, 7, 0] });
	});
});

describe('from whom in one column, to whom in another', () => {
	it('with rooms in a third, of which a list has nothing but the names', () => {
		const [bytes] = written((db, put) => {
			db.exec(`create table chatline(line integer primary key autoincrement, incoming_from integer, outgoing_to integer, team integer, received integer, sent integer, words text);
				create table known(id integer primary key, calls_himself text, reachable_at text); create table team(id integer primary key, calls_itself text)`);
			for (const [i, name] of NAMES.entries()) put('known', 41 + i, name, number(i));
			put('team', 8, 'Garden rota');
			put('team', 9, 'Plant desk');
			for (let i = 0; i < 80; i++) {
				const isOut = i % 5 < 2;
				const room = i % 4 === 3 ? 8 + ((i >> 2) % 2) : null;
				const at = START / 1000 + i * 3600;
				put(
					'chatline',
					i + 1,
					isOut ? null : 41 + (i % 3),
					isOut && room === null ? 41 + (i % 3) : null,
					room,
					isOut ? null : at,
					isOut ? at : null,
					said(i)
				);
			}
		});
		const look = looked({ 'main.db': bytes! });
		const talk = (i: number): string => (i % 4 === 3 ? ['Garden rota', 'Plant desk'][(i >> 2) % 2]! : number(i % 3));
		assert.deepEqual(
			talks(look.findings().weave),
			expected(80, talk, (i) => i % 5 < 2)
		);
		assert.deepEqual(
			look
				.contacts()
				.map((c) => c.name)
				.sort(),
			[...NAMES].sort()
		);
	});
});

describe('who wrote', () => {
	it('in a room is told by the whole address behind the room, as he has it elsewhere', () => {
		const jid = (i: number): string => `${NAMES[i]!.split(' ')[0]!.toLowerCase()}@chat.example`;
		const room = 'f54fab80@rooms.example';
		const [bytes] = written((db, put) => {
			db.exec(`create table stanza(id integer primary key, peer text, outgoing integer, at integer, xml text);
				create table roster(jid text primary key, name text, phone text); create table muc(jid text primary key, name text); create table account(jid text)`);
			put('account', 'piet@chat.example');
			put('muc', room, 'Plant desk');
			for (const [i, name] of NAMES.entries()) put('roster', jid(i), name, number(i));
			for (let i = 0; i < 60; i++) {
				const isOut = i % 5 < 2;
				const inRoom = i % 3 === 0;
				const peer = inRoom ? room : jid(i % 2);
				const ends = isOut ? ['piet@chat.example', peer] : [inRoom ? `${room}/${jid((i / 3) % 3)}` : peer, 'piet@chat.example'];
				const xml = `<message from="${ends[0]}" to="${ends[1]}" type="${inRoom ? 'groupchat' : 'chat'}"><body>${said(i)}</body></message>`;
				put('stanza', i + 1, peer, isOut ? 1 : 0, START / 1000 + i * 3600, xml);
			}
		});
		const { threads } = read(bytes!);
		const desk = threads.find((t) => t.title === 'Plant desk')!;
		const writers = desk.messages.filter((m) => m.first.direction === 'in').map((m) => m.first.correspondent?.name);
		assert.deepEqual([desk.messages.length, writers.length, [...new Set(writers)].sort()], [20, 12, [...NAMES].sort()]);
	});

	it('is named by the settings, however few messages there are; of what kind those are tells no way', () => {
		const key = (i: number): string => ['5640486daa6880d6', '894f782a148b33af', 'f74dd50cfec0f854', '693a9fdd4c2fd070'][i]!;
		const [bytes] = written((db, put) => {
			db.exec(`create table entry(entry_id text primary key, entry_type text, channel_id text, actor_id text, created_ms integer);
				create table entry_text(entry_id text primary key, value text); create table entry_media(entry_id text, uri text, mime text);
				create table channel(channel_id text primary key, label text); create table channel_actor(channel_id text, actor_id text, primary key(channel_id, actor_id));
				create table actor(actor_id text primary key, label text, tel text); create table setting(k text primary key, v text)`);
			for (const [i, name] of ['Piet Hallorann', ...NAMES].entries()) put('actor', key(i), name, i === 0 ? OWN : number(i - 1));
			for (const [k, v] of [
				['schema', '14'],
				['local_actor', key(0)],
				['theme', 'dark']
			])
				put('setting', k!, v!);
			put('channel', 'a1e79db1c9ef8765', 'Plant desk');
			put('channel', 'd72b5df29095a7ee', null);
			for (const i of [0, 1, 2, 3]) put('channel_actor', 'a1e79db1c9ef8765', key(i));
			for (const i of [0, 1]) put('channel_actor', 'd72b5df29095a7ee', key(i));
			for (let i = 0; i < 24; i++) {
				const inRoom = i % 3 !== 0;
				const id = `e${10_000_000 + i * 7919}`;
				put(
					'entry',
					id,
					i % 5 === 2 ? 'media' : 'text',
					inRoom ? 'a1e79db1c9ef8765' : 'd72b5df29095a7ee',
					key(inRoom ? i % 4 : (i / 3) % 2),
					START + i * HOUR
				);
				put('entry_text', id, said(i));
				if (i % 5 === 2) put('entry_media', id, `blob://${i}.png`, 'image/png');
			}
		});
		assert.deepEqual(talks(read(bytes!)), { 'Plant desk': [12, 4, 0], [number(0)]: [4, 4, 0] });
	});

	for (const rooms of ['with a room', 'in conversations of two alone'])
		it(`is the sender that each document writes out, whomever it lists as recipients: ${rooms}`, () => {
			const party = (i: number): object => ({
				id: `p${i}`,
				displayName: ['Piet Hallorann', ...NAMES][i],
				phoneNumber: i === 0 ? OWN : number(i - 1)
			});
			const [bytes] = written((db, put) => {
				db.exec('create table docs(doc_id text primary key, rev integer, body text)');
				for (let i = 0; i < 60; i++) {
					const inRoom = rooms === 'with a room' && i % 5 === 0;
					const isOut = i % 7 < 3;
					const other = 1 + (i % 3);
					const all = inRoom ? [0, 1, 2, 3] : [0, other];
					const from = isOut ? 0 : other;
					const body = {
						type: 'message',
						conversation: inRoom ? { id: 'c9', title: 'Plant desk' } : { id: `c${other}` },
						sender: party(from),
						recipients: all.filter((who) => who !== from).map(party),
						content: { kind: 'text', text: said(i) },
						meta: { createdAt: START + i * HOUR, mine: isOut }
					};
					put('docs', `msg:${100_000 + i * 7919}-12f55a44`, 1, JSON.stringify(body));
				}
			});
			const talk = (i: number): string => (rooms === 'with a room' && i % 5 === 0 ? 'Plant desk' : number(i % 3));
			assert.deepEqual(
				talks(read(bytes!)),
				expected(60, talk, (i) => i % 7 < 3)
			);
		});
});

describe('few messages', () => {
	it('of letters kept with their heads are from whom those say, to several or to one', () => {
		const mail = (i: number): string => (i < 0 ? 'piet@post.example' : `${NAMES[i]!.split(' ')[0]!.toLowerCase()}@post.example`);
		const end = (i: number): string => `${i < 0 ? 'Piet Hallorann' : NAMES[i]!} <${mail(i)}>`;
		const [bytes] = written((db, put) => {
			db.exec(`create table item(uid integer primary key, room text, raw text); create table room(room text primary key, subject text);
				create table card(address text primary key, shown text, phone text); create table me(address text)`);
			put('me', mail(-1));
			for (const i of [-1, 0, 1, 2]) put('card', mail(i), i < 0 ? 'Piet Hallorann' : NAMES[i]!, i < 0 ? OWN : number(i));
			for (const i of [0, 1, 2, 3]) put('room', `c81e728d9d4c${i}`, i === 3 ? 'Plant desk' : null);
			for (let i = 0; i < 30; i++) {
				const all = i % 2 ? [0, 1, 2] : [i % 3];
				const from = i % 5 < 2 ? -1 : all[i % all.length]!;
				const to = [-1, ...all].filter((who) => who !== from);
				const date = new Date(START + i * HOUR).toUTCString().replace('GMT', '+0000');
				const raw = `From: ${end(from)}\r\nTo: ${to.map(end).join(', ')}\r\nDate: ${date}\r\nMessage-ID: <k${i}@post.example>\r\n\r\n${said(i)}`;
				put('item', i + 1, `c81e728d9d4c${i % 2 ? 3 : i % 3}`, raw);
			}
		});
		const { threads } = read(bytes!);
		const ways = threads.flatMap((t) => t.messages.map((m) => [m.first.text, m.first.direction] as const));
		assert.deepEqual(new Map(ways), new Map(ways.map(([text]) => [text, Number(text!.split(' ').at(-1)) % 5 < 2 ? 'out' : 'in'])));
		assert.deepEqual(threads.map((t) => (t.group ? t.title : t.address)).sort(), ['Plant desk', ...[0, 1, 2].map(mail)].sort());
	});

	it('whose keys are bytes are with whom those name', () => {
		const key = (i: number): Uint8Array => Uint8Array.from({ length: 8 }, (_, k) => (i * 91 + k * 53 + 17) % 251);
		const [bytes] = written((db) => {
			db.exec(`create table line(id blob primary key, talk blob, who blob, stamp integer, words text); create table talk(id blob primary key, label text);
				create table person(id blob primary key, name text, tel text, self integer)`);
			for (const i of [0, 1, 2, 3])
				db.run('insert into person values(?,?,?,?)', [key(i), ['Piet Hallorann', ...NAMES][i]!, i ? number(i - 1) : OWN, i ? 0 : 1]);
			for (const i of [1, 2, 3]) db.run('insert into talk values(?,?)', [key(10 + i), null]);
			for (let i = 0; i < 24; i++) {
				const other = 1 + (i % 3);
				db.run('insert into line values(?,?,?,?,?)', [key(40 + i), key(10 + other), key(i % 5 < 2 ? 0 : other), START + i * HOUR, said(i)]);
			}
		});
		assert.deepEqual(
			talks(read(bytes!)),
			expected(
				24,
				(i) => number(i % 3),
				(i) => i % 5 < 2
			)
		);
	});
});

describe('which way messages went, where numbers hint at it', () => {
	it('is told for each number by another program that says it of the same messages', () => {
		// Two and three are sent, ten and eleven received: by themselves they could be two pairs as well.
		const marks = [2, 3, 11, 2, 3, 10, 11, 10, 11, 2, 11, 10, 2, 3, 11, 10, 11, 10, 2, 10, 11, 10, 11, 10, 11];
		const others = [0, 0, 0, 1, 1, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 1, 0, 0, 0, 0, 0, 0, 0, 0];
		const isOut = (i: number): boolean => marks[i % 25]! < 10;
		const at = (i: number): number => START + i * 37 * HOUR + ((i * 397) % 1000);
		const [sure] = written((db, put) => {
			db.exec('create table letter(id integer primary key, number text, sent integer, at integer, words text)');
			for (let i = 0; i < 45; i++) if (i < 16 || i > 24) put('letter', i + 1, number(others[i % 25]!), isOut(i) ? 1 : 0, at(i), said(i));
		});
		const [hinted] = written((db, put) => {
			db.exec('create table line(uid text primary key, conv text not null, writer text, state integer, ts real, body text)');
			for (let i = 0; i < 25; i++) {
				const uid = `${10_000_000 + i * 7919}-4c5e-4f5a-9a31-5fd1a2b3c4d5`;
				put('line', uid, [OWN, number(others[i]!)].sort().join(':'), null, marks[i]!, at(i) / 1000, said(i));
			}
		});
		const { threads } = looked({ 'phone/letters.db': sure!, 'desk/talk.db': hinted! }, OWN).findings().weave;
		const all = threads.flatMap((t) => t.messages);
		const ways = new Map(all.map((m) => [m.first.text!, m.first.direction]));
		assert.equal(all.length, 45);
		for (let i = 0; i < 45; i++) assert.equal(ways.get(said(i)), isOut(i) ? 'out' : 'in', said(i));
	});
});
