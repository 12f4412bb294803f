/**
 * Backups of one made-up phone as they lie on a computer: folders of files named by hashes, a database that gives their
 * names, property lists that state date and device. The phone's message store is the real engine's; between the backups
 * messages are deleted and written. With the truth: which capture holds what.
 */
import { createHash } from 'node:crypto';
import { zipSync } from 'fflate';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { createDatabase, openDatabase, type Engine } from './engine';
import { Random } from './random';

export const HOLDERS = ['Ada Moor', 'Bo Lind', 'Cy Vane', 'Dot Hale'].map((name, i) => ({ name, number: `+44770090010${i}` }));
const WORDS =
	'boiler valve pump tenant invoice meeting corridor heater ladder window morning please bring the old key for unit seven'.split(' ');
const STORE = 'Library/Talk/talk.db';
const BOOK = 'Library/Book/book.sqlitedb';
/** Seconds from 1970 to 2001. */
const SINCE_2001 = 978_307_200;

export interface Talked {
	id: number;
	/** Seconds since 1970. */
	at: number;
	with: number;
	mine: boolean;
	text: string;
	/** Path and SHA-256 of its picture. */
	picture: { path: string; sha256: string } | null;
	alive: boolean;
	/** Whether each backup made since it was written holds it, by the backup's number. */
	heldBy: Map<number, boolean>;
}

interface Listed {
	hash: string;
	path: string;
}

export const LIST_FORMS = ['rows', 'areas by number', 'entries', 'names by hash', 'hashes by name', 'area by area'] as const;
export type ListForm = (typeof LIST_FORMS)[number];
const AREA = 'HomeDomain';

export class Phone {
	readonly messages: Talked[] = [];
	readonly dates: number[] = [];
	private readonly pictures = new Map<string, Buffer>();
	private readonly r: Random;
	private readonly store: string;
	private at = Date.UTC(2024, 11, 1) / 1000;

	constructor(
		private readonly folder: string,
		seed: number,
		/** In which form the list of a backup's files is written. */
		private readonly list: ListForm = 'rows'
	) {
		this.r = new Random(seed);
		this.store = join(folder, 'work', 'talk.db');
		mkdirSync(dirname(this.store), { recursive: true });
		const db = createDatabase(this.store, ['secure_delete=off']);
		db.exec(`create table handle(id integer primary key, ident text, service text);
			create table chat(id integer primary key, guid text, ident text);
			create table message(id integer primary key autoincrement, guid text, text text, handle int, date int, is_from_me int);
			create table chat_message_join(chat int, message int, primary key(chat, message));
			create table attachment(id integer primary key autoincrement, filename text, mime text, transfer_name text, total int);
			create table message_attachment_join(message int, attachment int)`);
		HOLDERS.forEach(({ number }, i) => {
			db.run("insert into handle values(?,?,'net')", [i + 1, number]);
			db.run('insert into chat values(?,?,?)', [i + 1, `net;-;${number}`, number]);
		});
		db.close();
		this.writeBook();
	}

	/** The phone's address book: persons in one table, their numbers and addresses in another. */
	private writeBook(): void {
		const db = createDatabase(join(this.folder, 'work', 'book.db'));
		db.exec(
			'create table person(id integer primary key, first text, last text, org text); create table multivalue(uid integer primary key, record int, kind int, value text)'
		);
		HOLDERS.forEach(({ name, number }, i) => {
			const [first, last] = name.split(' ');
			db.run('insert into person values(?,?,?,null)', [i + 1, first, last]);
			db.run('insert into multivalue(record,kind,value) values(?,3,?)', [
				i + 1,
				`${number.slice(0, 3)} ${number.slice(3, 7)} ${number.slice(7)}`
			]);
			db.run('insert into multivalue(record,kind,value) values(?,4,?)', [i + 1, `${first!.toLowerCase()}@works.example`]);
		});
		db.close();
	}

	private with(work: (db: Engine) => void): void {
		const db = openDatabase(this.store, ['secure_delete=off']);
		db.exec('begin');
		work(db);
		db.exec('commit');
		db.close();
	}

	/** So many messages up to a time. */
	write(count: number, until: number): void {
		const { r } = this;
		const step = Math.floor((until - this.at) / (count + 2));
		this.with((db) => {
			for (let i = 0; i < count; i++) {
				this.at += r.int(1, step);
				const id = this.messages.length + 1;
				const m: Talked = {
					id,
					at: this.at,
					with: r.int(0, HOLDERS.length - 1),
					mine: r.chance(0.45),
					text: `${Array.from({ length: r.int(2, 14) }, () => r.pick(WORDS)).join(' ')} ${id}`,
					picture: null,
					alive: true,
					heldBy: new Map()
				};
				db.run('insert into message values(?,?,?,?,?,?)', [id, r.hex(32), m.text, m.with + 1, (m.at - SINCE_2001) * 1e9, m.mine ? 1 : 0]);
				db.run('insert into chat_message_join values(?,?)', [m.with + 1, id]);
				if (r.chance(0.12)) this.attach(db, m);
				this.messages.push(m);
			}
		});
	}

	private attach(db: Engine, m: Talked): void {
		const noise = Buffer.from(Array.from({ length: this.r.int(300, 2000) }, () => this.r.int(0, 255)));
		// Some are archives, as documents are.
		const isArchive = m.id % 3 === 0;
		const bytes = isArchive
			? Buffer.from(zipSync({ 'part.bin': new Uint8Array(noise) }))
			: Buffer.concat([Buffer.from([0xff, 0xd8, 0xff, 0xe0]), noise]);
		const path = `Library/Talk/Pictures/${this.r.hex(2)}/IMG_${m.id}.jpg`;
		this.pictures.set(path, bytes);
		const { lastInsertRowid } = db.run("insert into attachment(filename,mime,transfer_name,total) values(?,'image/jpeg',?,?)", [
			`~/${path}`,
			`IMG_${m.id}.jpg`,
			bytes.length
		]);
		db.run('insert into message_attachment_join values(?,?)', [m.id, lastInsertRowid]);
		m.picture = { path, sha256: createHash('sha256').update(bytes).digest('hex') };
	}

	remove(which: (m: Talked) => boolean): void {
		this.with((db) => {
			for (const m of this.messages.filter((x) => x.alive && which(x))) {
				m.alive = false;
				db.run('delete from message where id=?', [m.id]);
				db.run('delete from chat_message_join where message=?', [m.id]);
			}
		});
	}

	private writeList(root: string, listed: readonly Listed[]): void {
		const text = (value: string): string => `<string>${value}</string>`;
		const pairs = (key: keyof Listed, value: keyof Listed): string => listed.map((f) => `<key>${f[key]}</key>${text(f[value])}`).join('');
		const entries = listed.map((f) => `<dict><key>id</key>${text(f.hash)}<key>path</key>${text(f.path)}</dict>`).join('');
		const write = (inside: string): void => writeFileSync(join(root, 'List.plist'), plist(inside));
		switch (this.list) {
			case 'rows':
			case 'areas by number':
				return this.writeListDatabase(root, listed, this.list === 'rows');
			case 'entries':
				// The device's own number is a digest too.
				return write(
					`<key>Device</key>${text(createHash('sha1').update('device').digest('hex'))}<key>Name</key>${text('Fennel 3')}<key>Files</key><array>${entries}</array>`
				);
			case 'names by hash':
				return write(`<key>Files</key><dict>${pairs('hash', 'path')}</dict>`);
			case 'hashes by name':
				return write(pairs('path', 'hash'));
			case 'area by area':
				return write(`<key>areas</key><dict><key>${AREA}</key><dict><key>items</key><array>${entries}</array></dict></dict>`);
		}
	}

	private writeListDatabase(root: string, listed: readonly Listed[], named: boolean): void {
		const db = createDatabase(join(root, 'Index.db'));
		db.exec('create table Files(fileID text primary key, domain, relativePath text, flags integer, file blob)');
		if (!named)
			db.exec(`create table Areas(id integer primary key, name text); insert into Areas values(1,'App'),(2,'${AREA}'),(3,'Other')`);
		db.exec('begin');
		const put = (hash: string, area: string | number, path: string, flags: number): void =>
			void db.run('insert into Files values(?,?,?,?,null)', [hash, area, path, flags]);
		for (const { hash, path } of listed) put(hash, named ? AREA : 2, path, 1);
		put(createHash('sha1').update('App-Library').digest('hex'), named ? 'App' : 1, 'Library', 2);
		put(createHash('sha1').update('Other-Library').digest('hex'), named ? 'Other' : 3, 'Library', 2);
		db.exec('commit');
		db.close();
	}

	/** Makes a backup at a time (ms UTC); `partial`: of the files that changed since the last one alone. Its folder. */
	backup(name: string, at: number, partial = false): string {
		const root = join(this.folder, 'backups', name);
		rmSync(root, { recursive: true, force: true });
		mkdirSync(root, { recursive: true });
		const files = new Map<string, Buffer>([
			[STORE, readFileSync(this.store)],
			[BOOK, readFileSync(join(this.folder, 'work', 'book.db'))],
			['Library/Preferences/clock.txt', Buffer.from(`set ${at}`)],
			...this.pictures
		]);
		const listed: Listed[] = [];
		for (const [path, bytes] of files) {
			const hash = createHash('sha1').update(`${AREA}-${path}`).digest('hex');
			listed.push({ hash, path });
			const digest = createHash('sha256').update(bytes).digest('hex');
			if (partial && this.backedUp.get(path) === digest) continue;
			this.backedUp.set(path, digest);
			mkdirSync(join(root, hash.slice(0, 2)), { recursive: true });
			writeFileSync(join(root, hash.slice(0, 2), hash), bytes);
		}
		this.writeList(root, listed);
		const date = `<date>${new Date(at).toISOString().replace('.000', '')}</date>`;
		writeFileSync(join(root, 'Info.plist'), plist(`<key>Device Name</key><string>Fennel 3</string><key>Last Made</key>${date}`));
		writeFileSync(join(root, 'Status.plist'), plist(`<key>IsFull</key><${!partial}/><key>Date</key>${date}`));
		for (const m of this.messages) m.heldBy.set(this.dates.length, m.alive);
		this.dates.push(at);
		this.at = Math.max(this.at, at / 1000);
		return root;
	}

	private readonly backedUp = new Map<string, string>();
}

const plist = (inner: string): string => `<?xml version="1.0"?><plist version="1.0"><dict>${inner}</dict></plist>`;
