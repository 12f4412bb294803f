/**
 * Values as a script engine keeps them that stores objects (the HTML standard, 2.7 "Safe passing of structured data", says
 * what can be stored, not how): a version, then values, each a tag and what it states.
 *
 * | tag | value | | tag | value |
 * |---|---|---|---|---|
 * | `_` `0` `T` `F` | undefined, null, true, false | | `o` … `{` | object: keys and values, how many |
 * | `I` `U` `N` | integer (zigzag), unsigned, double | | `A` … `$` | list: how long, its values, then as an object |
 * | `"` `c` `S` | text: Latin-1, UTF-16, UTF-8, behind its length | | `a` … `@` | list with holes: how long, then as an object |
 * | `D` | date: ms since 1970 as a double | | `;` … `:` | map |
 * | `B` `V` | bytes, and a view of them | | `'` … `,` | set |
 * | `^` | an object met before, by its number | | `\` | a file kept elsewhere: `i` or `e`, its number |
 *
 * Example: `ff 0f 6f 22 02 69 64 49 02 7b 01` is `{id: 1}`. Numbers are varints, the lowest bits first.
 */
import { Cursor, decodeText, unsnap } from '../bytes';

const VERSION = 0xff;
/** What stands between the versions: where a trailer is, 12 bytes. */
const TRAILER_TAG = 0xfe;
const TRAILER_BYTES = 12;
/** Version under which a value is packed as a whole, and how. */
const WRAPPED = 0x11;
const SNAPPED = 2;
const NEWEST = 24;
const DEEPEST = 64;
/** Values that may come of one, those counted again that stand in it more than once. */
const MOST_VALUES = 200_000;

/** A file that an object has and that lies elsewhere, as the store lists it. */
export interface FileElsewhere {
	path: string;
	size: number;
	type?: string;
	name?: string;
}

const elsewhere = new WeakMap<Uint8Array, readonly FileElsewhere[]>();

/** Says which files the object has that these bytes are, in the order of their numbers. */
export const hasFiles = (bytes: Uint8Array, files: readonly FileElsewhere[]): void => void elsewhere.set(bytes, files);

/** The object that the bytes are; undefined where they are none, or more than `longest`. Dates become ms, maps objects, sets lists. */
export function openClone(bytes: Uint8Array, longest: number): object | undefined {
	if (bytes.length < 4 || bytes.length > longest) return undefined;
	const files = elsewhere.get(bytes) ?? [];
	return opened(bytes, longest, files) ?? opened(behindVersion(bytes), longest, files);
}

/** A store of such objects writes its own version in front of each. */
function behindVersion(bytes: Uint8Array): Uint8Array {
	const cursor = new Cursor(bytes);
	cursor.varint();
	return bytes.subarray(cursor.at);
}

function opened(bytes: Uint8Array, longest: number, files: readonly FileElsewhere[]): object | undefined {
	const cursor = new Cursor(bytes);
	let version = 0;
	while (bytes[cursor.at] === VERSION) {
		cursor.at++;
		version = cursor.varint();
		if (version === WRAPPED && bytes[cursor.at] === SNAPPED) {
			const unpacked = unsnap(bytes.subarray(cursor.at + 1), longest);
			return unpacked?.isWhole ? opened(unpacked.bytes, longest, files) : undefined;
		}
		if (bytes[cursor.at] === TRAILER_TAG) cursor.take(1 + TRAILER_BYTES);
	}
	if (version === 0 || version > NEWEST || cursor.isPast) return undefined;
	const reader = new Clone(cursor, version, files);
	const value = reader.value(0);
	return value !== null && typeof value === 'object' && !(value instanceof Uint8Array) && (!reader.isBroken || hasAny(value))
		? value
		: undefined;
}

const hasAny = (value: object): boolean => Object.keys(value).length > 0;

type Keyed = Record<string, unknown>;

/** Reads values until one breaks off or is of a kind that is not known: what was read before it stays. */
class Clone {
	isBroken = false;
	private readonly known: unknown[] = [];
	private values = 0;
	/** Objects that are read to their end, and how many values are in each. */
	private readonly ended = new Map<unknown, number>();

	constructor(
		private readonly cursor: Cursor,
		private readonly version: number,
		private readonly files: readonly FileElsewhere[]
	) {}

	value(depth: number): unknown {
		const { cursor } = this;
		let tag = cursor.u8();
		// Texts of two bytes a letter stand at even places.
		while (tag === 0 && cursor.left > 0) tag = cursor.u8();
		if (cursor.isPast || depth > DEEPEST || ++this.values > MOST_VALUES) return this.broken();
		switch (String.fromCharCode(tag)) {
			case '_':
			case '-':
				return undefined;
			case '0':
				return null;
			case 'T':
			case 'F':
				return tag === 0x54;
			case 'y':
			case 'x':
				return this.keep(tag === 0x79);
			case 'I':
				return zigzag(cursor.varint());
			case 'U':
				return cursor.varint();
			case 'N':
				return cursor.f64();
			case 'D':
			case 'n':
				return this.keep(cursor.f64());
			case 'Z':
				return this.bigint();
			case '"':
			case 'c':
			case 'S':
				return this.text(tag);
			case 's':
				return this.keep(this.value(depth + 1));
			case '^':
				return this.again(cursor.varint());
			case 'o':
				return this.object(0x7b, 1, depth);
			case 'A':
				return this.list(depth);
			case 'a':
				cursor.varint();
				return Object.values(this.object(0x40, 2, depth));
			case ';':
				return this.object(0x3a, 1, depth);
			case "'":
				return this.set(depth);
			case 'B':
				return this.bytes();
			case 'R': {
				const source = this.value(depth + 1);
				cursor.varint();
				return this.keep(source);
			}
			case '\\':
				return this.elsewhere();
			default:
				return this.broken();
		}
	}

	/** An object met before. One within itself, or that makes too many values of few, is left out. */
	private again(number: number): unknown {
		const one = this.known[number];
		if (one === null || typeof one !== 'object' || one instanceof Uint8Array) return one;
		this.values += this.ended.get(one) ?? MOST_VALUES;
		return this.values > MOST_VALUES ? this.broken() : one;
	}

	private broken(): undefined {
		this.isBroken = true;
		return undefined;
	}

	private keep<T>(value: T): T {
		this.known.push(value);
		return value;
	}

	private object(end: number, numbers: number, depth: number): Keyed {
		const from = this.values;
		const one = this.fields(this.keep({}), end, numbers, depth);
		this.ended.set(one, this.values - from);
		return one;
	}

	/** Keys and values up to the tag that ends them, behind which stand so many numbers. */
	private fields(into: Keyed, end: number, numbers: number, depth: number): Keyed {
		const { cursor } = this;
		while (!this.isBroken && !cursor.isPast) {
			if (cursor.bytes[cursor.at] === end) {
				cursor.u8();
				for (let i = 0; i < numbers; i++) cursor.varint();
				return into;
			}
			const key = this.value(depth + 1);
			if (this.isBroken) break;
			const value = this.value(depth + 1);
			if (value !== undefined) Object.defineProperty(into, String(key), { value, enumerable: true, configurable: true, writable: true });
		}
		this.isBroken = true;
		return into;
	}

	private list(depth: number): unknown[] {
		const from = this.values;
		const length = this.cursor.varint();
		const list = this.keep<unknown[]>([]);
		for (let i = 0; i < length && !this.isBroken; i++) list.push(this.value(depth + 1));
		if (!this.isBroken) this.fields({}, 0x24, 2, depth);
		this.ended.set(list, this.values - from);
		return list;
	}

	private set(depth: number): unknown[] {
		const { cursor, values: from } = this;
		const list = this.keep<unknown[]>([]);
		while (!this.isBroken && cursor.left > 0 && cursor.bytes[cursor.at] !== 0x2c) list.push(this.value(depth + 1));
		cursor.u8();
		cursor.varint();
		this.ended.set(list, this.values - from);
		return list;
	}

	private text(tag: number): string | undefined {
		const bytes = this.cursor.sized();
		if (this.cursor.isPast) this.isBroken = true;
		if (tag === 0x22) return latin1.decode(bytes);
		return decodeText(bytes, 0, bytes.length, tag === 0x63 ? 'utf16le' : 'utf8');
	}

	/** Length and sign in a number, then the bytes, the lowest first. */
	private bigint(): bigint {
		const bits = this.cursor.varint();
		const digits = this.cursor.take(bits >>> 1);
		const value = digits.reduceRight((sum, byte) => (sum << 8n) | BigInt(byte), 0n);
		return bits & 1 ? -value : value;
	}

	private bytes(): Uint8Array {
		const { cursor } = this;
		const bytes = this.keep(cursor.sized());
		if (cursor.bytes[cursor.at] !== 0x56) return bytes;
		cursor.take(2);
		const [from, length] = [cursor.varint(), cursor.varint()];
		if (this.version >= VIEWS_FLAGGED) cursor.varint();
		return this.keep(bytes.subarray(from, from + length));
	}

	/** A file of the object: its number among them. */
	private elsewhere(): unknown {
		const kind = String.fromCharCode(this.cursor.u8());
		if (kind !== 'i' && kind !== 'e') return this.broken();
		const file = this.cursor.varint();
		return this.keep(this.files[file] ?? { file });
	}
}

const VIEWS_FLAGGED = 14;
const zigzag = (n: number): number => (n % 2 === 0 ? n / 2 : -(n + 1) / 2);
const latin1 = { decode: (bytes: Uint8Array): string => bytes.reduce((text, byte) => text + String.fromCharCode(byte), '') };
