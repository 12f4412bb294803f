/**
 * Small stores of layouts in which few rows can be read wrongly: files that are named once each, one group among
 * conversations of documents, media messages in tables of their own, documents that change others, and wordings in rows of their own.
 */
import type { Engine } from './engine';

export interface Person {
	id: number;
	name: string;
	number: string;
	key: string;
}
export interface SmallRoom {
	id: number;
	key: string;
	title: string | null;
	members: Person[];
}
export interface SmallMessage {
	id: number;
	room: SmallRoom;
	/** Who wrote it; null for the owner. */
	who: Person | null;
	/** ms UTC, in whole seconds. */
	at: number;
	/** null for a file alone. */
	text: string | null;
	/** What it said before, and when that was changed. */
	before?: { text: string; until: number };
	file?: { name: string; type: string; size: number };
}
export interface SmallLayout {
	/** Whether the store has files, edits, and a group. */
	files: boolean;
	/** Some files were sent without a text. */
	alone?: true;
	edits: boolean;
	group: boolean;
	write(db: Engine, messages: readonly SmallMessage[], rooms: readonly SmallRoom[]): void;
}

const START = Date.UTC(2025, 0, 14, 6);
const WORDS = ['The boiler is off', 'Who has the key', 'I come at noon', 'They want the rent', 'Nobody came to look'];
const hex = (n: number, length = 32): string => ((n + 7) * 2_654_435_761).toString(16).repeat(8).slice(0, length);
const uuid = (n: number): string => hex(n).replace(/^(.{8})(.{4})(.{4})(.{4})(.{12}).*$/, '$1-$2-$3-$4-$5');

export const SMALL_OWNER: Person = { id: 1, name: 'Piet Hallorann', number: '+447946000001', key: uuid(999) };
const PEOPLE: Person[] = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen', 'Yusuf Demirkan', 'Noor al-Khatib'].map(
	(name, i) => ({
		id: i + 2,
		name,
		number: `+4477009001${10 + i * 7}`,
		key: uuid(900 + i)
	})
);
const OF_TWO: SmallRoom[] = PEOPLE.slice(0, 3).map((p, i) => ({ id: i + 1, key: uuid(700 + i), title: null, members: [p] }));
const GROUP: SmallRoom = { id: 4, key: uuid(704), title: 'Stairwell B', members: PEOPLE.slice(1, 4) };

const TYPES = [
	['image/png', 'IMG', 'png'],
	['application/pdf', 'letter', 'pdf'],
	['audio/wav', 'note', 'wav']
] as const;
const fileOf = (i: number): SmallMessage['file'] => {
	const [type, name, end] = TYPES[i % 3]!;
	return { name: `${name}_${1000 + i}.${end}`, type, size: 2000 + i * 37 };
};

/** The rooms and messages of a store; how often each conversation is written in differs much. */
export function smallTruth({ files, alone, edits, group }: SmallLayout): { rooms: SmallRoom[]; messages: SmallMessage[] } {
	const rooms = group ? [...OF_TWO, GROUP] : OF_TWO;
	const messages = Array.from({ length: 42 }, (_, i): SmallMessage => {
		const room = rooms[i % 7 === 3 ? 1 : i % 11 === 5 ? 2 : group && i % 3 === 0 ? 3 : 0]!;
		const who = i % 5 < 2 ? null : room.members[i % room.members.length]!;
		const text = `${WORDS[i % 5]!}${i % 4 === 1 ? ', and it is cold' : ''}, ${i}`;
		const at = START + i * 4_000_000 + (i % 3) * 61_000;
		const file = files && i % 7 === 2 ? fileOf(i) : undefined;
		const before = edits && [10, 21, 34].includes(i) ? { text: text.replace(/, \d+$/, ` (${i})`), until: at + 900_000 } : undefined;
		return {
			id: i + 1,
			room,
			who,
			at,
			text: file && alone && i % 14 === 2 ? null : text,
			...(file ? { file } : {}),
			...(before ? { before } : {})
		};
	});
	return { rooms, messages };
}

const many = (n: number): string => Array(n).fill('?').join(',');
const put = (db: Engine, table: string, values: (string | number | null)[]): void => {
	db.run(`insert into ${table} values(${many(values.length)})`, values);
};

export const SMALL_LAYOUTS: Record<string, SmallLayout> = {
	'files that messages name once each, by small numbers': {
		files: true,
		edits: false,
		group: false,
		write(db, messages, rooms) {
			db.exec(`create table ZXQMESSAGE(Z_PK integer primary key, Z_ENT integer, ZISFROMME integer, ZSTATE integer, ZTALK integer, ZMEDIAITEM integer, ZSENT real, ZFROMID text, ZTOID text, ZTEXT text);
				create table ZXQTALK(Z_PK integer primary key, Z_ENT integer, ZKIND integer, ZPARTNERID text, ZPARTNERNAME text);
				create table ZXQMEDIAITEM(Z_PK integer primary key, Z_ENT integer, ZSIZE integer, ZMESSAGE integer, ZPATH text)`);
			const unused = PEOPLE.slice(3).map((p) => ({ id: p.id + 10, members: [p] }));
			for (const { id, members } of [...rooms, ...unused])
				put(db, 'ZXQTALK', [id - (id > 10 ? 11 : 0), 1, 0, `${members[0]!.number.slice(1)}@h.example`, members[0]!.name]);
			let items = 0;
			for (const { id, room, who, at, text, file } of messages) {
				const partner = `${room.members[0]!.number.slice(1)}@h.example`;
				if (file) put(db, 'ZXQMEDIAITEM', [++items, 3, file.size, id, `Media/${hex(id, 2)}/${hex(id, 12)}.png`]);
				const ends = who ? [partner, null] : [null, partner];
				put(db, 'ZXQMESSAGE', [id, 4, who ? 0 : 1, 8, room.id, file ? items : null, at / 1000 - 978_307_200, ...ends, text]);
			}
		}
	},
	'documents, with one group': {
		files: false,
		edits: false,
		group: true,
		write(db, messages, rooms) {
			db.exec(`create table messages(id text unique, json text, conversationId text, sent_at integer, type text, body text);
				create table conversations(id text primary key, json text, type text, name text, number text)`);
			for (const { key, title, members } of rooms) {
				const [first] = members;
				const json = title
					? { id: key, name: title, type: 'group', members: [...members, SMALL_OWNER].map((p) => p.key) }
					: { id: key, number: first!.number, serviceId: first!.key, name: first!.name, type: 'private' };
				put(db, 'conversations', [key, JSON.stringify(json), json.type, title ?? first!.name, title ? null : first!.number]);
			}
			for (const p of PEOPLE.slice(3))
				put(db, 'conversations', [
					uuid(p.id),
					JSON.stringify({ id: uuid(p.id), number: p.number, serviceId: p.key, name: p.name, type: 'private' }),
					'private',
					p.name,
					p.number
				]);
			for (const { id, room, who, at, text } of messages) {
				const type = who ? 'incoming' : 'outgoing';
				const from = who ? { source: who.number, sourceServiceId: who.key } : {};
				const json = { id: uuid(id), conversationId: room.key, type, sent_at: at, body: text, attachments: [], ...from };
				put(db, 'messages', [uuid(id), JSON.stringify(json), room.key, at, type, text]);
			}
		}
	},
	'media messages in tables of their own, in parts': {
		files: true,
		alone: true,
		edits: false,
		group: false,
		write(db, messages, rooms) {
			db.exec(`create table texts(_id integer primary key, conv_id integer, address text, date integer, date_sent integer, read integer, type integer, body text);
				create table pdu(_id integer primary key, conv_id integer, date integer, msg_box integer, m_type integer);
				create table addr(_id integer primary key, msg_id integer, address text, type integer);
				create table part(_id integer primary key, mid integer, seq integer, ct text, name text, _data text, text text);
				create table convs(_id integer primary key, date integer, recipient_ids text, snippet text);
				create table canonical(_id integer primary key, address text)`);
			for (const p of PEOPLE) put(db, 'canonical', [p.id - 1, p.number]);
			for (const { id } of rooms) put(db, 'convs', [id, 0, String(id), null]);
			let [parts, sent] = [0, 0];
			for (const { id, room, who, at, text, file } of messages) {
				const partner = room.members[0]!.number;
				if (file) {
					put(db, 'pdu', [null, room.id, at / 1000, who ? 1 : 2, who ? 132 : 128]);
					const mid = ++sent;
					for (const [address, type] of who
						? [
								[partner, 137],
								[SMALL_OWNER.number, 151]
							]
						: [
								['insert-address-token', 137],
								[partner, 151]
							])
						put(db, 'addr', [null, mid, address!, type!]);
					put(db, 'part', [++parts, mid, -1, 'application/smil', 'smil.xml', null, '<smil><body><par dur="5000ms"></par></body></smil>']);
					if (text) put(db, 'part', [++parts, mid, 0, 'text/plain', null, null, text]);
					put(db, 'part', [++parts, mid, 0, file.type, file.name, `/data/parts/${hex(id, 12)}.png`, null]);
				} else put(db, 'texts', [null, room.id, partner, at, who ? at - 1500 : 0, 1, who ? 1 : 2, text]);
				db.run('update convs set date=?, snippet=? where _id=?', [at, text?.slice(0, 24) ?? null, room.id]);
			}
		}
	},
	'documents that change others, and files with what was written below them': {
		files: true,
		edits: true,
		group: true,
		write(db, messages, rooms) {
			db.exec(`create table events(seq integer primary key, event_id text, room_id text, sender text, kind text, origin_ts integer, content text);
				create table room(room_id text primary key, name text);
				create table member(room_id text, user_id text, displayname text, primary key(room_id, user_id));
				create table account(user_id text, device text)`);
			const handle = (p: Person): string => `@${p.name.toLowerCase().replace(/\W+/g, '.')}:example.org`;
			put(db, 'account', [handle(SMALL_OWNER), 'DEV1']);
			for (const { key, title, members } of rooms) {
				put(db, 'room', [`!${key.slice(0, 12)}:example.org`, title]);
				for (const p of [...members, SMALL_OWNER]) put(db, 'member', [`!${key.slice(0, 12)}:example.org`, handle(p), p.name]);
			}
			const later: { at: number; values: (string | number | null)[] }[] = [];
			for (const { id, room, who, at, text, before, file } of messages) {
				const values = (event: string, content: object): (string | number | null)[] => [
					null,
					`$${event}`,
					`!${room.key.slice(0, 12)}:example.org`,
					handle(who ?? SMALL_OWNER),
					'room.message',
					at,
					JSON.stringify(content)
				];
				const told = file
					? {
							msgtype: 'image',
							body: text,
							filename: file.name,
							url: `blob://x/${hex(id, 12)}`,
							info: { mimetype: file.type, size: file.size }
						}
					: { msgtype: 'text', body: before?.text ?? text! };
				later.push({ at, values: values(uuid(id), told) });
				if (!before) continue;
				const change = {
					msgtype: 'text',
					body: `* ${text}`,
					new_content: { msgtype: 'text', body: text },
					relates_to: { rel_type: 'replace', event_id: `$${uuid(id)}` }
				};
				const [one, two, three, four, five] = values(uuid(id + 500), change);
				later.push({ at: before.until, values: [one!, two!, three!, four!, five!, before.until, JSON.stringify(change)] });
			}
			for (const { values } of later.sort((a, b) => a.at - b.at)) put(db, 'events', values);
		}
	},
	'each wording in a row of its own, with the time of the edit': {
		files: false,
		edits: true,
		group: true,
		write(db, messages, rooms) {
			db.exec(`create table message(_id integer primary key, date_sent integer, thread_id integer, from_recipient_id integer, to_recipient_id integer, body text, latest_revision_id integer, original_message_id integer, revision_number integer);
				create table recipient(_id integer primary key, number text, group_id text, name text);
				create table thread(_id integer primary key, recipient_id integer);
				create table settings(key text primary key, value text)`);
			for (const p of [SMALL_OWNER, ...PEOPLE]) put(db, 'recipient', [p.id, p.number, null, p.name]);
			put(db, 'settings', ['account.number', SMALL_OWNER.number]);
			const recipient = ({ title, id, members }: SmallRoom): number => (title ? 100 + id : members[0]!.id);
			for (const room of rooms) {
				if (room.title) put(db, 'recipient', [recipient(room), null, `__g__!${room.key}`, room.title]);
				put(db, 'thread', [room.id, recipient(room)]);
			}
			const later: { at: number; of: SmallMessage; text: string; isLast: boolean }[] = messages.flatMap((of) => [
				...(of.before ? [{ at: of.at, of, text: of.before.text, isLast: false }] : []),
				{ at: of.before?.until ?? of.at, of, text: of.text!, isLast: true }
			]);
			later.sort((a, b) => a.at - b.at);
			const numberOf = (of: SmallMessage, isLast: boolean): number => later.findIndex((l) => l.of === of && l.isLast === isLast) + 1;
			for (const [i, { at, of, text, isLast }] of later.entries()) {
				const { room, who, before } = of;
				const to = who && !room.title ? SMALL_OWNER.id : recipient(room);
				const revisions = before ? (isLast ? [null, numberOf(of, false), 1] : [numberOf(of, true), null, 0]) : [null, null, 0];
				put(db, 'message', [i + 1, at, room.id, who?.id ?? SMALL_OWNER.id, to, text, ...revisions]);
			}
		}
	}
};
