/** What the weave makes: messages in their threads, plain data that crosses workers, stores and files. */
import { z } from 'zod';

export const standingSchema = z.enum(['kept', 'binned', 'dropped', 'remnant']);
export const gradeSchema = z.enum(['whole', 'rebuilt', 'fragment']);
export const directionSchema = z.enum(['in', 'out']).nullable();

export const seenAtSchema = z.object({
	/** Name of the file, as the user gave it. */
	source: z.string(),
	path: z.string(),
	offset: z.number(),
	length: z.number(),
	method: z.string(),
	page: z.number().optional(),
	frame: z.number().optional(),
	standing: standingSchema,
	grade: gradeSchema,
	/** The bytes, as hex, where kept with the finding; `hexFrom` is the offset of the first of them in the file. */
	hex: z.string().optional(),
	hexFrom: z.number().optional(),
	/** Stretch of `hex` in bytes that is the text's value. */
	mark: z.tuple([z.number(), z.number()]).optional()
});
export type SeenAt = z.infer<typeof seenAtSchema>;

/** A file that a message states, and where it was found. */
export const attachmentSchema = z.object({
	name: z.string().nullable(),
	type: z.string().nullable(),
	/** Bytes. */
	size: z.number().nullable(),
	sha256: z.string().nullable(),
	path: z.string().nullable(),
	/** How the file was found; null where it was not. */
	link: z.string().nullable(),
	/** As the store states it. */
	stated: z.string().nullable()
});
export type Attachment = z.infer<typeof attachmentSchema>;

/** A receipt, a reaction or the like. */
export const attachedSchema = z.object({
	what: z.string(),
	who: z.string().nullable(),
	at: z.number().nullable(),
	standing: standingSchema
});

export const messageSchema = z.object({
	id: z.string(),
	thread: z.string(),
	text: z.string().nullable(),
	textCut: z.boolean(),
	/** Of a text whose middle is gone, what is left behind it, and how many bytes are not. */
	textRest: z.object({ text: z.string(), lost: z.number() }).optional(),
	/** ms since 1970 UTC. */
	sentAt: z.number().nullable(),
	zoned: z.boolean(),
	direction: directionSchema,
	correspondent: z.string().nullable(),
	person: z.string().nullable(),
	standing: standingSchema,
	grade: gradeSchema,
	earlierWordingOf: z.string().optional(),
	/** The text as another copy of the conversation has it, where it differs. */
	otherWording: z.string().optional(),
	/** For an earlier wording: until when it stood, ms UTC. */
	until: z.number().optional(),
	/** Id of the message it answers. */
	replyTo: z.string().optional(),
	attachments: z.array(attachmentSchema).optional(),
	attached: z.array(attachedSchema).optional(),
	/** State in each capture of its store, oldest first, where there are several. */
	states: z.array(z.enum(['in', 'binned', 'out', 'before'])).optional(),
	/** The store whose captures those are, where it is another one than the message's own. */
	statesOf: z.number().optional(),
	/** Times of the captures on either side of the deletion, ms UTC. */
	lastSeen: z.number().optional(),
	firstMissing: z.number().optional(),
	/** Index of the store, table name, record number: its place in the store's own order. */
	store: z.number(),
	table: z.string(),
	record: z.number().nullable(),
	/** Whether its table knows rows by their keys, and has no record numbers. */
	keyed: z.literal(true).optional(),
	sightings: z.array(seenAtSchema),
	moreSightings: z.number().optional(),
	/** Column, value as stored, what it was read as. */
	stored: z.array(z.tuple([z.string(), z.string(), z.string()]))
});
export type Message = z.infer<typeof messageSchema>;

export const threadSchema = z.object({
	id: z.string(),
	title: z.string(),
	/** Number, address or handle shown under the title; null for groups. */
	address: z.string().nullable(),
	group: z.boolean(),
	members: z.array(z.object({ address: z.string().nullable(), name: z.string().nullable() })),
	count: z.number(),
	kept: z.number(),
	binned: z.number(),
	dropped: z.number(),
	remnant: z.number(),
	/** Record numbers unaccounted for that belong, or may belong, here. */
	missing: z.number(),
	first: z.number().nullable(),
	last: z.number().nullable(),
	snippet: z.string()
});
export type Thread = z.infer<typeof threadSchema>;

export const gapSchema = z.object({
	store: z.string(),
	table: z.string(),
	from: z.number(),
	to: z.number(),
	count: z.number(),
	after: z.number().nullable(),
	before: z.number().nullable(),
	why: z.enum(['sequence', 'neighbours', 'numbering', 'counter', 'list']),
	threads: z.array(z.string()),
	certainThread: z.boolean()
});
