/** Locked databases made by the encrypting engine itself (scripts/make-locked.sh), and what salted containers hold. */
import assert from 'node:assert/strict';
import { createCipheriv, createHash, pbkdf2Sync, randomBytes } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { deflateSync, gzipSync } from 'node:zlib';
import { openPaths } from '../../src/cli/files';
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import { unwrap, type Unwrapped } from '../../src/core/unwrap';
import { createDatabase } from '../vectors/engine';

const FOLDER = join(import.meta.dirname, '../vectors/locked');
const PASSPHRASE = 'tin roof 9';
const COUNT = 24;

interface Found {
	text: string | null;
	sentAt: number | null;
	standing: string;
	method: string;
}

function foundIn(unwrapped: Unwrapped): Found[] {
	const look = new Look(unwrapped.files, { reach: 'raw', owner: null });
	for (const event of look.run()) void event;
	return look
		.findings()
		.weave.threads.flatMap((t) =>
			t.messages.map((m) => ({ text: m.first.text, sentAt: m.first.sentAt, standing: m.standing, method: m.sightings[0]!.method }))
		);
}

const openLocked = (names: string[], passphrases: string[]): Promise<Unwrapped> =>
	unwrap(openPaths(names.map((n) => join(FOLDER, n))), passphrases);

describe('a database locked page by page', () => {
	for (const name of ['pages-2048', 'rounds-4000', 'rounds-10000', 'no-mac'])
		it(`opens with the parameters of ${name}`, async () => {
			const found = foundIn(await openLocked([`${name}.db`], ['not this one', PASSPHRASE]));
			assert.equal(found.length, COUNT);
			assert.ok(found.some((f) => f.text === 'The gauge reads 77 today, note 7' && f.sentAt === 1_735_700_000_000 + 7 * 977_000));
		});

	it('opens with its key as it is, quoted as the engine quotes it or not', async () => {
		const digits = Array.from({ length: 32 }, (_, i) => (1 + 7 * i).toString(16).padStart(2, '0')).join('');
		for (const key of [`x'${digits}'`, digits, `0x${digits.toUpperCase()}`])
			assert.equal(foundIn(await openLocked(['raw-key.db'], ['not this one', key])).length, COUNT, key);
		assert.deepEqual(foundIn(await openLocked(['raw-key.db'], [digits.replace(/^01/, '02'), PASSPHRASE])), []);
	});

	it('opens the log beside it: what it has in use, and what was deleted in it', async () => {
		const found = foundIn(await openLocked(['log.db', 'log.db-wal'], [PASSPHRASE]));
		assert.equal(found.length, COUNT);
		const lost = found.filter((f) => f.standing !== 'kept').toSorted((a, b) => a.sentAt! - b.sentAt!);
		assert.deepEqual(
			lost.map((f) => [f.text, f.standing, f.method]),
			[7, 14, 21].map((i) => [`The gauge reads ${i * 11} today, note ${i}`, 'dropped', 'log-frame'])
		);
	});

	it('opens the journal beside it', async () => {
		const found = foundIn(await openLocked(['journal.db', 'journal.db-journal'], [PASSPHRASE]));
		assert.deepEqual(
			found.filter((f) => f.standing === 'dropped').map((f) => f.method),
			['journal-page', 'journal-page', 'journal-page']
		);
		assert.equal(found.length, COUNT);
	});

	it('takes the log as it stands where bytes of it are changed: only what follows is in doubt', async () => {
		const files = openPaths(['log.db', 'log.db-wal'].map((n) => join(FOLDER, n)));
		const bytes = readFileSync(join(FOLDER, 'log.db-wal'));
		bytes[bytes.length - 900]! ^= 0xff;
		files[1] = { ...files[1]!, source: new MemorySource(new Uint8Array(bytes)) };
		const found = foundIn(await unwrap(files, [PASSPHRASE]));
		assert.equal(found.length, COUNT, 'nothing is lost');
		assert.ok(found.every((f) => f.text?.startsWith('The gauge reads ')));
	});

	it('gives nothing and one line for a wrong passphrase, nothing of the log either', async () => {
		const unwrapped = await openLocked(['log.db', 'log.db-wal'], ['thin roof 9']);
		assert.equal(foundIn(unwrapped).length, 0);
		assert.equal(unwrapped.locked.length, 1);
		assert.deepEqual(
			unwrapped.notes.map((n) => n.code),
			['wrong-passphrase']
		);
	});
});

describe('a salted container', () => {
	let folder: string;
	let store: Buffer;
	before(() => {
		folder = mkdtempSync(join(tmpdir(), 'ombudsman-locked-'));
		const path = join(folder, 'post.db');
		const db = createDatabase(path);
		db.exec('create table letters(id integer primary key, who text, body text, sent integer, mine integer)');
		for (let i = 1; i <= COUNT; i++)
			db.run('insert into letters values(?,?,?,?,?)', [i, '+447700900111', `Valve ${i} is shut again`, 1_700_000_000 + i * 90, i % 2]);
		db.close();
		store = readFileSync(path);
	});
	after(() => rmSync(folder, { recursive: true, force: true }));

	const slow = (salt: Buffer, rounds = 10_000): Buffer => pbkdf2Sync(PASSPHRASE, salt, rounds, 48, 'sha256');
	const once = (salt: Buffer): Buffer => {
		let made = Buffer.alloc(0);
		for (let last = Buffer.alloc(0); made.length < 48; made = Buffer.concat([made, last]))
			last = createHash('md5')
				.update(Buffer.concat([last, Buffer.from(PASSPHRASE), salt]))
				.digest();
		return made;
	};
	function locked(cipher: string, made: (salt: Buffer) => Buffer, plain: Buffer): Uint8Array {
		const salt = randomBytes(8);
		const bytes = made(salt);
		const c = createCipheriv(cipher, bytes.subarray(0, 32), bytes.subarray(32, 48));
		return new Uint8Array(Buffer.concat([Buffer.from('Salted__'), salt, c.update(plain), c.final()]));
	}
	const open = async (bytes: Uint8Array): Promise<number> =>
		foundIn(await unwrap([{ name: 'post.db.enc', path: 'post.db.enc', source: new MemorySource(bytes) }], [PASSPHRASE])).length;
	const behind = (bytes: Buffer): Buffer => Buffer.concat([Buffer.from('ARK 1\nround trip\n'), bytes]);

	for (const cipher of ['aes-256-cbc', 'aes-256-ctr', 'chacha20'])
		for (const [derivation, made] of [
			['rounds of PBKDF2', slow],
			['rounds other than the usual', (salt: Buffer) => slow(salt, 20_000)],
			['digests repeated', once]
		] as const)
			it(`opens ${cipher}, key by ${derivation}`, async () => assert.equal(await open(locked(cipher, made, store)), COUNT));

	it('takes no key for the right one because two bytes happen to begin like a sound', async () => {
		// A salt under which a key that is tried earlier gives those two.
		const first = (salt: Buffer): Buffer => {
			const sum = (bytes: Buffer): Buffer => createHash('sha256').update(bytes).digest();
			const one = sum(Buffer.concat([Buffer.from(PASSPHRASE), salt]));
			return Buffer.concat([one, sum(Buffer.concat([one, Buffer.from(PASSPHRASE), salt]))]);
		};
		const begins = (made: Buffer): Buffer =>
			createCipheriv('aes-256-ctr', made.subarray(0, 32), made.subarray(32, 48)).update(Buffer.alloc(2));
		const salt = Buffer.alloc(8);
		for (let n = 1; n < 1_000_000; n++) {
			salt.writeUInt32LE(n);
			const [wrong, right] = [begins(first(salt)), begins(once(salt))];
			if ((wrong[0]! ^ right[0]! ^ store[0]!) === 0xff && (wrong[1]! ^ right[1]! ^ store[1]!) === 0xfb) break;
		}
		const made = once(salt);
		const c = createCipheriv('aes-256-ctr', made.subarray(0, 32), made.subarray(32, 48));
		assert.equal(await open(new Uint8Array(Buffer.concat([Buffer.from('Salted__'), salt, c.update(store), c.final()]))), COUNT);
	});

	for (const [what, plain] of [
		['packed by zlib', () => deflateSync(store)],
		['packed by gzip', () => gzipSync(store)],
		['behind a header', () => behind(store)],
		['packed behind a header', () => behind(deflateSync(store))]
	] as const)
		it(`knows a database ${what} when it sees it`, async () => assert.equal(await open(locked('aes-256-ctr', slow, plain())), COUNT));

	it('opens one that is written in Base64, in lines', async () => {
		const text = Buffer.from(locked('aes-256-cbc', slow, store))
			.toString('base64')
			.replace(/.{64}/g, '$&\n');
		assert.equal(await open(new Uint8Array(Buffer.from(text))), COUNT);
	});

	it('opens a database packed behind a header without any lock', async () =>
		assert.equal(await open(new Uint8Array(behind(deflateSync(store)))), COUNT));
});
