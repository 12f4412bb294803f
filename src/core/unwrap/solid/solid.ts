/**
 * Containers read by a library: 7z, xz, bzip2. They are packed whole, so they are unpacked into memory, within bounds;
 * what they say of themselves (sizes, locks) is asked before.
 */
import type { ByteSource } from '../../bytes';
import { crc32 } from '../zip/locked';

/** The library, as the host can load it; the core itself loads nothing. */
export interface SolidUnpacker {
	/** Runs the program in `files`; its lines of output. */
	run(args: string[]): string[];
	write(name: string, source: ByteSource): void;
	/** Files below a folder, with their paths from it. */
	list(folder: string): { path: string; bytes: Uint8Array }[];
}
export type SolidLoader = () => Promise<SolidUnpacker>;

export interface SolidEntry {
	path: string;
	bytes: Uint8Array;
	/** ms UTC, where stated. */
	modified: number | null;
}

export type SolidResult = { kind: 'opened'; entries: SolidEntry[]; whole: boolean } | { kind: 'locked' } | { kind: 'refused'; why: string };

const PACKED_LARGEST = 512 << 20;
const UNPACKED_LARGEST = 1 << 30;
const MOST_RATIO = 1200;
const MOST_ENTRIES = 100_000;

export type SolidKind = '7z' | 'xz' | 'bzip2';
const MAGIC: readonly [SolidKind, readonly number[]][] = [
	['7z', [0x37, 0x7a, 0xbc, 0xaf, 0x27, 0x1c]],
	['xz', [0xfd, 0x37, 0x7a, 0x58, 0x5a, 0]],
	['bzip2', [0x42, 0x5a, 0x68]]
];

export function solidKind(head: Uint8Array): SolidKind | null {
	const kind = MAGIC.find(([, magic]) => magic.every((b, i) => head[i] === b))?.[0] ?? null;
	// "BZh", the block size as a digit, then a block's own mark.
	return kind === 'bzip2' && !(head[3]! >= 0x31 && head[3]! <= 0x39 && (head[4] === 0x31 || head[4] === 0x17)) ? null : kind;
}

/** The library asks at the keyboard where none is given: so one is given that nobody has. */
const NONE = '\u0001';
const ARCHIVE = 'in';
const FOLDER = 'out';

/** Unpacks a container with the first passphrase that opens it. */
export async function openSolid(source: ByteSource, load: SolidLoader, passphrases: readonly string[]): Promise<SolidResult> {
	if (source.size > PACKED_LARGEST) return { kind: 'refused', why: 'it is too large to be unpacked here' };
	for (const passphrase of passphrases.length > 0 ? passphrases : [NONE]) {
		// A new one each time: the library leaves its memory as it was when it gave up.
		const unpacker = await load();
		unpacker.write(ARCHIVE, source);
		const listed = unpacker.run(['l', '-slt', `-p${passphrase}`, ARCHIVE]);
		const stated = describe(listed);
		// A list of files that is itself locked: the library says nothing at all. The bytes tell it from a damaged one.
		if (stated.entries.length === 0 && listIsSound(source)) continue;
		if (stated.locked && passphrase === NONE) return { kind: 'locked' };
		const size = stated.entries.reduce((sum, e) => sum + e.size, 0);
		if (size > UNPACKED_LARGEST || size > source.size * MOST_RATIO + (1 << 20) || stated.entries.length > MOST_ENTRIES)
			return { kind: 'refused', why: 'it would unpack to more than is believable' };
		const lines = unpacker.run(['x', '-y', '-snl-', `-p${passphrase}`, `-o${FOLDER}`, ARCHIVE]);
		if (stated.locked && lines.some((l) => /wrong password/i.test(l))) continue;
		const modified = new Map(stated.entries.map((e) => [e.path, e.modified]));
		const entries = unpacker.list(FOLDER).map((f) => ({ ...f, modified: modified.get(f.path) ?? null }));
		const whole = !lines.some((l) => /^error|data error|unexpected end|crc failed/i.test(l));
		return { kind: 'opened', entries, whole };
	}
	return { kind: 'locked' };
}

const LIST_LARGEST = 64 << 20;

/** Whether the list of files of a 7z is there as its header says (7zFormat.txt, SignatureHeader: offset, size, CRC). */
function listIsSound(source: ByteSource): boolean {
	const head = source.read(0, 32);
	if (solidKind(head) !== '7z' || head.length < 32) return false;
	const view = new DataView(head.buffer, head.byteOffset, 32);
	const offset = Number(view.getBigUint64(12, true));
	const size = Number(view.getBigUint64(20, true));
	if (size === 0 || size > LIST_LARGEST || 32 + offset + size > source.size) return false;
	return crc32(source.read(32 + offset, size)) === view.getUint32(28, true);
}

/** The entries that a listing names: "Field = value" lines, an empty line between entries. */
function describe(lines: readonly string[]): { entries: { path: string; size: number; modified: number | null }[]; locked: boolean } {
	const entries: { path: string; size: number; modified: number | null }[] = [];
	let locked = false;
	let within = false;
	for (const line of lines) {
		if (/^-{5,}$/.test(line)) within = true;
		const [, field, value] = /^([\w ]+?) = (.*)$/.exec(line) ?? [];
		if (!within || field === undefined || value === undefined) continue;
		if (field === 'Path') entries.push({ path: value, size: 0, modified: null });
		const last = entries.at(-1);
		if (!last) continue;
		if (field === 'Size') last.size = Number(value) || 0;
		if (field === 'Encrypted' && value === '+') locked = true;
		// The library runs without a zone of its own: what it prints is UTC.
		if (field === 'Modified' && value) last.modified = Date.parse(`${value.slice(0, 19).replace(' ', 'T')}Z`) || null;
	}
	return { entries, locked };
}
