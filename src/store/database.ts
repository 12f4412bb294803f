/** Opens the browser's database and reads and writes cases in it. What comes out is checked; what does not fit is left out. */
import { openDB, type IDBPDatabase } from 'idb';
import { z } from 'zod';
import { nextEntry, type LogEntry, type NewEntry } from '../core/log';
import {
	caseSchema,
	detailSchema,
	picksSchema,
	slimMessageSchema,
	threadRecordSchema,
	logEntrySchema,
	readingsSchema,
	type CaseRecord,
	type Detail,
	type OmbudsmanSchema,
	type Picks,
	type PlainReading,
	type SlimMessage,
	type ThreadRecord
} from './schema';

let opened: Promise<IDBPDatabase<OmbudsmanSchema>> | null = null;

export function database(): Promise<IDBPDatabase<OmbudsmanSchema>> {
	opened ??= openDB<OmbudsmanSchema>('ombudsman', 2, {
		upgrade(db, from) {
			if (from < 1) {
				db.createObjectStore('cases', { keyPath: 'id' });
				db.createObjectStore('threads', { keyPath: ['caseId', 'id'] });
				db.createObjectStore('messages');
				db.createObjectStore('details');
				db.createObjectStore('picks', { keyPath: 'caseId' });
			}
			if (from < 2) {
				db.createObjectStore('log');
				db.createObjectStore('readings');
				db.createObjectStore('originals');
			}
		},
		blocking() {
			// Another tab has a newer version of this page: it must be able to upgrade.
			void opened?.then((db) => db.close());
			opened = null;
		},
		terminated() {
			opened = null;
		}
	});
	return opened;
}

/** All keys that begin with this case (and thread). */
const within = (...parts: string[]): IDBKeyRange => IDBKeyRange.bound([...parts], [...parts, []]);

export async function saveCase(record: CaseRecord): Promise<void> {
	await (await database()).put('cases', record);
}

/** All cases, the one opened last first. What cannot be read is left out. */
export async function allCases(): Promise<CaseRecord[]> {
	const all = (await (await database()).getAll('cases')).map((c) => caseSchema.safeParse(c)).flatMap((p) => (p.success ? [p.data] : []));
	return all.sort((a, b) => Math.max(b.openedAt, b.createdAt) - Math.max(a.openedAt, a.createdAt));
}

export async function readCase(id: string): Promise<CaseRecord | null> {
	const parsed = caseSchema.safeParse(await (await database()).get('cases', id));
	return parsed.success ? parsed.data : null;
}

/** Tells other tabs that a case was changed. */
const channel = typeof BroadcastChannel === 'undefined' ? null : new BroadcastChannel('ombudsman');
export function onChangeElsewhere(act: (caseId: string) => void, picked: (caseId: string) => void): void {
	channel?.addEventListener('message', (e: MessageEvent<unknown>) => {
		if (typeof e.data !== 'string') return;
		if (e.data.startsWith(PICKS)) picked(e.data.slice(PICKS.length));
		else act(e.data);
	});
}
const PICKS = 'picks:';
export const announce = (caseId: string): void => channel?.postMessage(caseId);

/** Changes a case as it now stands in storage, so that two tabs do not undo each other's changes. */
export async function changeCase(id: string, change: (record: CaseRecord) => void): Promise<CaseRecord | null> {
	const db = await database();
	const tx = db.transaction('cases', 'readwrite');
	const parsed = caseSchema.safeParse(await tx.store.get(id));
	if (parsed.success) {
		change(parsed.data);
		await tx.store.put(parsed.data);
	}
	await tx.done;
	announce(id);
	return parsed.success ? parsed.data : null;
}

const ALL_STORES = ['cases', 'threads', 'messages', 'details', 'picks', 'log', 'readings', 'originals'] as const;

export async function deleteCase(id: string): Promise<void> {
	const db = await database();
	const tx = db.transaction(ALL_STORES, 'readwrite');
	await Promise.all([
		tx.objectStore('cases').delete(id),
		tx.objectStore('threads').delete(within(id)),
		tx.objectStore('messages').delete(within(id)),
		tx.objectStore('details').delete(within(id)),
		tx.objectStore('picks').delete(id),
		tx.objectStore('log').delete(within(id)),
		tx.objectStore('readings').delete(id),
		tx.objectStore('originals').delete(within(id)),
		tx.done
	]);
	announce(id);
}

/** Appends to a case's log; the chain goes on from the entry that is the last in storage. */
export async function appendLog(caseId: string, entry: NewEntry): Promise<LogEntry> {
	const db = await database();
	const tx = db.transaction('log', 'readwrite');
	const cursor = await tx.store.openCursor(within(caseId), 'prev');
	const last = cursor ? logEntrySchema.parse(cursor.value) : null;
	const next = nextEntry(last, entry);
	await tx.store.put(next, [caseId, next.n]);
	await tx.done;
	return next;
}

export async function logOf(caseId: string): Promise<LogEntry[]> {
	const all = await (await database()).getAll('log', within(caseId));
	return all.flatMap((e) => {
		const parsed = logEntrySchema.safeParse(e);
		return parsed.success ? [parsed.data] : [];
	});
}

export async function saveLog(caseId: string, entries: readonly LogEntry[]): Promise<void> {
	const tx = (await database()).transaction('log', 'readwrite');
	await Promise.all([...entries.map((e) => tx.store.put(e, [caseId, e.n])), tx.done]);
}

export async function saveReadings(caseId: string, readings: PlainReading[]): Promise<void> {
	await (await database()).put('readings', readings, caseId);
}

export async function readingsOf(caseId: string): Promise<PlainReading[]> {
	const parsed = readingsSchema.safeParse((await (await database()).get('readings', caseId)) ?? []);
	return parsed.success ? parsed.data : [];
}

/** Whether something could not be written because the browser gives no more room. */
export const isFull = (error: unknown): boolean =>
	// A worker's error comes over as one of no class.
	error instanceof Object && 'name' in error && error.name === 'QuotaExceededError';

/** Keeps copies, many in one go: a folder has tens of thousands of files. */
export async function saveOriginals(caseId: string, files: readonly { path: string; file: Blob }[]): Promise<void> {
	const db = await database();
	for (let at = 0; at < files.length; at += AT_ONCE) {
		const tx = db.transaction('originals', 'readwrite');
		await Promise.all([...files.slice(at, at + AT_ONCE).map(({ path, file }) => tx.store.put(file, [caseId, path])), tx.done]);
	}
}
const AT_ONCE = 200;

export async function originalOf(caseId: string, path: string): Promise<Blob | null> {
	const blob = await (await database()).get('originals', [caseId, path]);
	return blob instanceof Blob ? blob : null;
}

export async function removeOriginals(caseId: string, paths: readonly string[]): Promise<void> {
	const tx = (await database()).transaction('originals', 'readwrite');
	await Promise.all([...paths.map((path) => tx.store.delete([caseId, path])), tx.done]);
}

export async function threadsOf(caseId: string): Promise<ThreadRecord[]> {
	const all = await (await database()).getAll('threads', within(caseId));
	return all
		.flatMap((t) => {
			const parsed = threadRecordSchema.safeParse(t);
			return parsed.success ? [parsed.data] : [];
		})
		.sort((a, b) => a.order - b.order);
}

/** Writes one thread whole: its record and its chunks, in one transaction. */
export async function saveThread(record: ThreadRecord, slim: SlimMessage[][], details: Detail[][]): Promise<void> {
	const db = await database();
	const tx = db.transaction(['threads', 'messages', 'details'], 'readwrite');
	const messages = tx.objectStore('messages');
	const store = tx.objectStore('details');
	await Promise.all([
		messages.delete(within(record.caseId, record.id)),
		store.delete(within(record.caseId, record.id)),
		...slim.map((chunk, n) => messages.put(chunk, [record.caseId, record.id, n])),
		...details.map((chunk, n) => store.put(chunk, [record.caseId, record.id, n])),
		tx.objectStore('threads').put(record),
		tx.done
	]);
}

/** Removes threads of a case that a later state of the look no longer has. */
export async function removeThreads(caseId: string, ids: readonly string[]): Promise<void> {
	const db = await database();
	for (const id of ids) {
		const tx = db.transaction(['threads', 'messages', 'details'], 'readwrite');
		await Promise.all([
			tx.objectStore('threads').delete([caseId, id]),
			tx.objectStore('messages').delete(within(caseId, id)),
			tx.objectStore('details').delete(within(caseId, id)),
			tx.done
		]);
	}
}

const slimChunk = z.array(slimMessageSchema);

export async function messageChunk(caseId: string, thread: string, n: number): Promise<SlimMessage[]> {
	const chunk = await (await database()).get('messages', [caseId, thread, n]);
	const parsed = slimChunk.safeParse(chunk ?? []);
	return parsed.success ? parsed.data : [];
}

const detailChunk = z.array(detailSchema);

export async function detailOf(caseId: string, thread: string, n: number): Promise<Detail[]> {
	const chunk = await (await database()).get('details', [caseId, thread, n]);
	const parsed = detailChunk.safeParse(chunk ?? []);
	return parsed.success ? parsed.data : [];
}

export async function picksOf(caseId: string): Promise<Picks> {
	const parsed = picksSchema.safeParse(await (await database()).get('picks', caseId));
	return parsed.success ? parsed.data : { caseId, threads: {} };
}

export async function savePicks(picks: Picks): Promise<void> {
	await (await database()).put('picks', picks);
	channel?.postMessage(PICKS + picks.caseId);
}
