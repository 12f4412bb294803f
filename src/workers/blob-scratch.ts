/** Scratch of a browser's worker: blobs, which the browser keeps out of its memory where they are large, and gives up with the tab. */
import type { Scratch } from '../core/bytes';
import { FileSource } from './file-source';

const PART = 8 << 20;

export function makeScratch(): Scratch {
	const blobs: Blob[] = [];
	let parts: Uint8Array<ArrayBuffer>[] = [];
	let pending = 0;
	const flush = (): void => {
		if (pending > 0) blobs.push(new Blob(parts));
		parts = [];
		pending = 0;
	};
	return {
		write(bytes) {
			parts.push(bytes.slice());
			pending += bytes.length;
			if (pending >= PART) flush();
		},
		source() {
			flush();
			return new FileSource(new Blob(blobs));
		}
	};
}
