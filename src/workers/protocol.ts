/** What passes between the page and its workers: plain data only. */
import type { Reach } from '../core/model';

export interface LookInput {
	caseId: string;
	files: { file: File; name: string; path: string }[];
	reach: Reach;
	owner: string | null;
}

export type LookReport =
	| { kind: 'progress'; store: string; reach: Reach; done: number; total: number; rows: number }
	| { kind: 'saved'; reach: Reach; threads: number; messages: number; lost: number }
	| { kind: 'ended'; how: 'done' | 'stopped' }
	| { kind: 'failed'; message: string };

export interface LookWorker {
	look(input: LookInput, report: (report: LookReport) => void): Promise<void>;
	stop(): void;
}

export interface HashWorker {
	/** SHA-256 of a file, as hex, reading it in blocks. */
	sha256(file: File): Promise<string>;
}

export interface ZipWorker {
	zip(files: { name: string; bytes: Uint8Array }[]): Promise<Uint8Array<ArrayBuffer>>;
}
