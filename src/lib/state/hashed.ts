/** What was given goes into the log with its SHA-256: of a file, or of the list of those that a folder's files have. */
import { wrap, type Remote } from 'comlink';
import { sha256 as digest } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { groupsOf } from '$lib/sources/groups';
import { changeCase } from '$store';
import type { HashWorker } from '$workers/protocol';
import { theCase } from './case.svelte';

/** Files, and bytes, that are hashed before the case is written. */
const FILES_AT_ONCE = 400;
const BYTES_AT_ONCE = 64 << 20;
/** ms after which what is done is shown. */
const SHOWN_EVERY = 3000;

/** Says what was given: each file, or a folder as one. */
export async function logGiven(files: readonly { path: string; size: number; isAgain: boolean }[]): Promise<void> {
	for (const group of groupsOf(files)) {
		const again = group.files.every((f) => f.isAgain) ? ' again' : '';
		const what = group.folder
			? `A folder was given${again}: ${group.path}, ${group.files.length} files, `
			: `A file was given${again}: ${group.path}, `;
		await theCase.log({ step: 'given', says: `${what}${group.size} bytes.`, source: group.path });
	}
}

interface Hashed {
	path: string;
	size: number;
	/** Hex; '' where the file was gone before it could be computed. */
	sha256: string;
	/** What it was when it was first given, where it is another. */
	was: string | null;
}

/** Computes the SHA-256 of files in a worker of its own, and writes them into the case as they come. */
export async function hashGiven(caseId: string, files: readonly { file: File; path: string }[]): Promise<void> {
	const worker = new Worker(new URL('../../workers/hash.worker.ts', import.meta.url), { type: 'module' });
	const remote = wrap<HashWorker>(worker);
	const done: Hashed[] = [];
	let shown = performance.now();
	try {
		for (const some of portions(files)) {
			done.push(...(await hashSome(caseId, remote, some)));
			if (performance.now() - shown > SHOWN_EVERY && theCase.record?.id === caseId) {
				await theCase.open();
				shown = performance.now();
			}
		}
	} finally {
		worker.terminate();
	}
	if (theCase.record?.id !== caseId) return;
	await logHashes(done);
	await theCase.open();
}

function* portions<F extends { file: File }>(files: readonly F[]): Generator<F[]> {
	let some: F[] = [];
	let bytes = 0;
	for (const one of files) {
		some.push(one);
		bytes += one.file.size;
		if (some.length < FILES_AT_ONCE && bytes < BYTES_AT_ONCE) continue;
		yield some;
		some = [];
		bytes = 0;
	}
	if (some.length > 0) yield some;
}

async function hashSome(caseId: string, remote: Remote<HashWorker>, files: readonly { file: File; path: string }[]): Promise<Hashed[]> {
	const hashes = await remote.sha256(files.map((f) => f.file));
	const byPath = new Map(files.map(({ path }, i) => [path, hashes[i]!]));
	const done: Hashed[] = [];
	await changeCase(caseId, (c) => {
		for (const f of c.files) {
			const sha256 = byPath.get(f.path);
			if (sha256 === undefined) continue;
			f.sha256 = sha256;
			if (f.was === sha256) f.was = null;
			done.push({ path: f.path, size: f.size, sha256, was: f.was });
		}
	});
	return done;
}

async function logHashes(done: readonly Hashed[]): Promise<void> {
	for (const { path, folder, files } of groupsOf(done)) {
		const read = files.filter((f) => f.sha256 !== '');
		if (read.length === 0) continue;
		// As a file of sums has them, in the order of their paths.
		const sums = read.toSorted((a, b) => (a.path < b.path ? -1 : 1)).map((f) => `${f.sha256}  ${f.path}\n`);
		await theCase.log({
			step: 'hash',
			says: folder
				? `The SHA-256 of ${read.length} of ${files.length} files of ${path} was computed. This is that of the list of them.`
				: `The SHA-256 of ${path} was computed.`,
			source: path,
			sha256: folder ? bytesToHex(digest(utf8ToBytes(sums.join('')))) : read[0]!.sha256
		});
		for (const { path: own, sha256, was } of read)
			if (was !== null)
				await theCase.log({
					step: 'changed',
					says: `${own} is not what was first given: it was changed since. Its SHA-256 was ${was}.`,
					source: own,
					sha256
				});
	}
}
