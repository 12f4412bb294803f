/** A survey: what each store holds, from as much of its rows in use as can be read in a moment, before any look. */
import { z } from 'zod';

export const surveySchema = z.object({
	path: z.string(),
	kind: z.enum(['messages', 'contacts', 'other']),
	/** About how many messages are in use. */
	estimate: z.number(),
	/** ms UTC of the oldest and newest message met. */
	from: z.number().nullable(),
	to: z.number().nullable(),
	threads: z.number(),
	/** When this state was taken, ms UTC, and whether something states it. */
	capture: z.number().nullable(),
	stated: z.boolean(),
	/** Path of what this copy of a store lies in, where it is one of several. */
	place: z.string().nullable(),
	/** Whether somebody exported it, and whether it is the other party's copy, where the look has told that. */
	exported: z.boolean(),
	otherSide: z.boolean(),
	/** Whether only a part was read, and the rest reckoned from it. */
	sampled: z.boolean(),
	/** Bytes that each reach would read: the rows in use, logs and journals, freed space. */
	bytes: z.object({ used: z.number(), logs: z.number(), freed: z.number() })
});
export type SurveyLine = z.infer<typeof surveySchema>;

/** What to look at, and how far: stores left out by path, the time of the messages wanted (ms UTC), and whether files that messages state are sought. */
export const choiceSchema = z.object({
	leftOut: z.array(z.string()).default([]),
	from: z.number().nullable().default(null),
	to: z.number().nullable().default(null),
	attachments: z.boolean().default(true),
	reach: z.enum(['used', 'logs', 'freed', 'raw']).default('raw')
});
export type Choice = z.infer<typeof choiceSchema>;
