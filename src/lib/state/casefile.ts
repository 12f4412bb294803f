/**
 * A case as one file, to be opened elsewhere: a ZIP of JSON files, described in docs/formats.md. Each part is read by
 * itself, so that a damaged file gives what is readable.
 */
import { strFromU8, strToU8, Unzip, UnzipInflate } from 'fflate';
import { wrap } from 'comlink';
import { z } from 'zod';
import { firstBroken, logEntrySchema } from '$core/log';
import { sumsFile, SUMS_NAME } from '$core/bundle';
import {
	allCases,
	caseSchema,
	detailOf,
	detailSchema,
	logOf,
	messageChunk,
	originalOf,
	picksOf,
	picksSchema,
	readingsOf,
	readingsSchema,
	saveCase,
	saveLog,
	saveOriginals,
	savePicks,
	saveReadings,
	saveThread,
	slimMessageSchema,
	threadRecordSchema,
	threadsOf,
	type CaseRecord
} from '$store';
import type { ZipWorker } from '$workers/protocol';

const VERSION = 2;
const headSchema = z.object({ format: z.literal('ombudsman-case'), version: z.number(), savedAt: z.number(), record: z.unknown() });
const threadPartSchema = z.object({
	thread: threadRecordSchema,
	messages: z.array(z.array(slimMessageSchema)),
	details: z.array(z.array(detailSchema))
});
const originalsSchema = z.array(z.object({ path: z.string(), entry: z.string(), size: z.number() }));

/** What opening takes in, at most, in bytes: more is no case file. */
const MOST_BYTES = 2 ** 31;

const numbered = (index: number): string => String(index + 1).padStart(5, '0');
const json = (value: unknown): Uint8Array<ArrayBuffer> => new Uint8Array(strToU8(JSON.stringify(value)));

async function sha256(bytes: Uint8Array<ArrayBuffer>): Promise<string> {
	return Array.from(new Uint8Array(await crypto.subtle.digest('SHA-256', bytes)), (b) => b.toString(16).padStart(2, '0')).join('');
}

/** The case as the bytes of one file. */
export async function packCase(record: CaseRecord, withOriginals: boolean): Promise<Blob> {
	const parts: { name: string; bytes: Uint8Array<ArrayBuffer> }[] = [];
	parts.push({ name: 'case.json', bytes: json({ format: 'ombudsman-case', version: VERSION, savedAt: Date.now(), record }) });
	parts.push({ name: 'picks.json', bytes: json(await picksOf(record.id)) });
	parts.push({ name: 'log.json', bytes: json(await logOf(record.id)) });
	parts.push({ name: 'readings.json', bytes: json(await readingsOf(record.id)) });
	const threads = await threadsOf(record.id);
	for (const [i, thread] of threads.entries()) {
		const messages = [];
		const details = [];
		for (let n = 0; n < thread.chunks; n++) {
			messages.push(await messageChunk(record.id, thread.id, n));
			details.push(await detailOf(record.id, thread.id, n));
		}
		parts.push({ name: `threads/${numbered(i)}.json`, bytes: json({ thread, messages, details }) });
	}
	if (withOriginals) {
		const list: z.infer<typeof originalsSchema> = [];
		for (const [i, file] of record.files.entries()) {
			const blob = await originalOf(record.id, file.path);
			if (!blob) continue;
			const entry = `originals/${numbered(i)}`;
			parts.push({ name: entry, bytes: new Uint8Array(await blob.arrayBuffer()) });
			list.push({ path: file.path, entry, size: blob.size });
		}
		parts.push({ name: 'originals.json', bytes: json(list) });
	}
	const sums = await Promise.all(parts.map(async (p) => ({ name: p.name, sha256: await sha256(p.bytes) })));
	parts.push({ name: SUMS_NAME, bytes: new Uint8Array(strToU8(sumsFile(sums))) });
	const worker = new Worker(new URL('../../workers/zip.worker.ts', import.meta.url), { type: 'module' });
	try {
		return new Blob([await wrap<ZipWorker>(worker).zip(parts)], { type: 'application/zip' });
	} finally {
		worker.terminate();
	}
}

/** The parts of a ZIP in the order they stand in, as far as they can be read: a cut file gives those before the cut. */
async function partsOf(file: Blob): Promise<Map<string, Uint8Array>> {
	const parts = new Map<string, Uint8Array>();
	let total = 0;
	const unzip = new Unzip((entry) => {
		const chunks: Uint8Array[] = [];
		entry.ondata = (error, data, final) => {
			if (error) return;
			total += data.length;
			if (total > MOST_BYTES) throw new RangeError('too large');
			chunks.push(data);
			if (!final) return;
			const out = new Uint8Array(chunks.reduce((n, c) => n + c.length, 0));
			let at = 0;
			for (const c of chunks) {
				out.set(c, at);
				at += c.length;
			}
			parts.set(entry.name, out);
		};
		entry.start();
	});
	unzip.register(UnzipInflate);
	const BLOCK = 4 << 20;
	try {
		for (let at = 0; at < file.size; at += BLOCK) {
			unzip.push(new Uint8Array(await file.slice(at, at + BLOCK).arrayBuffer()), at + BLOCK >= file.size);
		}
	} catch (error) {
		if (error instanceof RangeError) throw error;
		// What was read before the damage is kept.
	}
	return parts;
}

function parsed<T>(parts: Map<string, Uint8Array>, name: string, schema: z.ZodType<T>): T | null {
	const bytes = parts.get(name);
	if (!bytes) return null;
	try {
		const result = schema.safeParse(JSON.parse(strFromU8(bytes)));
		return result.success ? result.data : null;
	} catch {
		return null;
	}
}

export type Unpacked = { ok: true; id: string; remarks: string[] } | { ok: false; problem: string };

/** Reads a case file into the browser's storage, as a case of its own. */
export async function unpackCase(file: Blob): Promise<Unpacked> {
	let parts: Map<string, Uint8Array>;
	try {
		parts = await partsOf(file);
	} catch {
		return { ok: false, problem: 'This file is larger than any case file. It was not opened.' };
	}
	const head = parsed(parts, 'case.json', headSchema);
	if (!head) return { ok: false, problem: 'This is no case file, or its first part is damaged. Nothing was opened.' };
	if (head.version > VERSION)
		return {
			ok: false,
			problem: `This case was saved by a newer Ombudsman (its version is ${head.version}, ${VERSION} can be opened here). Nothing was opened.`
		};
	const record = caseSchema.safeParse(head.record);
	if (!record.success) return { ok: false, problem: 'The case in this file cannot be read. Nothing was opened.' };
	const remarks: string[] = [];
	const taken = (await allCases()).some((c) => c.id === record.data.id);
	const id = taken ? crypto.randomUUID() : record.data.id;
	let threads = 0;
	for (const name of [...parts.keys()].filter((n) => n.startsWith('threads/'))) {
		const part = parsed(parts, name, threadPartSchema);
		if (!part) {
			remarks.push(`A thread (${name}) is damaged and was left out.`);
			continue;
		}
		threads++;
		await saveThread({ ...part.thread, caseId: id, chunks: part.messages.length }, part.messages, part.details);
	}
	const picks = parsed(parts, 'picks.json', picksSchema);
	if (picks) await savePicks({ ...picks, caseId: id });
	else remarks.push('What was picked could not be read.');
	const log = parsed(parts, 'log.json', z.array(logEntrySchema));
	if (log) {
		await saveLog(id, log);
		const broken = firstBroken(log);
		if (broken !== null) remarks.push(`The log does not hold: its chain breaks at entry ${broken}.`);
	} else remarks.push('The log could not be read.');
	const readings = parsed(parts, 'readings.json', readingsSchema);
	if (readings) await saveReadings(id, readings);
	const originals = parsed(parts, 'originals.json', originalsSchema) ?? [];
	for (const { path, entry } of originals) {
		const bytes = parts.get(entry);
		if (bytes) await saveOriginals(id, [{ path, file: new Blob([new Uint8Array(bytes)]) }]);
		else remarks.push(`The original ${path} is damaged and was left out.`);
	}
	if (!parts.has(SUMS_NAME)) remarks.push('The file is cut: what stood behind the cut is not there.');
	await saveCase({ ...record.data, id, openedAt: Date.now(), state: record.data.state === 'looking' ? 'stopped' : record.data.state });
	return { ok: true, id, remarks: threads === 0 && record.data.files.length > 0 ? ['No thread could be read.', ...remarks] : remarks };
}
