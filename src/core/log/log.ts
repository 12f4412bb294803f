/**
 * The custody log: every step with its time, who, and what came of it. Append-only: each entry carries the SHA-256 of
 * the one before, so that one that was changed, taken out or put in between shows.
 */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { z } from 'zod';

export const logEntrySchema = z.object({
	/** 1 and up. */
	n: z.number().int().positive(),
	/** ms UTC. */
	at: z.number(),
	/** IANA zone in which the local time is shown. */
	zone: z.string(),
	who: z.string(),
	/** What was done: a short code for filtering. */
	step: z.string(),
	says: z.string(),
	source: z.string().nullable(),
	sha256: z.string().nullable(),
	reach: z.string().nullable(),
	result: z.string().nullable(),
	/** Hash of the entry before; 64 zeros for the first. */
	before: z.string().length(64),
	hash: z.string().length(64)
});
export type LogEntry = z.infer<typeof logEntrySchema>;

export type NewEntry = Pick<LogEntry, 'at' | 'zone' | 'who' | 'step' | 'says'> &
	Partial<Pick<LogEntry, 'source' | 'sha256' | 'reach' | 'result'>>;

const NONE = '0'.repeat(64);

/** SHA-256 over the entry's values as a JSON list, in the order of the fields, `before` last. */
function hashOf(e: Omit<LogEntry, 'hash'>): string {
	return bytesToHex(
		sha256(utf8ToBytes(JSON.stringify([e.n, e.at, e.zone, e.who, e.step, e.says, e.source, e.sha256, e.reach, e.result, e.before])))
	);
}

export function nextEntry(last: LogEntry | null, entry: NewEntry): LogEntry {
	const full = {
		n: (last?.n ?? 0) + 1,
		at: entry.at,
		zone: entry.zone,
		who: entry.who,
		step: entry.step,
		says: entry.says,
		source: entry.source ?? null,
		sha256: entry.sha256 ?? null,
		reach: entry.reach ?? null,
		result: entry.result ?? null,
		before: last?.hash ?? NONE
	};
	return { ...full, hash: hashOf(full) };
}

/** The number of the first entry that does not fit the ones before it, or null where the whole log holds. */
export function firstBroken(entries: readonly LogEntry[]): number | null {
	let before = NONE;
	for (let i = 0; i < entries.length; i++) {
		const e = entries[i]!;
		const { hash, ...rest } = e;
		if (e.n !== i + 1 || e.before !== before || hashOf(rest) !== hash) return i + 1;
		before = hash;
	}
	return null;
}

/** The log as text, a line or more an entry, in UTC and local time. */
export function logAsText(entries: readonly LogEntry[], caseName: string): string {
	const broken = firstBroken(entries);
	const lines = [
		`Log of the case ${oneLine(caseName)}`,
		broken === null ? `${entries.length} entries; each holds the hash of the one before.` : `The chain breaks at entry ${broken}.`,
		''
	];
	for (const e of entries) {
		lines.push(`${e.n}  ${new Date(e.at).toISOString()}  (${localTime(e.at, e.zone)})  ${oneLine(e.who)}`);
		lines.push(`   ${oneLine(e.says)}`);
		if (e.source) lines.push(`   source: ${oneLine(e.source)}`);
		if (e.sha256) lines.push(`   SHA-256: ${e.sha256}`);
		if (e.reach) lines.push(`   reach: ${e.reach}`);
		if (e.result) lines.push(`   result: ${oneLine(e.result)}`);
		lines.push(`   hash: ${e.hash}`, '');
	}
	return lines.join('\r\n');
}

const oneLine = (text: string): string => text.replace(/[\r\n\u2028\u2029]+/g, ' ');

const localTime = (at: number, zone: string): string =>
	new Date(at).toLocaleString('en-GB', { timeZone: zone, dateStyle: 'medium', timeStyle: 'medium', hourCycle: 'h23' }) + `, ${zone}`;
