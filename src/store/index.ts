/** The browser's own storage: cases, findings in chunks, picks, log, readings, originals. */
export * from './database';
export {
	CHUNK,
	caseSchema,
	detailSchema,
	picksSchema,
	readingsSchema,
	slimMessageSchema,
	threadRecordSchema,
	type CaseFile,
	type CaseRecord,
	type Detail,
	type Picks,
	type PlainFamily,
	type PlainReading,
	type SlimMessage,
	type ThreadRecord
} from './schema';
