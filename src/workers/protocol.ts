/** What passes between the page and its workers: plain data only. */
import type { Correction } from '../core/interpret';
import type { Reach } from '../core/model';
import type { Choice, SurveyLine } from '../core/survey';

export interface LookInput {
	caseId: string;
	files: { file: Blob; name: string; path: string }[];
	reach: Reach;
	owner: string | null;
	/** IANA zone for times that state none. */
	zone: string;
	/** With whom what is missing was: their threads are written first. */
	first: string[];
	correction: Correction | null;
	/** Stores left out and the time of the messages wanted. */
	choice: Choice;
	/** Tried on locked containers; never stored. */
	passphrases: string[];
	/** When captures were taken, ms UTC, by path. */
	takenAt: Record<string, number>;
	/** Names put right by hand, by the number, address or name that the evidence has. */
	names: Record<string, string>;
}

/** Some messages of a table as they read now and as they would read. */
export interface Preview {
	before: PreviewLine[];
	after: PreviewLine[];
	/** Messages and threads, now and then. */
	counts: [{ messages: number; threads: number }, { messages: number; threads: number }];
}

export interface PreviewLine {
	text: string | null;
	sentAt: number | null;
	direction: 'in' | 'out' | null;
	who: string | null;
	thread: string;
}

/** Lines of a survey, what is locked, and how fast it read: bytes a second. */
export interface Surveyed {
	lines: (SurveyLine & { device: string | null })[];
	locked: string[];
	notes: string[];
	speed: number;
}

export type LookReport =
	| { kind: 'progress'; store: string; reach: Reach; done: number; total: number; rows: number }
	/** How many of the files given are opened, and how many were come upon in all. */
	| { kind: 'opening'; taken: number; given: number; files: number }
	/** What was given is known, and written, as far as it says itself what it is. */
	| { kind: 'opened' }
	| { kind: 'saved'; reach: Reach; threads: number; messages: number; lost: number }
	| { kind: 'ended'; how: 'done' | 'stopped' }
	| { kind: 'failed'; message: string };

export interface LookWorker {
	look(input: LookInput, report: (report: LookReport) => void): Promise<void>;
	/** What each store holds, before any look; what was given is noted, and nothing found. Null where it was stopped. */
	survey(input: LookInput, report: (report: LookReport) => void): Promise<Surveyed | null>;
	stop(): void;
	/** Holds a look where it stands, or lets it go on. */
	pause(on: boolean): void;
	/** Reads the held look's stores under another correction and shows some messages of a table; nothing is written. */
	preview(correction: Correction | null, table: string): Preview | null;
	/** Reads them so and writes the findings. */
	apply(correction: Correction | null, report: (report: LookReport) => void): Promise<void>;
	/** Writes the findings with correspondents called so. */
	callBy(names: Record<string, string>, report: (report: LookReport) => void): Promise<void>;
}

export interface HashWorker {
	/** SHA-256 of each, as hex, reading it in blocks; '' of one that cannot be read. */
	sha256(files: readonly Blob[]): Promise<string[]>;
}

export interface ZipWorker {
	zip(files: { name: string; bytes: Uint8Array }[]): Promise<Uint8Array<ArrayBuffer>>;
}
