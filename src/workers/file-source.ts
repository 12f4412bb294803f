import type { ByteSource } from '../core/bytes';

/** A browser File read synchronously, in a worker. Nothing is kept; the core's block cache does that. */
export class FileSource implements ByteSource {
	readonly size: number;
	private readonly reader = new FileReaderSync();

	constructor(private readonly file: Blob) {
		this.size = file.size;
	}

	read(offset: number, length: number): Uint8Array {
		if (!(offset >= 0) || offset >= this.size || !(length > 0)) return new Uint8Array(0);
		return new Uint8Array(this.reader.readAsArrayBuffer(this.file.slice(offset, Math.min(this.size, offset + length))));
	}
}

/** Declared here because the page's own library of types leaves worker-only interfaces out. */
declare class FileReaderSync {
	readAsArrayBuffer(blob: Blob): ArrayBuffer;
}
