/**
 * Layouts as grown programs have them: messages in parts with a list of addresses, texts with their looks in property lists,
 * accounts with quotes and pages beside, rooms as a log of what happened in them, packed records, bits and lists, a table for
 * each conversation with elements of XML for all that is no text.
 */
import { createHash } from 'node:crypto';
import { deflateSync } from 'node:zlib';
import { binaryPlist, Uid } from './plist';
import { insertInto, OWNER, type Cell, type Composer, type Draft, type Layout } from './plainly';
import { wire } from './wire';

const digestOf = (...parts: (string | number)[]): string => createHash('sha256').update(parts.join()).digest('hex');
const OF_ALL = { groups: true, bin: false, named: true, counted: false, address: 'number', listed: false } as const;
const insert = (table: string, columns: string): string =>
	`insert into ${table}(${columns}) values(${columns
		.split(',')
		.map(() => '?')
		.join(',')})`;

const isInParts = (m: Draft): boolean => m.file !== null || m.room.title !== null;
const account = (number: string): string => `${number.slice(1)}@chat.example`;
const others = (m: Draft): string[] => m.room.members.map((p) => p.number).filter((number) => number !== m.who?.number);
/** Numbers as large as times in seconds. */
const idOf = (i: number): number => 1_100_000_000 + ((i * 48_271_311) % 800_000_000);

/** A body with its looks: the text alone, or as an archive of objects. */
const styled = (text: string): Uint8Array =>
	binaryPlist({
		$archiver: 'Keyed',
		$top: { root: new Uid(1) },
		$objects: ['$null', { string: new Uid(2), runs: new Uid(3) }, text, [{ bold: false, length: text.length }]]
	});

export const USUAL: Record<string, Layout> = {
	parts: {
		...OF_ALL,
		needsGroup: true,
		named: false,
		setUp: (db, s) => {
			db.exec(`create table txt(id integer primary key, conv integer, number text, at, seen integer, box integer, body text, centre text);
				create table mm(id integer primary key, conv integer, at, box integer, seen integer, tr text);
				create table mm_part(id integer primary key, mm integer, seq integer, type text, name text, cid text, file text, txt text);
				create table mm_addr(id integer primary key, mm integer, number text, role integer);
				create table conv(id integer primary key, at, who text, preview text);
				create table numbers(id integer primary key, number text)`);
			for (const p of s.people) db.run(insertInto('numbers', 2), [p.i, p.number]);
			for (const room of s.rooms) db.run(insertInto('conv', 4), [room.i, null, room.members.map((p) => p.i).join(' '), null]);
		},
		write: (db, s, m) => {
			const box = m.who ? 1 : 2;
			db.run('update conv set at=?, preview=? where id=?', [s.time(m.at), m.text, m.room.i]);
			if (!isInParts(m)) {
				const centre = m.who ? '+447946099999' : null;
				const values: Cell[] = [null, m.room.i, m.room.members[0]!.number, s.time(m.at), 1, box, m.text, centre];
				m.id = [db.run(insertInto('txt', 8), values).lastInsertRowid];
				return;
			}
			const mm = db.run(insertInto('mm', 6), [null, m.room.i, s.time(m.at), box, 1, `T${digestOf(m.n).slice(0, 8)}`]).lastInsertRowid;
			m.id = [mm];
			const addresses: [string, number][] = [
				[m.who?.number ?? 'own-address', 137],
				...[...others(m), ...(m.who ? [OWNER] : [])].map((number): [string, number] => [number, 151])
			];
			for (const [number, role] of addresses) db.run(insertInto('mm_addr', 4), [null, mm, number, role]);
			const part = (seq: number, type: string, name: string, file: string | null, txt: string | null): void =>
				void db.run(insertInto('mm_part', 8), [null, mm, seq, type, name, `<${name}>`, file, txt]);
			if (m.file) {
				part(-1, 'application/smil', 'layout.xml', null, `<smil><body><par dur="5000ms"><img src="${m.file.name}"/></par></body></smil>`);
				part(0, m.file.type, m.file.name, m.file.path, null);
			}
			if (m.text !== null) part(0, 'text/plain', 'text_0.txt', null, m.text);
		},
		row: (m) => (isInParts(m) ? ['mm_part', "type='text/plain' and mm=?", 'txt'] : ['txt', 'id=?', 'body']),
		remove: (db, m) => {
			if (!isInParts(m)) db.run('delete from txt where id=?', m.id);
			else for (const from of ['mm where id', 'mm_part where mm', 'mm_addr where mm']) db.run(`delete from ${from}=?`, m.id);
		}
	},
	styled: {
		...OF_ALL,
		named: false,
		counted: true,
		setUp: (db, s) => {
			db.exec(`create table party(id integer primary key, ident text, country text);
				create table talk(id integer primary key, guid text, style integer, ident text, shown text);
				create table talk_party(talk_id integer, party_id integer, unique(talk_id, party_id));
				create table entry(id integer primary key autoincrement, guid text unique, txt text, styled blob, party_id integer, at, mine integer, sys integer);
				create table talk_entry(talk_id integer, entry_id integer, at, primary key(talk_id, entry_id));
				create table piece(id integer primary key autoincrement, made, file text, kind text, mime text, name text, bytes integer);
				create table entry_piece(entry_id integer, piece_id integer, unique(entry_id, piece_id))`);
			for (const p of s.people) db.run(insertInto('party', 3), [p.i, p.number, 'gb']);
			for (const room of s.rooms) {
				const ident = room.title === null ? room.members[0]!.number : `talk${digestOf(room.i).replace(/\D/g, '').slice(0, 14)}`;
				const sign = room.title === null ? '-' : '+';
				db.run(insertInto('talk', 5), [room.i, `A;${sign};${ident}`, room.title === null ? 45 : 43, ident, room.title]);
				for (const p of room.members) db.run(insertInto('talk_party', 2), [room.i, p.i]);
			}
		},
		write: (db, s, m) => {
			const party = m.who?.i ?? (m.room.title === null ? m.room.members[0]!.i : 0);
			const isPlain = m.n % 2 === 0;
			const entry = db.run(insertInto('entry', 8), [
				null,
				digestOf('entry', m.n).slice(0, 32),
				isPlain ? m.text : null,
				isPlain || m.text === null ? null : styled(m.text),
				party,
				s.time(m.at),
				m.who ? 0 : 1,
				0
			]).lastInsertRowid;
			m.id = [entry];
			db.run(insertInto('talk_entry', 3), [m.room.i, entry, s.time(m.at)]);
			if (!m.file) return;
			const { path, type, name, bytes } = m.file;
			const piece = db.run(insertInto('piece', 7), [null, s.time(m.at), path, 'public.data', type, name, bytes.length]).lastInsertRowid;
			db.run(insertInto('entry_piece', 2), [entry, piece]);
		},
		row: () => ['entry', 'id=?', 'txt'],
		edits: false,
		more: ['talk_entry where entry_id=?', 'entry_piece where entry_id=?']
	},
	accounts: {
		...OF_ALL,
		needsGroup: true,
		named: false,
		counted: true,
		setUp: (db, s) => {
			db.exec(`create table msgs(id integer primary key autoincrement, peer text, mine integer, key text, st integer, data text, at, media_type text, media_size integer,
					media_name text, remote text, quoted integer);
				create table msgs_quoted(id integer primary key, peer text, mine integer, key text, data text, at, remote text);
				create table talks(id integer primary key, peer text, subject text, last integer, preview text);
				create table room_people(id integer primary key, room text, j text);
				create table links(m integer, url text, title text, about text);
				create virtual table msgs_words using fts5(data)`);
			for (const room of s.rooms) {
				db.run(insertInto('talks', 5), [room.i, peerOf(room), room.title, null, null]);
				if (room.title !== null)
					for (const p of room.members) db.run(insertInto('room_people', 3), [null, peerOf(room), account(p.number)]);
			}
		},
		write: (db, s, m) => {
			const peer = peerOf(m.room);
			const remote = m.who && m.room.title !== null ? account(m.who.number) : null;
			const own: Cell[] = [peer, m.who ? 0 : 1, digestOf('key', m.n).slice(0, 20).toUpperCase()];
			const quoted = m.n % 7 === 3 ? quote(db, peer) : null;
			const { type, bytes, name } = m.file ?? { type: null, bytes: null, name: null };
			const columns = 'peer,mine,key,st,data,at,media_type,media_size,media_name,remote,quoted';
			const values: Cell[] = [...own, m.who ? 0 : 5, m.text, s.time(m.at), type, bytes?.length ?? 0, name, remote, quoted];
			m.id = [db.run(insert('msgs', columns), values).lastInsertRowid];
			if (m.text !== null) db.run('insert into msgs_words(rowid, data) values(?,?)', [m.id[0]!, m.text]);
			db.run('update talks set last=?, preview=? where peer=?', [m.id[0]!, m.text, peer]);
			if (m.n % 11 === 0)
				db.run(insertInto('links', 4), [m.id[0]!, `https://news.example/${m.n}`, 'Heat is dear again', 'What residents can do about it']);
		},
		row: () => ['msgs', 'id=?', 'data'],
		edit: (db, m, text) => {
			db.run('update msgs set data=? where id=?', [text, ...m.id]);
			db.run('update msgs_words set data=? where rowid=?', [text, ...m.id]);
		},
		more: ['msgs_words where rowid=?', 'links where m=?']
	},
	happenings: {
		...OF_ALL,
		named: true,
		address: 'account',
		needsGroup: true,
		setUp: (db, s) => {
			db.exec(`create table event(seq integer primary key autoincrement, eid text unique, room text, sender text, kind text, at integer, content text);
				create table room_state(room text, key text, value text, primary key(room, key));
				create table me(user text, device text)`);
			db.run(insertInto('me', 2), [user({ name: 'Owen Farrow', i: 99 }), digestOf('device').slice(0, 10).toUpperCase()]);
			for (const room of s.rooms) {
				if (room.title !== null) db.run(insertInto('room_state', 3), [roomKey(room), 'name', JSON.stringify({ name: room.title })]);
				for (const p of [...room.members, { name: 'Owen Farrow', i: 99, number: OWNER }]) {
					const value = JSON.stringify({ displayname: p.name, membership: 'join', phone: p.number });
					db.run(insertInto('room_state', 3), [roomKey(room), `member/${user(p)}`, value]);
					happen(db, s, roomKey(room), user(p), 'member', 1_738_000_000_000, { membership: 'join', displayname: p.name });
				}
			}
		},
		write: (db, s, m) => {
			const file = m.file && { filename: m.file.name, info: { mimetype: m.file.type, size: m.file.bytes.length }, path: m.file.path };
			const content = { type: m.file ? 'file' : 'text', ...(m.text === null ? {} : { body: m.text }), ...file };
			const who = user(m.who ?? { name: 'Owen Farrow', i: 99 });
			m.id = [happen(db, s, roomKey(m.room), who, 'message', m.at, content)];
			if (m.n % 8 === 5) happen(db, s, roomKey(m.room), user(m.room.members[0]!), 'reaction', m.at + 900, { about: m.id[0]!, key: '👍' });
		},
		row: () => ['event', 'eid=?', 'content'],
		edited: (text) => JSON.stringify({ type: 'text', body: text })
	},
	packed: {
		...OF_ALL,
		needsGroup: true,
		setUp: (db, s) => {
			db.exec(`create table rec(id integer primary key, dialog int, day int, data blob, unique(dialog, id));
				create table dialogs(did int primary key, title text);
				create table users(uid int primary key, name text, data blob)`);
			for (const p of [...s.people, { i: 99, name: 'Owen Farrow', number: OWNER }])
				db.run(insertInto('users', 3), [idOf(p.i), p.name, wire([1, idOf(p.i)], [4, p.number])]);
			for (const room of s.rooms) db.run(insertInto('dialogs', 2), [dialogOf(room), room.title]);
		},
		write: (db, s, m) => {
			const file = m.file && wire([1, m.file.name], [2, m.file.type], [3, m.file.bytes.length]);
			const fields: [number, number | string | Uint8Array][] = [
				[1, m.n + 10],
				[2, idOf(m.who?.i ?? 99)],
				[3, s.time(m.at) as number | string],
				...(m.text === null ? [] : [[4, m.text] as [number, string]]),
				[5, m.who ? 0 : 1],
				...(file ? [[6, file] as [number, Uint8Array]] : [])
			];
			m.id = [m.n + 10];
			db.run(insertInto('rec', 4), [m.n + 10, dialogOf(m.room), Math.floor(m.at / 86_400_000), deflateSync(wire(...fields))]);
		},
		row: () => ['rec', 'id=?', 'data'],
		edits: false
	},
	bits: {
		...OF_ALL,
		needsGroup: true,
		setUp: (db, s) => {
			db.exec(`create table line(id text primary key, chan text, flags integer, frm text, stamp, payload text, fname text, fsize integer);
				create table chan(cid text primary key, topic text, people text, created);
				create table names(number text primary key, display text)`);
			for (const p of s.people) db.run(insertInto('names', 2), [p.number, p.name]);
			for (const room of s.rooms)
				db.run(insertInto('chan', 4), [chan(room), room.title, room.members.map((p) => p.number).join(','), s.time(1_738_000_000_000)]);
		},
		write: (db, s, m) => {
			m.id = [digestOf('line', m.n).slice(0, 16)];
			const flags = (m.who ? 0 : 2) + (m.n % 5 === 0 ? 0 : 1) + (m.file ? 8 : 0);
			const file: Cell[] = [m.file?.name ?? null, m.file?.bytes.length ?? null];
			db.run(insertInto('line', 8), [m.id[0]!, chan(m.room), flags, m.who?.number ?? null, s.time(m.at), m.text, ...file]);
		},
		row: () => ['line', 'id=?', 'payload']
	},
	keyed: {
		...OF_ALL,
		needsGroup: true,
		setUp: (db, s) => {
			db.exec('create table kv(k text primary key, v text)');
			const put = (key: string, value: object): void => void db.run(insertInto('kv', 2), [key, JSON.stringify(value)]);
			put('account/self', { number: OWNER, name: 'Owen Farrow' });
			for (const p of s.people) put(`contact/${p.number}`, { number: p.number, name: p.name, added: s.time(1_738_000_000_000) });
			for (const room of s.rooms)
				put(`conversation/${chan(room)}`, { type: 'talk', title: room.title, participants: room.members.map((p) => p.number) });
		},
		write: (db, s, m) => {
			m.id = [`message/${chan(m.room)}/${m.at}/${String(m.n).padStart(6, '0')}`];
			const attachment = m.file && { name: m.file.name, mime: m.file.type, size: m.file.bytes.length, file: m.file.path };
			const value = {
				from: m.who?.number ?? OWNER,
				at: s.time(m.at),
				text: m.text,
				status: m.n % 3 ? 'read' : 'sent',
				...(attachment ? { attachment } : {})
			};
			db.run(insertInto('kv', 2), [m.id[0]!, JSON.stringify(value)]);
		},
		row: () => ['kv', 'k=?', 'v'],
		edits: false
	},
	called: {
		...OF_ALL,
		needsGroup: true,
		address: 'name',
		setUp: (db, s) => {
			db.exec(`create table history(id integer primary key, room text, author text, written, words text, enclosure text, star integer);
				create table room(name text primary key, kind text, people text);
				create table address_book(name text, phone text, mail text)`);
			for (const p of s.people) db.run(insertInto('address_book', 3), [p.name, p.number, p.mail]);
			for (const room of s.rooms) {
				const people = JSON.stringify([...room.members.map((p) => p.name), 'Owen Farrow']);
				db.run(insertInto('room', 3), [room.title ?? room.members[0]!.name, room.title === null ? 'pair' : 'group', people]);
			}
		},
		write: (db, s, m) => {
			const room = m.room.title ?? m.room.members[0]!.name;
			const values: Cell[] = [null, room, m.who?.name ?? 'Owen Farrow', s.time(m.at), m.text, m.file?.path ?? null, 0];
			m.id = [db.run(insertInto('history', 7), values).lastInsertRowid];
		},
		row: () => ['history', 'id=?', 'words']
	},
	mailed: {
		...OF_ALL,
		needsGroup: true,
		counted: true,
		address: 'mail',
		setUp: (db) =>
			db.exec(`create table account(address text, label text, host text);
				insert into account values('owen@desk.example', 'Owen Farrow', 'mail.desk.example');
				create table item(uid integer primary key autoincrement, box text, sender text, recipients text, topic text, date text, body text, msgid text);
				create table enclosure(item integer, filename text, type text, bytes integer)`),
		write: (db, s, m) => {
			const own = { name: 'Owen Farrow', mail: 'owen@desk.example' };
			const mailbox = (p: { name: string; mail: string }): string => `${p.name} <${p.mail}>`;
			const to = [...m.room.members.filter((p) => p !== m.who), ...(m.who ? [own] : [])].map(mailbox).join(', ');
			const date = s.unit === 'seconds' ? new Date(m.at).toUTCString().replace('GMT', '+0000') : new Date(m.at).toISOString();
			const values: Cell[] = [
				null,
				m.who ? 'Inbox' : 'Sent',
				mailbox(m.who ?? own),
				to,
				m.room.title ?? '',
				date,
				m.text,
				`<${digestOf(m.n).slice(0, 16)}@desk.example>`
			];
			m.id = [db.run(insertInto('item', 8), values).lastInsertRowid];
			if (m.file) db.run(insertInto('enclosure', 4), [m.id[0]!, m.file.name, m.file.type, m.file.bytes.length]);
		},
		row: () => ['item', 'uid=?', 'body'],
		more: ['enclosure where item=?']
	},
	elements: {
		...OF_ALL,
		needsGroup: true,
		setUp: (db, s) => {
			db.exec('create table friend(uname text primary key, num text, nick text); create table room(rname text primary key, title text)');
			for (const p of s.people) db.run(insertInto('friend', 3), [unameOf(p), p.number, p.name]);
			for (const room of s.rooms) {
				if (room.title !== null) db.run(insertInto('room', 2), [roomName(room), room.title]);
				db.exec(
					`create table ${tableOf(room)}(lid integer primary key autoincrement, sid integer, made, msg text, st integer, kind integer, des integer)`
				);
			}
		},
		write: (db, s, m) => {
			const { file } = m;
			const caption = m.text === null ? '' : `<caption>${m.text.replaceAll('&', '&amp;')}</caption>`;
			const said = file ? `<msg><file name="${file.name}" size="${file.bytes.length}"/>${caption}</msg>` : m.text;
			const msg = m.who && m.room.title !== null ? `${unameOf(m.who)}:\n${said}` : said;
			const columns = 'sid,made,msg,st,kind,des';
			const values: Cell[] = [4_000_000_000 + m.n * 7919, s.time(m.at), msg, 2, file ? 3 : 1, m.who ? 1 : 0];
			m.id = [db.run(insert(tableOf(m.room), columns), values).lastInsertRowid];
		},
		row: (m) => [tableOf(m.room), 'lid=?', 'msg'],
		edits: false
	}
};

type Somebody = Pick<Composer['people'][number], 'i' | 'name'>;
type Room = Draft['room'];

const user = ({ name, i }: Somebody): string => `@${name.split(' ')[0]!.toLowerCase()}${i}:rooms.example`;
const roomKey = (room: Room): string => `!${digestOf('room', room.i).slice(0, 18)}:rooms.example`;
const chan = (room: Room): string => `c${digestOf('chan', room.i).slice(0, 12)}`;
const dialogOf = (room: Room): number => (room.title === null ? idOf(room.members[0]!.i) : -idOf(room.i + 500));
const unameOf = (p: Somebody): string => `hid_${digestOf('uname', p.i).slice(0, 10)}`;
const roomName = (room: Room): string => `${7_000_000 + room.i}@room`;
const tableOf = (room: Room): string =>
	`Talk_${createHash('md5')
		.update(room.title === null ? unameOf(room.members[0]!) : roomName(room))
		.digest('hex')}`;
const peerOf = (room: Room): string =>
	room.title === null ? account(room.members[0]!.number) : `${OWNER.slice(1)}-17380${room.i}@g.chat.example`;

/** Writes down the last message of a conversation as quoted. */
function quote(db: Parameters<Layout['setUp']>[0], peer: string): number | null {
	const [last] = db.all('select * from msgs where peer=? and data is not null order by id desc limit 1', [peer]);
	if (!last) return null;
	const { mine, key, data, at, remote } = last as Record<string, Cell>;
	return db.run(insert('msgs_quoted', 'peer,mine,key,data,at,remote'), [peer, mine!, key!, data!, at!, remote!]).lastInsertRowid;
}

function happen(
	db: Parameters<Layout['setUp']>[0],
	s: Composer,
	room: string,
	sender: string,
	kind: string,
	at: number,
	content: Record<string, unknown>
): string {
	const eid = `$${digestOf('event', room, sender, kind, at).slice(0, 24)}`;
	db.run(insert('event', 'eid,room,sender,kind,at,content'), [eid, room, sender, kind, s.time(at), JSON.stringify(content)]);
	return eid;
}
