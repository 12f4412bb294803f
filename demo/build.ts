/**
 * Builds the demo case's files with the real engine and a fixed seed: the phone's text store ("Postern") with its log
 * beside it, and its truth. `npm run demo:build`. The built files are committed; running the demo needs no engine.
 *
 * What is done to it, in order: three months of correspondence written; two messages wiped so that no byte is left; the thread with the unknown number deleted whole;
 * the oldest third of the plant desk expired; single messages deleted by hand in February; one message put right
 * later; two moved to the program's own bin; the log taken over in part and written to again.
 */
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createDatabase } from '../test/vectors/engine';
import { Random } from '../test/vectors/random';
import { backup, locked, PASSPHRASE } from './backups';
import { profile } from './laptop';
import { addressBook, exported } from './resident';
import { KEY_MESSAGES, LINES } from './words';

const OUT = join(import.meta.dirname, '..', 'static', 'demo');
const SECONDS_2001 = Date.UTC(2001, 0, 1) / 1000;

interface Told {
	id: number;
	with: string;
	/** Key of the writer; '' for the owner. */
	writer: string;
	text: string;
	at: number;
	lost: null | 'single' | 'wiped' | 'thread' | 'expired' | 'binned';
	earlier: string[];
}

const PEOPLE = [
	{ key: 'odile', name: 'Odile Marchetti', address: '+33639980417' },
	{ key: 'tamsin', name: 'Tamsin Okafor', address: '+447700900271' },
	{ key: 'bram', name: 'Bram Vesterholt', address: 'bram@vesterholt.example' },
	{ key: 'noor', name: 'نور الخطيب', address: '+15550100173' },
	{ key: 'wen', name: '李雯', address: '+15550100148' },
	{ key: 'yusuf', name: 'Yusuf Demirkan', address: '+447700900455' },
	{ key: 'unknown', name: null, address: '+447700900938' }
] as const;
const ROOMS = [
	{ key: 'stair', title: 'Residents’ stairwell', members: ['odile', 'tamsin', 'bram', 'noor', 'wen', 'yusuf'] },
	{ key: 'desk', title: 'Plant desk', members: ['bram', 'yusuf'] }
] as const;
const UNKNOWN_LINES = [
	'Your parcel is at the depot, ref 4471',
	'Second notice: parcel 4471 waits for you',
	'We could not reach you. Call back before Friday',
	'Last notice for parcel 4471',
	'You still owe me for the pump',
	'I know what you told them on the 30th',
	'Call me. Not by text',
	'Tuesday, the usual place',
	'And bring the papers',
	'Delete this'
];

const LOSS = {
	owner: 'Piet Hallorann',
	partners: ['Odile Marchetti'],
	sent: '28 January to 3 February 2025',
	lastSeen: '10 February 2025',
	noticed: '25 February 2025',
	how: 'by hand',
	kinds: ['texts', 'pictures'],
	words: ['credit', 'January charge']
};
const PLACES = [
	{
		id: 'backup-9-feb',
		kind: 'computer-backup',
		name: 'Backup on the laptop',
		taken: '9 February 2025',
		offer: 'backup-9-feb.zip',
		capture: 'backup-9-feb.zip'
	},
	{
		id: 'backup-12-feb',
		kind: 'computer-backup',
		name: 'Locked backup on the laptop',
		note: `locked; on the laptop’s lid stands: ${PASSPHRASE}`,
		taken: '12 February 2025',
		offer: 'backup-12-feb.age',
		capture: 'backup-12-feb.age'
	},
	{
		id: 'phone',
		kind: 'freed-space',
		name: 'The phone, freed space',
		note: 'Fennel 3, its text store',
		taken: '3 March 2025',
		source: 'post.box',
		capture: 'post.box'
	},
	{ id: 'bin', kind: 'bin', name: 'The program’s own bin', note: 'Postern keeps 30 days' },
	{
		id: 'odile',
		kind: 'other-side',
		name: 'Odile’s own copy',
		note: 'exported conversation with its pictures',
		taken: '10 February 2025',
		offer: 'odile-conversation.zip',
		capture: 'odile-conversation.zip'
	},
	{ id: 'disk', kind: 'disk', name: 'The laptop’s disk', note: 'Wickerdesk, before the reinstall', taken: '19 February 2025' },
	{
		id: 'desk',
		kind: 'profile',
		name: 'Desk chat on the laptop',
		note: 'Wickerdesk, a copy of its profile folder',
		taken: '19 February 2025',
		offer: 'desk-profile.zip',
		capture: 'desk-profile.zip'
	},
	{ id: 'restore', kind: 'restore-computer', name: 'Restoring it to the phone', taken: '9 February 2025' },
	{
		id: 'backup-5-jan',
		kind: 'computer-backup',
		name: 'Older backup on the laptop',
		taken: '5 January 2025',
		offer: 'backup-5-jan.zip',
		capture: 'backup-5-jan.zip'
	},
	{
		id: 'account',
		kind: 'account',
		name: 'Remote account',
		note: 'texts kept in step',
		tried: { at: Date.UTC(2025, 2, 3, 9), result: 'nothing', note: 'Deleting there deleted here.' }
	}
];

function tell(r: Random): Told[] {
	const told: Omit<Told, 'id'>[] = [];
	const start = Date.UTC(2024, 10, 20);
	const end = Date.UTC(2025, 2, 2, 20);
	const counts: Record<string, number> = { odile: 120, tamsin: 60, bram: 55, noor: 48, wen: 44, yusuf: 36, stair: 130, desk: 90 };
	for (const [key, count] of Object.entries(counts)) {
		const lines = LINES[key]!;
		const room = ROOMS.find((x) => x.key === key);
		let at = start + r.int(0, 40) * 3_600_000;
		const step = (end - at) / count;
		for (let i = 0; i < count; i++) {
			at += Math.floor(step * (0.4 + r.next() * 1.2));
			if (at > end) break;
			// People write by day.
			const hour = new Date(at).getUTCHours();
			const shown = hour < 6 ? at + (7 - hour) * 3_600_000 : at;
			const mine = r.chance(0.42);
			const text = r.pick(mine ? lines.us : lines.them);
			told.push({
				with: key,
				writer: mine ? '' : room ? r.pick(room.members) : key,
				text: r.chance(0.3) ? `${text} (${r.int(10, 99)})` : text,
				at: Math.floor(shown / 1000) * 1000,
				lost: null,
				earlier: []
			});
		}
	}
	let at = Date.UTC(2025, 0, 20, 9);
	for (const text of UNKNOWN_LINES) {
		at += r.int(8, 60) * 3_600_000;
		told.push({ with: 'unknown', writer: 'unknown', text, at, lost: null, earlier: [] });
	}
	for (const m of KEY_MESSAGES) {
		const room = ROOMS.find((x) => x.key === m.with);
		told.push({
			with: m.with,
			writer: m.mine ? '' : room ? 'odile' : m.with,
			text: m.editedFrom ?? m.text,
			at: Date.parse(m.at),
			lost: null,
			earlier: []
		});
	}
	return told.sort((a, b) => a.at - b.at).map((m, i) => ({ ...m, id: 40_100 + i }));
}

async function build(): Promise<void> {
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-demo-'));
	const path = join(folder, 'post.box');
	const r = new Random(20250130);
	const told = tell(r);
	const db = createDatabase(path, ['page_size=4096', 'journal_mode=wal', 'wal_autocheckpoint=0']);
	db.exec(`create table peers(id integer primary key, address text not null, name text);
		create table rooms(id integer primary key, title text, made_at integer);
		create table room_peers(room_id integer not null references rooms(id), peer_id integer not null references peers(id), primary key(room_id, peer_id));
		create table letters(id integer primary key autoincrement, room_id integer not null references rooms(id), peer_id integer references peers(id), body text, sent_at integer not null, mine integer not null, state integer not null default 2, binned_at integer);
		create index letters_by_room on letters(room_id, sent_at);`);
	const peerId = new Map<string, number>();
	PEOPLE.forEach((p, i) => {
		peerId.set(p.key, 11 + i);
		db.run('insert into peers values(?,?,?)', [11 + i, p.address, p.name]);
	});
	const roomId = new Map<string, number>();
	[
		...PEOPLE.map((p) => ({ key: p.key as string, title: null as string | null, members: [p.key as string] })),
		...ROOMS.map((x) => ({ key: x.key as string, title: x.title as string | null, members: [...x.members] as string[] }))
	].forEach((room, i) => {
		roomId.set(room.key, 1 + i);
		db.run('insert into rooms values(?,?,?)', [1 + i, room.title, 753_000_000 + i * 86_400]);
		for (const m of room.members) db.run('insert into room_peers values(?,?)', [1 + i, peerId.get(m)!]);
	});
	db.exec("insert into sqlite_sequence values('letters', 40099)");
	const write = (m: Told): void => {
		db.run('insert into letters values(?,?,?,?,?,?,?,null)', [
			m.id,
			roomId.get(m.with)!,
			m.writer === '' ? null : peerId.get(m.writer)!,
			m.text,
			m.at / 1000 - SECONDS_2001,
			m.writer === '' ? 1 : 0,
			2
		]);
	};
	const lose = (m: Told, how: Told['lost']): void => {
		db.run('delete from letters where id=?', [m.id]);
		m.lost = how;
	};
	const together = (act: () => void): void => {
		db.exec('begin');
		act();
		db.exec('commit');
	};
	const key = (m: { with: string; at: number }): (typeof KEY_MESSAGES)[number] | undefined =>
		KEY_MESSAGES.find((k) => k.with === m.with && Date.parse(k.at) === m.at);
	const until = (date: number): Told[] => told.filter((m) => m.at <= date);
	const mid = Date.UTC(2025, 1, 13);

	const early = Date.UTC(2025, 0, 5, 21, 30);
	const backupAt = Date.UTC(2025, 1, 9, 20, 14);
	const lockedAt = Date.UTC(2025, 1, 12, 22, 40);
	const put = (name: string, bytes: Uint8Array | string): void => writeFileSync(join(OUT, name), bytes);
	const inSteps = (list: Told[]): void => {
		for (let i = 0; i < list.length; i += 25) together(() => list.slice(i, i + 25).forEach(write));
		db.all('pragma wal_checkpoint(truncate)');
	};
	inSteps(until(early));
	put('backup-5-jan.zip', backup('Backup 1', readFileSync(path), early));
	inSteps(until(backupAt).filter((m) => m.at > early));
	// The computer's backup of 9 February: the store as it was that evening.
	put('backup-9-feb.zip', backup('Backup 2', readFileSync(path), backupAt));
	inSteps(until(mid).filter((m) => m.at > backupAt));
	put('backup-12-feb.age', await locked(backup('Backup 3', readFileSync(path), lockedAt)));
	const lines = until(backupAt).filter((m) => m.with === 'odile');
	put(
		'odile-conversation.zip',
		exported(
			lines.map((m) => ({
				at: m.at,
				writer: m.writer === '' ? 'Piet Hallorann' : 'Odile Marchetti',
				text: m.text,
				...(m.text.startsWith('Photo of the meter') ? { file: 'meter-at-shut-off.png' } : {})
			}))
		)
	);
	put('contacts.vcf', addressBook(PEOPLE));
	put('desk-profile.zip', profile(new Random(77)));
	// Two messages of which no byte is left.
	db.all('pragma secure_delete=on');
	together(() => told.filter((m) => key(m)?.gone === 'wiped').forEach((m) => lose(m, 'wiped')));
	db.all('pragma wal_checkpoint(truncate)');
	db.all('pragma secure_delete=off');
	// Expiry of the desk's oldest, the unknown number's thread whole, then the messages that matter, one by one.
	together(() =>
		told
			.filter((m) => m.with === 'desk')
			.slice(0, 26)
			.forEach((m) => lose(m, 'expired'))
	);
	db.all('pragma wal_checkpoint(truncate)');
	together(() => told.filter((m) => m.with === 'unknown' && m.at <= mid).forEach((m) => lose(m, 'thread')));
	for (const m of told.filter((x) => key(x)?.gone === 'single')) lose(m, 'single');
	for (const m of told.filter((x) => x.with === 'wen' && x.at < mid).filter((_, i) => i % 5 === 2)) lose(m, 'single');
	db.all('pragma wal_checkpoint(truncate)');
	// After that the program goes on, in its log.
	const edited = told.find((m) => key(m)?.editedFrom)!;
	edited.earlier.push(edited.text);
	edited.text = key(edited)!.text;
	db.run('update letters set body=? where id=?', [edited.text, edited.id]);
	const rest = told.filter((m) => m.at > mid);
	for (let i = 0; i < rest.length; i += 12) together(() => rest.slice(i, i + 12).forEach(write));
	for (const m of told.filter((x) => x.with === 'noor' && x.lost === null && x.at < mid).slice(-3)) lose(m, 'single');
	for (const m of told.filter((x) => x.with === 'odile' && x.lost === null && x.writer === '' && x.at > Date.UTC(2025, 1, 1)).slice(0, 2)) {
		db.run('update letters set binned_at=? where id=?', [Math.floor(Date.UTC(2025, 1, 24, 8) / 1000) - SECONDS_2001, m.id]);
		m.lost = 'binned';
	}
	for (const ending of ['', '-wal']) writeFileSync(join(OUT, `post.box${ending}`), readFileSync(path + ending));
	db.close();
	rmSync(folder, { recursive: true, force: true });

	const taken = Date.UTC(2025, 2, 3, 9, 41);
	const list = {
		name: 'Marrow Lane heat charges',
		owner: 'Piet Hallorann',
		zone: 'Europe/Brussels',
		today: Date.UTC(2025, 2, 3, 11),
		loss: LOSS,
		places: PLACES.map((p) => ({ note: '', taken: '', span: null, source: null, capture: null, offer: null, tried: null, ...p })),
		heeded: { 'phone-unused': Date.UTC(2025, 2, 3, 8, 20), 'no-sync': Date.UTC(2025, 2, 3, 8, 21) },
		files: ['post.box', 'post.box-wal', 'contacts.vcf'].map((name) => ({ name, modified: taken }))
	};
	writeFileSync(join(OUT, 'case.json'), `${JSON.stringify(list, null, '\t')}\n`);
	const truth = told.map((m) => ({
		...m,
		at: new Date(m.at).toISOString(),
		correspondent:
			m.writer === ''
				? ROOMS.some((x) => x.key === m.with)
					? null
					: PEOPLE.find((p) => p.key === m.with)!.address
				: PEOPLE.find((p) => p.key === m.writer)!.address
	}));
	writeFileSync(join(import.meta.dirname, 'truth.json'), `[\n${truth.map((t) => JSON.stringify(t)).join(',\n')}\n]\n`);
	process.stderr.write(
		`${told.length} messages, ${told.filter((m) => m.lost).length} of them lost; ${['', '-wal'].map((e) => statSync(join(OUT, `post.box${e}`)).size).join(' + ')} bytes\n`
	);
}

await build();
