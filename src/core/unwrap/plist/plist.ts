/**
 * Property lists, binary ("bplist00": objects, an offset table, a trailer of 32 bytes) and XML (document type 1.0).
 * Entities beyond XML's own five are never resolved. Null where the bytes are neither.
 */
import { decodeXML } from 'entities';
import { XMLParser } from 'fast-xml-parser';

export type PlistValue = string | number | boolean | null | Date | Uint8Array | PlistValue[] | { [key: string]: PlistValue };

const MOST_OBJECTS = 1_000_000;
const MOST_DEPTH = 64;
/** Seconds from 1970 to 2001, in which binary lists count. */
const EPOCH = 978_307_200;

export function readPlist(bytes: Uint8Array): PlistValue | null {
	const head = new TextDecoder('latin1').decode(bytes.subarray(0, 64));
	if (head.startsWith('bplist00')) return new BinaryPlist(bytes).root();
	return /^\s*(\ufeff|\xef\xbb\xbf)?\s*<(\?xml|!DOCTYPE plist|plist)/.test(head) ? readXml(bytes) : null;
}

class BinaryPlist {
	private readonly view: DataView;
	private offsetSize = 0;
	private refSize = 0;
	private table = 0;
	private count = 0;
	private read = 0;

	constructor(private readonly b: Uint8Array) {
		this.view = new DataView(b.buffer, b.byteOffset, b.length);
	}

	root(): PlistValue | null {
		const { b } = this;
		if (b.length < 40) return null;
		const trailer = b.length - 32;
		this.offsetSize = b[trailer + 6]!;
		this.refSize = b[trailer + 7]!;
		this.count = this.uint(trailer + 8, 8);
		this.table = this.uint(trailer + 24, 8);
		if (!(this.offsetSize >= 1 && this.offsetSize <= 8 && this.refSize >= 1 && this.refSize <= 8)) return null;
		if (!(this.count > 0 && this.count <= MOST_OBJECTS && this.table + this.count * this.offsetSize <= trailer)) return null;
		try {
			return this.object(this.uint(trailer + 16, 8), 0);
		} catch {
			return null;
		}
	}

	private uint(at: number, size: number): number {
		let value = 0;
		for (let i = 0; i < size; i++) value = value * 256 + this.b[at + i]!;
		return value;
	}

	private object(index: number, depth: number): PlistValue {
		if (!(index < this.count) || depth > MOST_DEPTH || ++this.read > MOST_OBJECTS) throw new RangeError('not a sound list');
		const at = this.uint(this.table + index * this.offsetSize, this.offsetSize);
		const marker = this.b[at];
		if (marker === undefined || at >= this.table) throw new RangeError('not a sound list');
		const low = marker & 15;
		switch (marker >> 4) {
			case 0:
				return low === 8 ? false : low === 9 ? true : null;
			case 1:
				return low <= 3 ? this.uint(at + 1, 1 << low) : this.uint(at + 9, 8);
			case 2:
				return low === 2 ? this.view.getFloat32(at + 1) : this.view.getFloat64(at + 1);
			case 3:
				return new Date((this.view.getFloat64(at + 1) + EPOCH) * 1000);
		}
		let length = low;
		let start = at + 1;
		if (low === 15) {
			const size = 1 << (this.b[start]! & 15);
			length = this.uint(start + 1, size);
			start += 1 + size;
		}
		const unit = marker >> 4 === 6 ? 2 : marker >> 4 >= 10 ? this.refSize * (marker >> 4 === 13 ? 2 : 1) : 1;
		if (start + length * unit > this.table) throw new RangeError('not a sound list');
		switch (marker >> 4) {
			case 4:
				return this.b.slice(start, start + length);
			case 5:
				return new TextDecoder('latin1').decode(this.b.subarray(start, start + length));
			case 6:
				return new TextDecoder('utf-16be').decode(this.b.subarray(start, start + length * 2));
			case 8:
				// As the XML form writes it.
				return { CF$UID: this.uint(at + 1, low + 1) };
			case 10:
			case 12:
				return Array.from({ length }, (_, i) => this.object(this.uint(start + i * this.refSize, this.refSize), depth + 1));
			case 13: {
				const out: { [key: string]: PlistValue } = Object.create(null) as { [key: string]: PlistValue };
				for (let i = 0; i < length; i++) {
					const key = this.object(this.uint(start + i * this.refSize, this.refSize), depth + 1);
					if (typeof key === 'string') out[key] = this.object(this.uint(start + (length + i) * this.refSize, this.refSize), depth + 1);
				}
				return out;
			}
			default:
				return null;
		}
	}
}

type Node = { [tag: string]: Node[] | string };

function readXml(bytes: Uint8Array): PlistValue | null {
	const parser = new XMLParser({
		preserveOrder: true,
		// Those of a document type's own are never resolved; XML's five and its numbers for letters are, once each (`decodeXML`).
		processEntities: false,
		trimValues: false,
		parseTagValue: false
	});
	try {
		const text = new TextDecoder().decode(bytes).replace(/<!DOCTYPE[^>[]*(\[[\s\S]*?\])?[^>]*>/i, '');
		const nodes = parser.parse(text) as Node[];
		const plist = nodes.find((n) => 'plist' in n);
		const [first] = ((plist?.plist ?? []) as Node[]).filter((n) => !('#text' in n));
		return first ? valueOf(first, 0) : null;
	} catch {
		return null;
	}
}

const textIn = (children: Node[]): string => children.map((c) => (typeof c['#text'] === 'string' ? decodeXML(c['#text']) : '')).join('');

function valueOf(node: Node, depth: number): PlistValue {
	const tag = Object.keys(node).find((k) => k !== ':@')!;
	const children = node[tag] as Node[];
	if (depth > MOST_DEPTH) return null;
	switch (tag) {
		case 'dict': {
			const out: { [key: string]: PlistValue } = Object.create(null) as { [key: string]: PlistValue };
			const inner = children.filter((c) => !('#text' in c));
			for (let i = 0; i + 1 < inner.length; i += 2)
				if ('key' in inner[i]!) out[textIn(inner[i]!.key as Node[])] = valueOf(inner[i + 1]!, depth + 1);
			return out;
		}
		case 'array':
			return children.filter((c) => !('#text' in c)).map((c) => valueOf(c, depth + 1));
		case 'integer':
		case 'real':
			return Number(textIn(children).trim());
		case 'true':
			return true;
		case 'false':
			return false;
		case 'date':
			return new Date(textIn(children).trim());
		case 'data':
			return Uint8Array.from(atobSafe(textIn(children)), (c) => c.charCodeAt(0));
		default:
			return textIn(children);
	}
}

function atobSafe(text: string): string {
	try {
		return globalThis.atob(text.replace(/\s+/g, ''));
	} catch {
		return '';
	}
}
