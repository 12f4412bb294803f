/** Reads blocks of files, one after the other, for whoever looks at them. See read-ahead.ts. */
import { FileSource } from './file-source';
import type { BlockRead, BlockWanted } from './read-ahead';

self.onmessage = ({ data }: MessageEvent<BlockWanted>): void => {
	const answer: BlockRead = { id: data.id, bytes: null };
	try {
		answer.bytes = new FileSource(data.file).read(data.offset, data.length).buffer as ArrayBuffer;
	} catch {
		// Whoever asks for the block reads it again, and tells why it cannot.
	}
	self.postMessage(answer, answer.bytes ? { transfer: [answer.bytes] } : {});
};
