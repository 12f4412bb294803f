/** The profile folder of the desk chat ("Wickerdesk") as copied from the laptop: its store, settings, received files. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { createDatabase } from '../test/vectors/engine';
import type { Random } from '../test/vectors/random';
import { gauge, sheet } from './pictures';
import { LINES } from './words';

const FOLK = [
	{ key: 'tamsin', handle: 'tamsin.okafor', name: 'Tamsin Okafor' },
	{ key: 'bram', handle: 'b.vesterholt', name: 'Bram Vesterholt' },
	{ key: 'yusuf', handle: 'ydemirkan', name: 'Yusuf Demirkan' }
] as const;
const OWN = 'piet.hallorann';
/** Units of 100 ns since 1601, as the desk chat counts: more digits than a number holds, so the engine reads them. */
const ticks = (at: number): string => `${BigInt(at) + 11_644_473_600_000n}0000`;

/** Files that notes state: what is stated, and under which name it lies there now (null: it does not). */
const PAPERS: readonly { path: string; lies: string | null; bytes: Uint8Array; type: string }[] = [
	{ path: 'received/2025-01/readings-january.png', lies: 'received/2025-01/readings-january.png', bytes: sheet(9), type: 'image/png' },
	{ path: 'received/2025-01/gauge-staircase-b.png', lies: 'received/2025-01/gauge-staircase-b.png', bytes: gauge(0.31), type: 'image/png' },
	{ path: 'received/2025-02/minutes-draft.png', lies: 'attic/00000017.dat', bytes: sheet(5), type: 'image/png' },
	{ path: 'received/2025-02/office-letter.png', lies: null, bytes: sheet(3), type: 'image/png' }
];

export function profile(r: Random): Uint8Array {
	const work = mkdtempSync(join(tmpdir(), 'ombudsman-laptop-'));
	const path = join(work, 'desk.store');
	const db = createDatabase(path, ['page_size=4096', 'secure_delete=off']);
	db.exec(`create table folk(id integer primary key, handle text not null, shown text);
		create table talks(id integer primary key, with_id integer references folk(id), opened integer);
		create table notes(id integer primary key autoincrement, talk_id integer not null references talks(id), from_id integer not null references folk(id), words text, ticks integer not null, seen integer default 1);
		create table papers(id integer primary key, note_id integer not null references notes(id), path text, media text, bytes integer)`);
	db.run('insert into folk values(1,?,?)', [OWN, 'Piet Hallorann']);
	FOLK.forEach((f, i) => {
		db.run('insert into folk values(?,?,?)', [2 + i, f.handle, f.name]);
		db.run('insert into talks values(?,?,cast(? as integer))', [1 + i, 2 + i, ticks(Date.UTC(2024, 11, 1))]);
	});
	let at = Date.UTC(2024, 11, 2, 8);
	const end = Date.UTC(2025, 1, 18, 16);
	const step = (end - at) / 90;
	const notes: number[] = [];
	let agreed = 0;
	for (let i = 0; i < 90; i++) {
		at += Math.floor(step * (0.5 + r.next()));
		if (i === 74)
			agreed = db.run('insert into notes(talk_id, from_id, words, ticks) values(1,1,?,cast(? as integer))', [
				'I told Odile the month is credited. Do not put it in the minutes yet.',
				ticks(at - 90_000)
			]).lastInsertRowid;
		const who = r.int(0, FOLK.length - 1);
		const mine = r.chance(0.45);
		const lines = LINES[FOLK[who]!.key]!;
		const { lastInsertRowid } = db.run('insert into notes(talk_id, from_id, words, ticks) values(?,?,?,cast(? as integer))', [
			1 + who,
			mine ? 1 : 2 + who,
			r.pick(mine ? lines.us : lines.them),
			ticks(at)
		]);
		notes.push(lastInsertRowid);
	}
	PAPERS.forEach((p, i) =>
		db.run('insert into papers values(?,?,?,?,?)', [
			1 + i,
			notes[20 + i * 17]!,
			`C:\\Wickerdesk\\piet\\${p.path.replaceAll('/', '\\')}`,
			p.type,
			p.bytes.length
		])
	);
	db.run('delete from notes where id=?', [agreed]);
	for (const id of notes.slice(40, 44)) db.run('delete from notes where id=?', [id]);
	db.close();
	const store = readFileSync(path);
	rmSync(work, { recursive: true, force: true });
	const mtime = Date.UTC(2025, 1, 19, 12);
	const files: Record<string, [Uint8Array, { mtime: number }]> = {
		'Wickerdesk/piet/desk.store': [store, { mtime }],
		'Wickerdesk/piet/settings.json': [
			new TextEncoder().encode('{"account":"piet.hallorann","keep":"ever","window":{"width":900,"height":640}}\n'),
			{ mtime }
		]
	};
	for (const p of PAPERS) if (p.lies) files[`Wickerdesk/piet/${p.lies}`] = [p.bytes, { mtime }];
	return zipSync(files, { level: 9 });
}
