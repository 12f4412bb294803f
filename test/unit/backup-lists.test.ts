/** By what a folder of hash-named files is known as a backup, whatever lies where, and by what it is none. */
import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { gzipSync } from 'node:zlib';
import { openPaths } from '../../src/cli/files';
import { messageLine } from '../../src/cli/lines';
import { Look } from '../../src/core/look';
import { unwrap } from '../../src/core/unwrap';
import { createDatabase, type Engine } from '../vectors/engine';

const PATHS = ['Library/Post/notes.txt', 'Media/IMG_0001.jpg', 'Media/IMG_0002.jpg', 'Library/Words/list.txt'];
/** Areas have strokes as paths have. */
const areaOf = (path: string): string => (path.startsWith('Media') ? 'shared/media' : 'apps/post');
const hashOf = (path: string, length = 40): string => createHash('sha256').update(path).digest('hex').slice(0, length);
const COUNT = 24;

describe('folders of hash-named files', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-lists-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	const put = (path: string, bytes: string | Uint8Array): void => {
		mkdirSync(dirname(path), { recursive: true });
		writeFileSync(path, bytes);
	};
	const pathsIn = async (root: string): Promise<string[]> => {
		const unwrapped = await unwrap(openPaths([root]), []);
		return unwrapped.backups.flatMap((backup) => backup.files.filter((f) => !f.opened).map((f) => f.path.slice(root.length + 1))).sort();
	};
	const listInto = (path: string, ending = ''): void => {
		const db = createDatabase(path);
		db.exec('create table content(object text primary key, root text, name text, size integer)');
		for (const p of PATHS) db.run('insert into content values(?,?,?,?)', [hashOf(p) + ending, areaOf(p), p, p.length]);
		db.close();
	};
	const expected = PATHS.map((p) => `${areaOf(p)}/${p}`).sort();

	const PLACES: [what: string, place: (hash: string) => string][] = [
		['beside the list', (hash) => hash],
		['with an ending', (hash) => `${hash}.bin`],
		['in folders of their first digits', (hash) => `${hash.slice(0, 2)}/${hash}`],
		['in folders within folders', (hash) => `${hash.slice(0, 2)}/${hash.slice(2, 4)}/${hash}.data`],
		['in a folder of their own', (hash) => `content/${hash.slice(0, 2)}/${hash}`],
		['in folders that have the digits their names lack', (hash) => `content/${hash.slice(0, 2)}/${hash.slice(2)}`]
	];
	for (const [what, place] of PLACES) {
		it(`are a backup where the files lie ${what}: each under its real name`, async () => {
			const root = join(folder, what);
			for (const path of PATHS) put(join(root, place(hashOf(path))), `bytes of ${path}`);
			listInto(join(root, 'list.db'));
			assert.deepEqual(await pathsIn(root), expected);
		});
	}

	it('are one where the list names them with their ending', async () => {
		const root = join(folder, 'endings');
		for (const path of PATHS) put(join(root, `${hashOf(path)}.bin`), `bytes of ${path}`);
		listInto(join(root, 'list.db'), '.bin');
		assert.deepEqual(await pathsIn(root), expected);
	});

	it('are one where a property list names area before path', async () => {
		const root = join(folder, 'plist');
		const entry = (p: string): string =>
			`<dict><key>id</key><string>${hashOf(p)}</string><key>area</key><string>${areaOf(p)}</string><key>path</key><string>${p}</string></dict>`;
		for (const path of PATHS) put(join(root, hashOf(path)), `bytes of ${path}`);
		put(
			join(root, 'contents.plist'),
			`<?xml version="1.0"?><plist version="1.0"><dict><key>Entries</key><array>${PATHS.map(entry).join('')}</array></dict></plist>`
		);
		assert.deepEqual(await pathsIn(root), expected);
	});

	for (const place of ['', 'files/', 'files/xx/']) {
		it(`are none where a program's own database lists its attachments so (${place || 'beside it'})`, async () => {
			const root = join(folder, `profile ${place.length}`);
			const db: Engine = createDatabase((mkdirSync(root, { recursive: true }), join(root, 'talk.db')));
			db.exec(`create table person(id integer primary key, name text, number text);
				create table message(id integer primary key, person integer, body text, at integer, mine integer);
				create table attachment(id integer primary key, message integer, sha256 text, path text, mime text)`);
			for (const i of [1, 2]) db.run('insert into person values(?,?,?)', [i, `Ada Moor ${i}`, `+44770090010${i}`]);
			for (let i = 1; i <= COUNT; i++)
				db.run('insert into message values(?,?,?,?,?)', [
					i,
					1 + (i % 2),
					`The boiler of flat ${i} is cold again`,
					1_735_700_000 + i * 600,
					i % 2
				]);
			PATHS.forEach((path, i) => {
				const bytes = Buffer.from(`bytes of ${path}`);
				const hash = createHash('sha256').update(bytes).digest('hex');
				put(join(root, place.replace('xx', hash.slice(0, 2)), hash), bytes);
				db.run("insert into attachment values(?,?,?,?,'image/jpeg')", [i + 1, i * 3 + 1, hash, path]);
			});
			db.close();
			const unwrapped = await unwrap(openPaths([root]), []);
			assert.deepEqual(unwrapped.backups, []);
			const look = new Look(unwrapped.files, { reach: 'raw', owner: null });
			for (const event of look.run()) void event;
			const { stores, weave } = look.findings();
			const lines = weave.threads.flatMap((t) =>
				t.messages.map(
					(m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as { attachments: { sha256: string | null }[] }
				)
			);
			assert.equal(lines.length, COUNT);
			assert.equal(lines.flatMap((line) => line.attachments).filter((a) => a.sha256 !== null).length, PATHS.length);
		});
	}

	it('are none where texts and times stand in tables of their own, nor where each row states that the file lies under its digest', async () => {
		const contents = PATHS.map((path) => ({ path, bytes: Buffer.from(`bytes of ${path}`) }));
		const digest = (bytes: Buffer): string => createHash('sha256').update(bytes).digest('hex');
		for (const [i, written] of ['锅炉又坏了没有暖气', 'Where is the key?'].entries()) {
			const root = join(folder, `own ${i}`);
			for (const { bytes } of contents) put(join(root, 'files', digest(bytes)), bytes);
			const db = createDatabase(join(root, 'desk.db'));
			db.exec(`create table msg(mid integer primary key, who integer, stamp integer); create table msg_text(mid integer primary key, txt text);
				create table att(mid integer, ${i === 0 ? '' : 'local text, '}hash text, orig text)`);
			for (let n = 1; n <= (i === 0 ? COUNT : 2); n++) {
				db.run('insert into msg values(?,?,?)', [n, n % 3, 1_735_700_000 + n * 61]);
				db.run('insert into msg_text values(?,?)', [n, `${written}${n}`]);
			}
			contents.forEach(({ path, bytes }, n) => {
				const own = i === 0 ? [] : [`files/${digest(bytes)}`];
				db.run(`insert into att values(${['?', '?', '?', ...own.map(() => '?')].join()})`, [n + 1, ...own, digest(bytes), path]);
			});
			db.close();
			assert.deepEqual((await unwrap(openPaths([root]), [])).backups, []);
		}
	});

	for (const [what, packed, called] of [
		['fields of bytes', (text: string, i: number) => Buffer.concat([Buffer.from([0x08, i, 0x12, text.length]), Buffer.from(text)]), ''],
		['JSON without a word of several', (text: string) => JSON.stringify({ t: text.replaceAll(' ', '_') }), 'Media/']
	] as const)
		it(`leave out no message where the table of a program's files is taken for a list, or could be: ${what}`, async () => {
			const root = join(folder, what);
			const db = createDatabase((mkdirSync(root, { recursive: true }), join(root, 'store')));
			db.exec(`create table room(id integer primary key, peer text); create table file(id integer primary key, message integer, name, type, sha256);
				create table message(id integer primary key, room integer, mine integer, sent integer, payload blob)`);
			for (const i of [1, 2]) db.run('insert into room values(?,?)', [i, `+44770090010${i}`]);
			for (let i = 1; i <= COUNT; i++)
				db.run('insert into message values(?,?,?,?,?)', [
					i,
					1 + (i % 2),
					i % 2,
					1_735_700_000_000 + i * 600_000,
					packed(`The boiler of flat ${i} is cold`, i)
				]);
			PATHS.forEach((path, i) => {
				const bytes = Buffer.from(`bytes of ${path}`);
				const hash = createHash('sha256').update(bytes).digest('hex');
				put(join(root, 'blobs', hash.slice(0, 2), hash), bytes);
				db.run("insert into file values(?,?,?,'image/png',?)", [i + 1, i * 3 + 1, `${called}scan_${i}.png`, hash]);
			});
			db.close();
			const look = new Look((await unwrap(openPaths([root]), [])).files, { reach: 'raw', owner: null });
			for (const event of look.run()) void event;
			const messages = look.findings().weave.threads.flatMap((t) => t.messages);
			assert.equal(messages.length, COUNT);
		});

	const FIELDS = { id: 'digest', root: 'area', path: 'path' };
	const entries = PATHS.map((p) => ({ [FIELDS.id]: hashOf(p), [FIELDS.root]: areaOf(p), [FIELDS.path]: p }));

	it('are one where JSON lists them, and says what it is of', async () => {
		const root = join(folder, 'json');
		for (const path of PATHS) put(join(root, hashOf(path)), `bytes of ${path}`);
		put(
			join(root, 'contents.json'),
			JSON.stringify({
				madeAt: '2025-02-09T20:14:00Z',
				deviceName: 'Fennel 3',
				about: 'The phone of the plant desk',
				sealed: true,
				entries
			})
		);
		assert.deepEqual(await pathsIn(root), expected);
		const [backup] = (await unwrap(openPaths([root]), [])).backups;
		assert.deepEqual([backup!.date, backup!.device, backup!.locked], [Date.UTC(2025, 1, 9, 20, 14), 'Fennel 3', true]);
	});

	it('are none where JSON has what somebody wrote beside the digests of files', async () => {
		const root = join(folder, 'export');
		for (const path of PATHS) put(join(root, hashOf(path)), `bytes of ${path}`);
		put(join(root, 'messages.json'), JSON.stringify(entries.map((e) => ({ ...e, text: 'The boiler is cold again' }))));
		assert.deepEqual((await unwrap(openPaths([root]), [])).backups, []);
	});

	it('are one where a column called as a table of names gives the area by number, of which there are two', async () => {
		const root = join(folder, 'numbers');
		for (const path of PATHS) put(join(root, hashOf(path)), `bytes of ${path}`);
		const db = createDatabase(join(root, 'list.db'));
		db.exec(`create table area(id integer primary key, name text); create table state(name text, value text);
			create table file(id integer primary key, area_id integer, path text, digest text)`);
		const areas = [...new Set(PATHS.map(areaOf))];
		for (const name of areas) db.run('insert into area(name) values(?)', [name]);
		for (const p of PATHS) db.run('insert into file(area_id, path, digest) values(?,?,?)', [areas.indexOf(areaOf(p)) + 1, p, hashOf(p)]);
		for (const row of [
			['created', '1739132040'],
			['device', 'Fennel 3'],
			['locked', '0']
		])
			db.run('insert into state values(?,?)', row);
		db.close();
		assert.deepEqual(await pathsIn(root), expected);
		const [backup] = (await unwrap(openPaths([root]), [])).backups;
		assert.deepEqual([backup!.date, backup!.device, backup!.locked], [1_739_132_040_000, 'Fennel 3', false]);
	});

	it('have the area, told by the digest of it and the path, whatever the columns are called', async () => {
		const root = join(folder, 'proven');
		const db = createDatabase((mkdirSync(root, { recursive: true }), join(root, 'k')));
		db.exec('create table q(a text, b text, c text, d text, e integer)');
		PATHS.forEach((path, i) => {
			const digest = createHash('sha1')
				.update(`${areaOf(path)}-${path}`)
				.digest('hex');
			put(join(root, digest.slice(0, 2), digest), `bytes of ${path}`);
			db.run('insert into q values(?,?,?,?,?)', [i % 2 ? 'image/jpeg' : 'kept.twice', areaOf(path), path, digest, 1_736_500_000 + i]);
		});
		db.close();
		assert.deepEqual(await pathsIn(root), expected);
		const [backup] = (await unwrap(openPaths([root]), [])).backups;
		const changed = backup!.files.find((f) => f.path.endsWith(PATHS[2]!))!.modified;
		assert.equal(changed, 1_736_500_002_000, 'the list says when it was changed');
	});

	it('take no date for an area, and know files by where the list says that they lie', async () => {
		const root = join(folder, 'dates');
		const db = createDatabase((mkdirSync(root, { recursive: true }), join(root, 'list.db')));
		db.exec('create table content(id integer primary key, path text, stored text, changed text)');
		PATHS.forEach((path, i) => {
			const place = `${hashOf(path).slice(0, 2)}/${hashOf(path).slice(2)}`;
			put(join(root, place), `bytes of ${path}`);
			db.run('insert into content values(?,?,?,?)', [i + 1, path, place, `2025-01-1${i % 2}T10:00:00Z`]);
		});
		db.close();
		assert.deepEqual(await pathsIn(root), PATHS.toSorted());
	});

	const uuidOf = (path: string): string => hashOf(path, 32).replace(/^(.{8})(.{4})(.{4})(.{4})/, '$1-$2-$3-$4-');
	const BY_PATH = Object.fromEntries(PATHS.map((p) => [`${areaOf(p)}/${p}`, { file: uuidOf(p), size: p.length }]));
	const LISTS: [what: string, name: string, list: string][] = [
		['JSON with the paths as keys', 'index.json', JSON.stringify(BY_PATH)],
		[
			'XML',
			'index.xml',
			`<list made="2025-02-09T20:14:00Z">${PATHS.map((p) => `<f at="${uuidOf(p)}" area="${areaOf(p)}" path="${p}"/>`).join('')}</list>`
		],
		['lines between commas', 'index.csv', ['stored,area,path', ...PATHS.map((p) => `${uuidOf(p)},${areaOf(p)},${p}`)].join('\r\n')],
		['lines of digests', 'index', PATHS.map((p) => `${hashOf(p, 32)}  ${areaOf(p)}/${p}\n`).join('')]
	];
	for (const [what, name, list] of LISTS)
		it(`are one where their names are grouped digits and the list is ${what}`, async () => {
			const root = join(folder, what);
			for (const path of PATHS) put(join(root, uuidOf(path)), `bytes of ${path}`);
			put(join(root, name), list);
			put(join(root, 'status.ini'), "[copy]\n; by hand\ndevice = Tamsin's phone\ncreated = 2025-02-09T20:14:00Z\nlocked = no\n");
			assert.deepEqual(await pathsIn(root), expected);
			const [backup] = (await unwrap(openPaths([root]), [])).backups;
			assert.deepEqual([backup!.date, backup!.device, backup!.locked], [Date.UTC(2025, 1, 9, 20, 14), "Tamsin's phone", false]);
		});

	it('stand under their real names unpacked, where each was packed by itself', async () => {
		const root = join(folder, 'packed');
		for (const path of PATHS) put(join(root, 'objects', hashOf(path)), gzipSync(`bytes of ${path}`));
		put(join(root, 'index.json.gz'), gzipSync(JSON.stringify(entries)));
		assert.deepEqual(await pathsIn(root), expected);
		const [backup] = (await unwrap(openPaths([root]), [])).backups;
		const texts = backup!.files.filter((f) => !f.opened).map((f) => new TextDecoder().decode(f.source.read(0, f.source.size)));
		assert.deepEqual(texts.toSorted(), PATHS.map((p) => `bytes of ${p}`).toSorted());
	});

	it('keep what a property list writes with several references', async () => {
		const root = join(folder, 'references');
		const paths = ['Post/Fish & Chips <1> & more.txt', 'Post/"quoted" & \'so\'.txt'];
		for (const path of paths) put(join(root, hashOf(path)), path);
		const written = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`).replaceAll('&#38;', '&amp;');
		const dicts = paths.map((p) => `<dict><key>id</key><string>${hashOf(p)}</string><key>path</key><string>${written(p)}</string></dict>`);
		put(join(root, 'contents.plist'), `<?xml version="1.0"?><plist version="1.0"><array>${dicts.join('')}</array></plist>`);
		assert.deepEqual(await pathsIn(root), paths.toSorted());
	});

	it('take what did not change from the one before where both list its size, though none says that it is partial', async () => {
		const root = join(folder, 'unchanged');
		const sized = (text: string): object[] =>
			PATHS.map((p, i) => ({ digest: hashOf(p), path: p, size: i === 3 ? text.length + p.length : `0: ${p}`.length }));
		const write = (name: string, day: string, paths: readonly string[]): void => {
			for (const path of paths) put(join(root, name, hashOf(path)), `0: ${path}`);
			put(
				join(root, name, 'contents.json'),
				JSON.stringify({ made: `2025-02-${day}T08:00:00Z`, serial: 'S1', entries: sized(day === '01' ? '0: ' : 'longer by far') })
			);
		};
		write('a', '01', PATHS);
		write('b', '02', PATHS.slice(0, 1));
		const { backups } = await unwrap(openPaths([root]), []);
		const last = backups
			.at(-1)!
			.files.filter((f) => !f.opened)
			.map((f) => f.path.slice(join(root, 'b').length + 1));
		assert.deepEqual(last.toSorted(), PATHS.slice(0, 3).toSorted(), 'the fourth has another size now');
	});

	it('take what a partial one lacks from the same device, and not from another of its name', async () => {
		const root = join(folder, 'partial');
		const write = (name: string, serial: string, day: string, paths: readonly string[]): void => {
			for (const path of paths) put(join(root, name, hashOf(path)), `${serial}: ${path}`);
			const stated = { made: `2025-02-${day}T08:00:00Z`, deviceName: 'Fennel 3', serial, incremental: paths.length < PATHS.length };
			put(join(root, name, 'contents.json'), JSON.stringify({ ...stated, entries }));
		};
		write('a', 'S1', '01', PATHS);
		write('b', 'S2', '02', PATHS);
		write('c', 'S1', '03', PATHS.slice(0, 1));
		const { backups } = await unwrap(openPaths([root]), []);
		const last = backups.at(-1)!.files.filter((f) => !f.opened);
		const texts = last.map((f) => new TextDecoder().decode(f.source.read(0, f.source.size)));
		assert.deepEqual(texts.sort(), PATHS.map((p) => `S1: ${p}`).sort());
	});

	it('that have their own names have the date that a file at their top states, with the device; settings state none', async () => {
		const root = join(folder, 'copies');
		put(join(root, 'copy', 'state.json'), JSON.stringify({ copiedAt: '2025-02-09T20:14:00Z', serial: 'S1' }));
		put(join(root, 'copy', 'Library', 'notes.txt'), 'bytes of notes');
		put(join(root, 'profile', 'settings.json'), JSON.stringify({ installedAt: '2025-02-09T20:14:00Z', deviceName: 'laptop' }));
		put(join(root, 'profile', 'notes.txt'), 'bytes of notes');
		const { takenAt } = await unwrap(openPaths([root]), []);
		assert.equal(takenAt.get(join(root, 'copy', 'Library', 'notes.txt')), Date.UTC(2025, 1, 9, 20, 14));
		assert.equal(takenAt.has(join(root, 'profile', 'notes.txt')), false);
	});
});
