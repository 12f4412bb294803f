/** The browser's own storage: cases, findings in chunks, picks. */
export * from './database';
export { CHUNK, type CaseFile, type CaseRecord, type Detail, type Picks, type SlimMessage, type ThreadRecord } from './schema';
