/** Log: the append-only record of what was done. */
export { firstBroken, logAsText, logEntrySchema, nextEntry, type LogEntry, type NewEntry } from './log';
