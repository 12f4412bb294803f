import type { ByteSource } from './source';

/**
 * A place outside of memory for bytes that had to be unpacked: the host's, gone with the work it is for. Written once,
 * from beginning to end, then read.
 */
export interface Scratch {
	/** Throws where the host has no room left. */
	write(bytes: Uint8Array): void;
	source(): ByteSource;
}

export type ScratchMaker = () => Scratch;
