/**
 * What the browser keeps, and its shape at the border. One database, `ombudsman`, version 1:
 *
 * | store | key | value |
 * |---|---|---|
 * | cases | id | the case: files, state of the look, notes, account, gaps |
 * | threads | [case, thread] | a thread with its counts and days |
 * | messages | [case, thread, n] | up to CHUNK messages in reading order, without sightings |
 * | details | [case, thread, n] | sightings, bytes and stored values of the same messages |
 * | picks | case | what is picked for the bundle |
 */
import type { DBSchema } from 'idb';
import { z } from 'zod';
import { gapSchema, messageSchema, threadSchema } from '../core/weave';

export const CHUNK = 400;

export const caseFileSchema = z.object({
	name: z.string(),
	path: z.string(),
	size: z.number(),
	modified: z.number().nullable(),
	sha256: z.string().nullable()
});
export type CaseFile = z.infer<typeof caseFileSchema>;

export const accountSchema = z.array(
	z.object({ store: z.string(), lines: z.array(z.object({ space: z.string(), bytes: z.number(), rows: z.number() })) })
);

export const caseSchema = z.object({
	id: z.string(),
	name: z.string(),
	createdAt: z.number(),
	demo: z.boolean(),
	/** Whose device it is, as the records name them. */
	owner: z.string(),
	/** IANA zone in which times are shown. */
	zone: z.string(),
	files: z.array(caseFileSchema),
	state: z.enum(['looking', 'stopped', 'done', 'failed']),
	/** How far the look has come. */
	reached: z.enum(['used', 'logs', 'freed', 'raw']).nullable(),
	problem: z.string().nullable(),
	notes: z.array(z.object({ text: z.string(), severity: z.enum(['note', 'warning']) })),
	account: accountSchema,
	gaps: z.array(gapSchema),
	seconds: z.number()
});
export type CaseRecord = z.infer<typeof caseSchema>;

/** A day with its counts by standing: days since 1970 UTC, kept, binned, dropped, remnant. */
export const daySchema = z.tuple([z.number(), z.number(), z.number(), z.number(), z.number()]);

export const threadRecordSchema = threadSchema.extend({
	caseId: z.string(),
	order: z.number(),
	chunks: z.number(),
	days: z.array(daySchema),
	signature: z.string()
});
export type ThreadRecord = z.infer<typeof threadRecordSchema>;

export const slimMessageSchema = messageSchema.omit({ sightings: true, stored: true, moreSightings: true });
export type SlimMessage = z.infer<typeof slimMessageSchema>;

export const detailSchema = messageSchema.pick({ id: true, sightings: true, stored: true, moreSightings: true });
export type Detail = z.infer<typeof detailSchema>;

export const picksSchema = z.object({
	caseId: z.string(),
	/** Thread id → every message of it, or the ids picked. */
	threads: z.record(z.string(), z.union([z.literal('all'), z.array(z.string())]))
});
export type Picks = z.infer<typeof picksSchema>;

export interface OmbudsmanSchema extends DBSchema {
	cases: { key: string; value: CaseRecord };
	threads: { key: [string, string]; value: ThreadRecord };
	messages: { key: [string, string, number]; value: SlimMessage[] };
	details: { key: [string, string, number]; value: Detail[] };
	picks: { key: string; value: Picks };
}
