/**
 * What the browser keeps, and its shape at the border. One database, `ombudsman`, version 2 (1 had no log, readings
 * and originals; what a case of that version lacks is filled in when it is read):
 *
 * | store | key | value |
 * |---|---|---|
 * | cases | id | the case: loss, places, files, state of the look, notes, account, gaps |
 * | threads | [case, thread] | a thread with its counts and days |
 * | messages | [case, thread, n] | up to CHUNK messages in reading order, without sightings |
 * | details | [case, thread, n] | sightings, bytes and stored values of the same messages |
 * | picks | case | what is picked for the bundle |
 * | log | [case, n] | what was done, each entry with the hash of the one before |
 * | readings | case | how each store was read: tables and columns with their roles |
 * | originals | [case, path] | copies of the files given, as long as they are small |
 */
import type { DBSchema } from 'idb';
import { z } from 'zod';
import { correctionSchema, storeReadingSchema } from '../core/interpret';
import { logEntrySchema, type LogEntry } from '../core/log';
import { emptyLoss, kindSchema, lossSchema, placeSchema } from '../core/prospects';
import { sourceSchema } from '../core/sources';
import { choiceSchema } from '../core/survey';
import { gapSchema, messageSchema, patternSchema, sidesSchema, threadSchema } from '../core/weave';

export const CHUNK = 400;

export const caseFileSchema = z.object({
	name: z.string(),
	path: z.string(),
	size: z.number(),
	modified: z.number().nullable(),
	/** Null until it is computed, empty where the file was gone before that. */
	sha256: z.string().nullable(),
	/** The SHA-256 it had when it was first given, where it is another since. */
	was: z.string().nullable().default(null)
});
export type CaseFile = z.infer<typeof caseFileSchema>;

export const accountSchema = z.array(
	z.object({
		store: z.string(),
		lines: z.array(z.object({ space: z.string(), bytes: z.number(), rows: z.number(), files: z.number().optional() })),
		seconds: z.number().optional()
	})
);

/** The captures of one store, oldest first. */
export const familySchema = z.object({
	captures: z.array(
		z.object({
			store: z.number(),
			name: z.string(),
			/** Path of what it is called after; '' in cases made before this was kept. */
			place: z.string().default(''),
			time: z.number().nullable(),
			stated: z.boolean()
		})
	),
	/** Whether it holds messages; a phone has many databases that hold none. */
	messages: z.boolean().default(true)
});
export type PlainFamily = z.infer<typeof familySchema>;

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
	seconds: z.number(),
	/** "Today" of the case: fixed for the demo, else null. */
	today: z.number().nullable().default(null),
	openedAt: z.number().default(0),
	loss: lossSchema.default(emptyLoss),
	places: z.array(placeSchema).default([]),
	/** Ids of places in the user's own order; empty where they are ranked. */
	placeOrder: z.array(z.string()).default([]),
	/** Sources that were taken off the list of places, by path. */
	offList: z.array(z.string()).default([]),
	/** Kinds of places added from a catalogue file. */
	ownKinds: z.array(kindSchema).default([]),
	/** Warnings ticked off, with when (ms UTC). */
	heeded: z.record(z.string(), z.number()).default({}),
	families: z.array(familySchema).default([]),
	/** What each thing is that was given. */
	sources: z.array(sourceSchema).default([]),
	/** Containers that no passphrase given opens, by path. */
	locked: z.array(z.string()).default([]),
	/** What lies inside containers and backups. */
	inside: z.array(z.object({ path: z.string(), size: z.number(), modified: z.number().nullable(), origin: z.string() })).default([]),
	/** Names put right by hand, by the number, address or name that the evidence has. */
	names: z.record(z.string(), z.string()).default({}),
	/** When captures were taken, as the user states it (ms UTC), by path. */
	takenAt: z.record(z.string(), z.number()).default({}),
	/** What the looks of the case leave out, and how far they go. */
	choice: choiceSchema.default({ leftOut: [], from: null, to: null, attachments: true, reach: 'raw' }),
	/** Threads that several sources hold, and how the copies compare. */
	compared: z.array(sidesSchema).default([]),
	/** Paths of the files given that the last look went through. */
	lookedAt: z.array(z.string()).default([]),
	pattern: patternSchema.nullable().default(null),
	correction: correctionSchema.nullable().default(null)
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
	log: { key: [string, number]; value: LogEntry };
	readings: { key: string; value: PlainReading[] };
	originals: { key: [string, string]; value: Blob };
}

export const readingsSchema = z.array(storeReadingSchema);
export type PlainReading = z.infer<typeof storeReadingSchema>;
export { logEntrySchema };
