/** Archives, packed streams, locked containers and backups, made with the ordinary programs and libraries. */
import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { createCipheriv, createHash, createHmac, pbkdf2Sync, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { deflateSync, gzipSync } from 'node:zlib';
import { BlobWriter, Uint8ArrayReader, ZipWriter, type ZipWriterAddDataOptions } from '@zip.js/zip.js';
import { Encrypter } from 'age-encryption';
import { zipSync } from 'fflate';
import { openPaths } from '../../src/cli/files';
import { treeLines } from '../../src/cli/tree';
import { makeScratch } from '../../src/cli/scratch';
import { MemorySource, type Scratch } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import { readPlist, unwrap, type GivenFile, type Unwrapped } from '../../src/core/unwrap';
import { createDatabase } from '../vectors/engine';

const COUNT = 60;
const file = (name: string, bytes: Uint8Array): GivenFile => ({ name, path: name, source: new MemorySource(new Uint8Array(bytes)) });
const open = (name: string, bytes: Uint8Array, passphrases: string[] = []): Promise<Unwrapped> => unwrap([file(name, bytes)], passphrases);
const has = (program: string): boolean => {
	try {
		execFileSync('which', [program], { stdio: 'ignore' });
		return true;
	} catch {
		return false;
	}
};

/** What lies inside, the containers themselves left out. */
const inside = (unwrapped: Unwrapped): GivenFile[] => unwrapped.files.filter((f) => !f.opened);

function messagesIn(unwrapped: Unwrapped): number {
	const look = new Look(unwrapped.files, { reach: 'used', owner: null });
	for (const event of look.run()) void event;
	return look.findings().weave.threads.reduce((n, t) => n + t.messages.length, 0);
}

function makeStore(path: string, count = COUNT, more = (): string => ''): Buffer {
	mkdirSync(dirname(path), { recursive: true });
	const db = createDatabase(path, ['page_size=4096']);
	db.exec('create table letters(id integer primary key, who text, body text, sent integer, mine integer)');
	for (let i = 1; i <= count; i++)
		db.run('insert into letters values(?,?,?,?,?)', [
			i,
			i % 2 ? '+447700900111' : '+447700900122',
			`Shall we meet at the pump house, ${i}? ${more()}`,
			1_700_000_000 + i * 90,
			i % 3 ? 0 : 1
		]);
	db.close();
	return readFileSync(path);
}

async function zipped(name: string, bytes: Uint8Array, options: ZipWriterAddDataOptions): Promise<Uint8Array> {
	const writer = new ZipWriter(new BlobWriter());
	await writer.add(name, new Uint8ArrayReader(bytes), { useWebWorkers: false, ...options });
	return new Uint8Array(await (await writer.close()).arrayBuffer());
}

describe('opening', () => {
	const text = (i: number): Uint8Array => new TextEncoder().encode(`Nothing of note, ${i}`);
	const packed = zipSync(Object.fromEntries(Array.from({ length: 5 }, (_, i) => [`in/${i}.txt`, text(i)])));
	const given = [file('one.txt', text(0)), file('packed.zip', packed), file('two.txt', text(1))];

	it('says which file is opened, what is within a container as well, and how many of those given are', async () => {
		const heard: string[] = [];
		await unwrap(given, [], null, null, ({ name, taken, given: all, files }) => void heard.push(`${name} ${taken}/${all}, ${files}`));
		const within = [0, 1, 2, 3, 4].map((i) => `packed.zip/in/${i}.txt 1/3, ${i + 2}`);
		assert.deepEqual(heard, ['one.txt 0/3, 0', 'packed.zip 1/3, 1', ...within, 'two.txt 2/3, 7']);
	});

	it('ends in the middle of a container where it is stopped', async () => {
		let count = 0;
		const stop = (): void => {
			if (++count > 4) throw new Error('stopped');
		};
		await assert.rejects(unwrap(given, [], null, null, stop), /stopped/);
		assert.equal(count, 5);
	});
});

describe('unwrap', () => {
	let folder: string;
	let store: Buffer;
	before(() => {
		folder = mkdtempSync(join(tmpdir(), 'ombudsman-unwrap-'));
		store = makeStore(join(folder, 'post.db'));
	});
	after(() => rmSync(folder, { recursive: true, force: true }));

	it('opens archives in archives, and names what is inside by its path', async () => {
		const inner = zipSync({ 'Profile/post.db': new Uint8Array(store), 'Profile/pictures/a.jpg': new Uint8Array([0xff, 0xd8, 0xff, 1]) });
		const unwrapped = await open('outer.zip.gz', gzipSync(zipSync({ 'backup/inner.zip': inner }, { level: 0 })));
		const paths = unwrapped.files.map((f) => f.path);
		assert.ok(paths.includes('outer.zip.gz/outer.zip/backup/inner.zip/Profile/post.db'), paths.join());
		assert.equal(messagesIn(unwrapped), COUNT);
		const found = unwrapped.files.find((f) => f.name === 'post.db')!;
		assert.deepEqual(Buffer.from(found.source.read(0, found.source.size)), store);
	});

	for (const [what, options] of [
		['AES of 256 bits', { password: 'thermostat', encryptionStrength: 3 }],
		['AES of 128 bits', { password: 'thermostat', encryptionStrength: 1 }],
		['the legacy cipher', { password: 'thermostat', zipCrypto: true }]
	] as [string, ZipWriterAddDataOptions][])
		it(`opens entries locked by ${what}, several passphrases tried; a wrong one gives one line and nothing`, async () => {
			const bytes = await zipped('post.db', store, options);
			assert.equal(messagesIn(await open('locked.zip', bytes, ['boiler', 'thermostat'])), COUNT);
			const wrong = await open('locked.zip', bytes, ['boiler']);
			assert.equal(inside(wrong).length, 0);
			assert.deepEqual(
				wrong.notes.map((n) => n.code),
				['wrong-passphrase']
			);
			assert.deepEqual(
				(await open('locked.zip', bytes)).notes.map((n) => n.code),
				['locked']
			);
		});

	for (const [page, bytes] of [
		['windows-1252', [0x47, 0x65, 0x77, 0xe4, 0x63, 0x68, 0x73]],
		['UTF-8 with its accents apart', [...new TextEncoder().encode('Gewa\u0308chs')]]
	] as const)
		for (const zipCrypto of [true, false])
			it(`knows a passphrase beyond ASCII that was taken in ${page} (${zipCrypto ? 'legacy' : 'AES'})`, async () => {
				const locked = await zipped('post.db', store, { rawPassword: Uint8Array.from(bytes), zipCrypto });
				assert.equal(messagesIn(await open('locked.zip', locked, ['Gewächs'])), COUNT);
				assert.equal(inside(await open('locked.zip', locked, ['Gewachs'])).length, 0);
			});

	it('takes no key for the right one because some letters come out of it', { skip: !has('openssl') }, async () => {
		const lettersThenNothing = Buffer.concat([Buffer.from('These are twenty letters'), randomBytes(4000)]);
		writeFileSync(join(folder, 'letters'), lettersThenNothing);
		const out = join(folder, 'letters.enc');
		const lock = ['enc', '-aes-256-ctr', '-pbkdf2', '-salt', '-pass', 'pass:thermostat', '-in', join(folder, 'letters'), '-out', out];
		execFileSync('openssl', lock, { stdio: 'ignore' });
		const opened = await open('letters.enc', readFileSync(out), ['thermostat']);
		assert.deepEqual([inside(opened).length, opened.notes[0]!.code], [0, 'wrong-passphrase']);
	});

	it('opens age containers by passphrase and by identity', async () => {
		const encrypter = new Encrypter();
		encrypter.setPassphrase('thermostat');
		encrypter.setScryptWorkFactor(12);
		const locked = await encrypter.encrypt(new Uint8Array(store));
		assert.equal(messagesIn(await open('post.db.age', locked, ['thermostat'])), COUNT);
		assert.deepEqual(
			(await open('post.db.age', locked, ['x'])).notes.map((n) => n.code),
			['wrong-passphrase']
		);
	});

	for (const args of [
		['-aes-256-cbc', '-pbkdf2'],
		['-aes-256-cbc', '-md', 'md5'],
		['-aes-128-cbc', '-pbkdf2', '-iter', '100000', '-md', 'sha512'],
		['-aes-256-cbc', '-md', 'sha256']
	])
		it(`opens the salted format: ${args.join(' ')}`, { skip: !has('openssl') }, async () => {
			const out = join(folder, 'post.enc');
			execFileSync('openssl', ['enc', ...args, '-salt', '-pass', 'pass:thermostat', '-in', join(folder, 'post.db'), '-out', out], {
				stdio: 'ignore'
			});
			assert.equal(messagesIn(await open('post.db.enc', readFileSync(out), ['no', 'thermostat'])), COUNT);
			assert.equal(inside(await open('post.db.enc', readFileSync(out), ['no'])).length, 0);
		});

	for (const [version, rounds, digest] of [
		[4, 256_000, 'sha512'],
		[3, 64_000, 'sha1']
	] as const)
		it(`opens databases locked page by page, version ${version}`, async () => {
			const locked = lockPages(store, 'thermostat', rounds, digest);
			assert.equal(messagesIn(await open('post.db', locked, ['thermostat'])), COUNT);
			const wrong = await open('post.db', locked, ['boiler']);
			assert.deepEqual(
				wrong.notes.map((n) => n.code),
				['wrong-passphrase']
			);
		});

	it('opens tapes with long names, plain and packed', { skip: !has('tar') }, async () => {
		const deep = join(folder, 'deep', 'a'.repeat(90), 'b'.repeat(90));
		makeStore(join(deep, 'post.db'));
		for (const format of ['ustar', 'gnu', 'pax']) {
			const out = join(folder, `${format}.tar`);
			execFileSync('tar', [`--format=${format}`, '-cf', out, '-C', join(folder, 'deep'), '.'], { stdio: 'ignore' });
			const unwrapped = await open(`${format}.tar`, readFileSync(out));
			assert.ok(
				unwrapped.files.some((f) => f.path.endsWith(`${'b'.repeat(90)}/post.db`)),
				format
			);
			assert.equal(messagesIn(await open(`${format}.tgz`, gzipSync(readFileSync(out)))), COUNT);
		}
	});

	for (const [name, pack] of [
		['tape.tgz', (tape: Buffer, out: string): void => writeFileSync(out, gzipSync(tape, { level: 1 }))],
		[
			'tape.zst',
			(tape: Buffer, out: string): void => {
				writeFileSync(`${out}.tar`, tape);
				execFileSync('zstd', ['-q', '-f', '--rm', `${out}.tar`, '-o', out]);
			}
		]
	] as const)
		it(
			`unpacks a large container (${name}) to scratch, which has no name by then, and holds none of it`,
			{ skip: !has('zstd') },
			async () => {
				const large = join(folder, 'large');
				makeStore(join(large, 'Profile', 'post.db'));
				const film = randomBytes(1 << 20);
				for (let i = 0; i < 40; i++) writeFileSync(join(large, `film ${i}.mp4`), film);
				const out = join(folder, name);
				pack(execFileSync('tar', ['-cf', '-', '-C', large, '.'], { maxBuffer: 1 << 28 }), out);
				const bytes = readFileSync(out);
				// Others make folders of their own there at the same time.
				const named = (): string[] => readdirSync(tmpdir()).filter((name) => /^ombudsman-\w{6}$/.test(name));
				const before = new Set(named());
				let written = 0;
				const counting = (): Scratch => {
					const scratch = makeScratch();
					return { ...scratch, write: (part) => ((written += part.length), scratch.write(part)) };
				};
				const unwrapped = await unwrap([file(name, bytes)], [], null, counting);
				assert.ok(written > 40 << 20, 'all of it is in scratch');
				assert.deepEqual(
					named().filter((name) => !before.has(name)),
					[],
					'and nothing of it has a name'
				);
				assert.equal(messagesIn(unwrapped), COUNT);
				const last = unwrapped.files.find((f) => f.name === 'film 39.mp4')!;
				assert.deepEqual(Buffer.from(last.source.read(0, last.source.size)), film);
			}
		);

	it('writes nothing to scratch of what was locked', async () => {
		const tape = execFileSync('tar', ['-cf', '-', '-C', folder, 'post.db'], { maxBuffer: 1 << 28 });
		const packed = gzipSync(Buffer.concat([tape.subarray(0, -1024), randomBytes(20 << 20)]), { level: 1 });
		const encrypter = new Encrypter();
		encrypter.setPassphrase('thermostat');
		encrypter.setScryptWorkFactor(10);
		const none = (): Scratch => assert.fail('scratch was asked for');
		const given = [
			file('phone.tgz.age', await encrypter.encrypt(packed)),
			file('phone.zip', await zipped('phone.tgz', packed, { password: 'thermostat', encryptionStrength: 3 }))
		];
		for (const one of given) {
			const unwrapped = await unwrap([one], ['thermostat'], null, none);
			assert.equal(messagesIn(unwrapped), COUNT, one.name);
		}
	});

	it('says that a container is not whole where scratch has no room, and reads what was unpacked', async () => {
		const tape = execFileSync('tar', ['-cf', '-', '-C', folder, 'post.db'], { maxBuffer: 1 << 28 });
		const filled = Buffer.concat([tape.subarray(0, -1024), randomBytes(40 << 20)]);
		let room = 24 << 20;
		const small = (): Scratch => {
			const scratch = makeScratch();
			return {
				...scratch,
				write(part) {
					room -= part.length;
					if (room < 0) throw new Error('no space left on device');
					scratch.write(part);
				}
			};
		};
		const unwrapped = await unwrap([file('full.tgz', gzipSync(filled, { level: 1 }))], [], null, small);
		assert.ok(unwrapped.notes.some((n) => n.code === 'archive-cut'));
		assert.equal(messagesIn(unwrapped), COUNT);
	});

	it('reads a large deflated entry at any place, and gives up small ones that are not in use', async () => {
		const bytes = Buffer.concat([store, Buffer.alloc(20 << 20, 'no database any more ')]);
		const small = Object.fromEntries(Array.from({ length: 30 }, (_, i) => [`part ${i}.bin`, new Uint8Array(Buffer.alloc(3 << 20, i + 1))]));
		const unwrapped = await unwrap([file('a.zip', zipSync({ 'post.db': new Uint8Array(bytes), ...small }))], [], null, makeScratch);
		const found = unwrapped.files.find((f) => f.name === 'post.db')!;
		for (const at of [0, 5_000_000, 700, bytes.length - 90])
			assert.deepEqual(Buffer.from(found.source.read(at, 80)), bytes.subarray(at, at + 80));
		// Twice, the second time after the others took their room.
		for (let round = 0; round < 2; round++)
			for (let i = 0; i < 30; i++) {
				const part = unwrapped.files.find((f) => f.name === `part ${i}.bin`)!;
				assert.deepEqual([...part.source.read(2_000_000, 2)], [i + 1, i + 1]);
			}
	});

	it('finds a database behind a foreign header, and one packed whole', async () => {
		assert.equal(
			messagesIn(await open('post.bin', Buffer.concat([Buffer.from('HEADER OF ANOTHER MAKE\0'.padEnd(512, 'x')), store]))),
			COUNT
		);
		// Of texts that hardly pack, nothing comes out of the stream before its first block has ended.
		const many = makeStore(join(folder, 'many.db'), 300, () => randomBytes(24).toString('base64'));
		const packed = deflateSync(many, { level: 9 });
		assert.ok(packed.length > 8000);
		assert.equal(messagesIn(await open('many.bin', Buffer.concat([Buffer.from('HDR0'), packed]))), 300);
		if (has('zstd')) {
			execFileSync('zstd', ['-q', '-f', join(folder, 'post.db'), '-o', join(folder, 'post.zst')]);
			assert.equal(messagesIn(await open('post.db.zst', readFileSync(join(folder, 'post.zst')))), COUNT);
		}
	});

	it('shows a backup of hash-named files as the tree it was, with its date', async () => {
		const { files, at } = hashedBackup(folder, store, 'list.db', Date.UTC(2025, 1, 9, 20, 14));
		const unwrapped = await unwrap(openPaths([files]), []);
		const real = inside(unwrapped)
			.map((f) => f.path.slice(files.length + 1))
			.sort();
		assert.deepEqual(real, ['HomeArea/Library/Post/post.db', 'HomeArea/Library/Pictures/meter one.jpg', 'Info.plist'].sort());
		assert.equal(unwrapped.takenAt.get(`${files}/HomeArea/Library/Post/post.db`), at);
		assert.equal(messagesIn(unwrapped), COUNT);
		assert.equal(unwrapped.backups[0]!.device, 'Fennel 3');
	});

	it('gives every file of a backup its real name: archives too, what is in them, and the list itself', async () => {
		const letter = zipSync({ 'word/document.xml': new TextEncoder().encode('<doc/>') });
		const { files } = hashedBackup(folder, store, 'list.db', Date.UTC(2025, 1, 9), { 'Library/Received/letter.docx': Buffer.from(letter) });
		const lines = (await treeLines(await unwrap(openPaths([files]), []), [files], null, false)) as { path: string; sha256: string }[];
		const at = (path: string): string | undefined => lines.find((l) => l.path === `${files}/${path}`)?.sha256;
		assert.equal(at('HomeArea/Library/Received/letter.docx'), createHash('sha256').update(letter).digest('hex'));
		assert.equal(at('HomeArea/Library/Received/letter.docx/word/document.xml'), createHash('sha256').update('<doc/>').digest('hex'));
		assert.equal(
			at('list.db'),
			createHash('sha256')
				.update(readFileSync(join(files, 'list.db')))
				.digest('hex')
		);
		assert.ok(lines.every((l) => !/[0-9a-f]{40}/.test(l.path)));
	});

	it('names a packed or locked file with the bytes as they lie, and does not list what was given itself', async () => {
		const bytes = gzipSync(store);
		const shut = Buffer.concat([Buffer.from('HEAD'), store]);
		const archive = zipSync({ 'post.db.gz': new Uint8Array(bytes), 'head.bin': new Uint8Array(shut) });
		const unwrapped = await open('all.zip', archive, []);
		assert.equal(messagesIn(unwrapped), COUNT);
		const sums = (await treeLines(unwrapped, ['all.zip'], null, false)) as { path: string; size: number; sha256: string }[];
		const sum = (of: Buffer): string => createHash('sha256').update(of).digest('hex');
		assert.deepEqual(
			sums.map((l) => [l.path, l.size, l.sha256]),
			[
				['all.zip/head.bin', shut.length, sum(shut)],
				['all.zip/post.db.gz', bytes.length, sum(Buffer.from(bytes))],
				['all.zip/post.db.gz/post.db', store.length, sum(store)]
			]
		);
		const closed = await treeLines(
			await unwrap([file('all.zip', zipSync({ 'x.zip': await zipped('a', store, { password: 'p' }) }))], []),
			[],
			null,
			true
		);
		assert.deepEqual(
			(closed as { path: string }[]).map((l) => l.path),
			['all.zip', 'all.zip/x.zip']
		);
	});

	describe('bad input', () => {
		it('keeps paths inside: no step up, no root, no device', async () => {
			const bytes = zipSync({
				'../../etc/post.db': new Uint8Array(store),
				'/abs/post.db': new Uint8Array(store),
				'C:\\x\\post.db': new Uint8Array(store)
			});
			const unwrapped = await open('evil.zip', bytes);
			assert.equal(inside(unwrapped).length, 3);
			for (const f of inside(unwrapped))
				assert.ok(f.path.startsWith('evil.zip/') && !f.path.includes('..') && !f.path.includes('//'), f.path);
		});
		it('does not unpack bombs, nested or lying', async () => {
			let bomb: Uint8Array = zipSync({ '0': new Uint8Array(40 << 20) }, { level: 9 });
			assert.ok(bomb.length < 60_000);
			const lying = Buffer.from(bomb);
			// The directory states 4 GB.
			lying.writeUInt32LE(0xfffffff0, lying.lastIndexOf(Buffer.from([0x50, 0x4b, 1, 2])) + 24);
			const from = performance.now();
			assert.ok((await open('lying.zip', lying)).notes.some((n) => n.code === 'limit-reached'));
			for (let i = 0; i < 9; i++) bomb = zipSync({ [`${i}.zip`]: bomb }, { level: 0 });
			assert.ok((await open('nested.zip', bomb)).notes.some((n) => n.code === 'limit-reached'));
			assert.ok(performance.now() - from < 10_000);
		});
		it('reads a cut archive as far as it goes', async () => {
			const whole = zipSync({ 'post.db': new Uint8Array(store), 'more.bin': new Uint8Array(randomBytes(50_000)) }, { level: 0 });
			const cut = await open('cut.zip', whole.subarray(0, whole.length - 30_000));
			assert.equal(messagesIn(cut), COUNT);
			assert.deepEqual(
				cut.notes.map((n) => n.code),
				['archive-cut']
			);
			for (let length = 0; length < 400; length += 7) await open('x.zip', whole.subarray(0, length));
		});
		it('reads property lists of both kinds and no tricks in them', () => {
			const xml =
				'<?xml version="1.0"?><!DOCTYPE plist [<!ENTITY a "aaaaaaaaaa"><!ENTITY b SYSTEM "file:///etc/passwd">]><plist version="1.0"><dict><key>Name</key><string>A &amp; B &b;</string><key>When</key><date>2025-02-09T20:14:00Z</date><key>N</key><integer>7</integer><key>L</key><array><true/><data>AQI=</data></array></dict></plist>';
			const value = readPlist(new TextEncoder().encode(xml)) as Record<string, unknown>;
			assert.equal(value.N, 7);
			assert.ok(!String(value.Name).includes('root:'));
			assert.equal((value.When as Date).toISOString(), '2025-02-09T20:14:00.000Z');
			assert.deepEqual([...((value.L as unknown[])[1] as Uint8Array)], [1, 2]);
			const binary = binaryPlist();
			assert.deepEqual({ ...(readPlist(binary) as object) }, { a: 'bc' });
			for (let i = 0; i < binary.length; i++) for (const x of [0, 0xff, 0x7f]) readPlist(binary.map((b, k) => (k === i ? x : b)));
		});
	});
});

/** {"a": "bc"} as a binary list, by hand. */
function binaryPlist(): Uint8Array {
	const objects = [0xd1, 1, 2, 0x51, 0x61, 0x52, 0x62, 0x63];
	const bytes = [...Buffer.from('bplist00'), ...objects];
	const table = [8, 11, 13];
	const trailer = new Uint8Array(32);
	trailer[6] = 1;
	trailer[7] = 1;
	trailer[15] = 3;
	trailer[31] = bytes.length;
	return Uint8Array.from([...bytes, ...table, ...trailer]);
}

/** A folder of files named by digests, with a database that lists them and a list that states date and device. */
function hashedBackup(
	folder: string,
	store: Buffer,
	list: string,
	at: number,
	more: Record<string, Buffer> = {}
): { files: string; at: number } {
	const root = mkdtempSync(join(folder, 'backup-'));
	const db = createDatabase(join(root, list));
	db.exec('create table f(hash text primary key, area text, path text, flags integer)');
	const put = (area: string, path: string, bytes: Buffer): void => {
		const hash = createHash('sha1').update(`${area}-${path}`).digest('hex');
		mkdirSync(join(root, hash.slice(0, 2)), { recursive: true });
		writeFileSync(join(root, hash.slice(0, 2), hash), bytes);
		db.run('insert into f values(?,?,?,1)', [hash, area, path]);
	};
	put('HomeArea', 'Library/Post/post.db', store);
	put('HomeArea', 'Library/Pictures/meter one.jpg', Buffer.from([0xff, 0xd8, 0xff, 9]));
	for (const [path, bytes] of Object.entries(more)) put('HomeArea', path, bytes);
	db.run('insert into f values(?,?,?,2)', [createHash('sha1').update('folder').digest('hex'), 'HomeArea', 'Library']);
	db.close();
	writeFileSync(
		join(root, 'Info.plist'),
		`<?xml version="1.0"?><plist version="1.0"><dict><key>Device Name</key><string>Fennel 3</string><key>Last Made</key><date>${new Date(at).toISOString().replace('.000', '')}</date></dict></plist>`
	);
	assert.ok(existsSync(join(root, list)));
	return { files: root, at };
}

/** Encrypts a database page by page, written from the format's description with Node's own ciphers. */
function lockPages(plain: Buffer, passphrase: string, rounds: number, digest: 'sha1' | 'sha512'): Buffer {
	const pageSize = 4096;
	const reserve = digest === 'sha512' ? 80 : 48;
	const content = rebuild(plain, pageSize, reserve);
	const salt = randomBytes(16);
	const key = pbkdf2Sync(passphrase, salt, rounds, 32, digest);
	const authKey = pbkdf2Sync(
		key,
		salt.map((b) => b ^ 0x3a),
		2,
		32,
		digest
	);
	const pages: Buffer[] = [];
	for (let n = 0; n * pageSize < content.length; n++) {
		const page = content.subarray(n * pageSize, (n + 1) * pageSize);
		const start = n === 0 ? 16 : 0;
		const iv = randomBytes(16);
		const cipher = createCipheriv('aes-256-cbc', key, iv).setAutoPadding(false);
		const body = Buffer.concat([cipher.update(page.subarray(start, pageSize - reserve)), cipher.final()]);
		const number = Buffer.alloc(4);
		number.writeUInt32LE(n + 1);
		const mac = createHmac(digest, authKey).update(body).update(iv).update(number).digest();
		pages.push(Buffer.concat([n === 0 ? salt : Buffer.alloc(0), body, iv, mac, Buffer.alloc(reserve - 16 - mac.length)]));
	}
	return Buffer.concat(pages);
}

/** The same database with bytes reserved at the end of each page: moves every cell up by the reserve. Enough for a store whose pages are leaves and one root. */
function rebuild(plain: Buffer, pageSize: number, reserve: number): Buffer {
	const out = Buffer.from(plain);
	out[20] = reserve;
	for (let n = 0; n * pageSize < plain.length; n++) {
		const head = n * pageSize + (n === 0 ? 100 : 0);
		const type = plain[head]!;
		const cells = plain.readUInt16BE(head + 3);
		const pointers = head + (type === 5 || type === 2 ? 12 : 8);
		const content = plain.readUInt16BE(head + 5) || 65536;
		const bytes = plain.subarray(n * pageSize + content, (n + 1) * pageSize);
		assert.ok(pointers + cells * 2 < n * pageSize + content - reserve, 'there is room for the reserve');
		out.fill(0, n * pageSize + content - reserve, (n + 1) * pageSize);
		bytes.copy(out, n * pageSize + content - reserve);
		out.writeUInt16BE(content - reserve, head + 5);
		for (let i = 0; i < cells; i++) out.writeUInt16BE(plain.readUInt16BE(pointers + i * 2) - reserve, pointers + i * 2);
	}
	return out;
}
