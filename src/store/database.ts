/** Opens the browser's database and reads and writes cases in it. What comes out is checked; what does not fit is left out. */
import { openDB, type IDBPDatabase } from 'idb';
import { z } from 'zod';
import {
	caseSchema,
	detailSchema,
	picksSchema,
	slimMessageSchema,
	threadRecordSchema,
	type CaseRecord,
	type Detail,
	type OmbudsmanSchema,
	type Picks,
	type SlimMessage,
	type ThreadRecord
} from './schema';

let opened: Promise<IDBPDatabase<OmbudsmanSchema>> | null = null;

export function database(): Promise<IDBPDatabase<OmbudsmanSchema>> {
	opened ??= openDB<OmbudsmanSchema>('ombudsman', 1, {
		upgrade(db) {
			db.createObjectStore('cases', { keyPath: 'id' });
			db.createObjectStore('threads', { keyPath: ['caseId', 'id'] });
			db.createObjectStore('messages');
			db.createObjectStore('details');
			db.createObjectStore('picks', { keyPath: 'caseId' });
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

export async function latestCase(): Promise<CaseRecord | null> {
	const all = (await (await database()).getAll('cases')).map((c) => caseSchema.safeParse(c)).flatMap((p) => (p.success ? [p.data] : []));
	return all.sort((a, b) => b.createdAt - a.createdAt)[0] ?? null;
}

export async function changeCase(id: string, change: (record: CaseRecord) => void): Promise<void> {
	const db = await database();
	const tx = db.transaction('cases', 'readwrite');
	const record = await tx.store.get(id);
	if (record) {
		change(record);
		await tx.store.put(record);
	}
	await tx.done;
}

export async function deleteCase(id: string): Promise<void> {
	const db = await database();
	const tx = db.transaction(['cases', 'threads', 'messages', 'details', 'picks'], 'readwrite');
	await Promise.all([
		tx.objectStore('cases').delete(id),
		tx.objectStore('threads').delete(within(id)),
		tx.objectStore('messages').delete(within(id)),
		tx.objectStore('details').delete(within(id)),
		tx.objectStore('picks').delete(id),
		tx.done
	]);
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
}
