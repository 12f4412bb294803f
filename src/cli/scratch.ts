/** Scratch of the command line: files that have no name any more when the first byte is written, so that nothing of them stays. */
import { closeSync, mkdtempSync, openSync, readSync, rmSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { ByteSource, Scratch } from '../core/bytes';

class ScratchSource implements ByteSource {
	constructor(
		private readonly fd: number,
		readonly size: number
	) {}

	read(offset: number, length: number): Uint8Array {
		const out = new Uint8Array(Math.max(0, Math.min(length, this.size - offset)));
		let have = 0;
		while (have < out.length) {
			const n = readSync(this.fd, out, have, out.length - have, offset + have);
			if (n === 0) break;
			have += n;
		}
		return out.subarray(0, have);
	}
}

export function makeScratch(): Scratch {
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
	const path = join(folder, 'scratch');
	const fd = openSync(path, 'wx+', 0o600);
	try {
		rmSync(folder, { recursive: true });
	} catch (error) {
		closeSync(fd);
		throw error;
	}
	let size = 0;
	return {
		write(bytes) {
			for (let at = 0; at < bytes.length;) at += writeSync(fd, bytes, at, bytes.length - at);
			size += bytes.length;
		},
		source: () => new ScratchSource(fd, size)
	};
}
