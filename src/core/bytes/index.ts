export { Cursor } from './cursor';
export { BlockPool, CachedSource, MemorySource, SliceSource, type ByteSource } from './source';
export { has, readF64Be, readI64Be, readU16Be, readU16Le, readU32Be, readU32Le } from './read';
export {
	bytesOfStored,
	decodeStored,
	decodeText,
	encodeText,
	indexOfBytes,
	isCutText,
	isText,
	LETTERS,
	oddities,
	CONTROLS,
	type Encoding
} from './text';
export { codePageOf, decodeCodePage, sizeInCodePage, westernLetters, type CodePage } from './code-pages';
export { joined } from './joined';
export { Pieces } from './pieces';
export { type Scratch, type ScratchMaker } from './scratch';
export { areAudioFrames, MEDIA_TYPE, mediaTypeOf } from './media-type';
export { unsnap } from './snappy';
export { beginsAs, PACKINGS, unpacked, unpackerOf, type Packing } from './unpacked';
