/** What goes into a bundle: the picked messages as a record, plain data between the page, the server route and the command line. */
import { z } from 'zod';
import { messageSchema, seenAtSchema } from '../weave';

const sightingSchema = seenAtSchema.omit({ hex: true, hexFrom: true, mark: true });

export const recordMessageSchema = messageSchema
	.omit({ thread: true, store: true, stored: true, moreSightings: true })
	.extend({ sightings: z.array(sightingSchema) });
export type RecordMessage = z.infer<typeof recordMessageSchema>;

export const recordThreadSchema = z.object({
	id: z.string(),
	title: z.string(),
	address: z.string().nullable(),
	group: z.boolean(),
	members: z.array(z.object({ address: z.string().nullable(), name: z.string().nullable() })),
	/** Messages of the whole thread, earlier wordings not counted. */
	total: z.number(),
	messages: z.array(recordMessageSchema),
	gaps: z.array(
		z.object({
			table: z.string(),
			from: z.number(),
			to: z.number(),
			count: z.number(),
			after: z.number().nullable(),
			before: z.number().nullable(),
			certain: z.boolean(),
			/** Whether `from` and `to` are numbers that the messages have beside their record numbers. */
			beside: z.boolean().default(false)
		})
	)
});
export type RecordThread = z.infer<typeof recordThreadSchema>;

export const recordSchema = z.object({
	caseName: z.string().max(200),
	owner: z.string().max(200),
	/** IANA zone in which times are written. */
	zone: z.string().max(80),
	/** When the record was made, ms UTC. */
	madeAt: z.number(),
	/** Whether each message says where it was seen. */
	showSightings: z.boolean(),
	showGaps: z.boolean(),
	sources: z.array(z.object({ name: z.string(), path: z.string(), size: z.number(), sha256: z.string().nullable() })),
	/** Remarks of the look that bear on what the record can say. */
	remarks: z.array(z.string()),
	threads: z.array(recordThreadSchema)
});
export type BundleRecord = z.infer<typeof recordSchema>;
