import { readU32Le } from './read';

/**
 * Reads forward through bytes, little-endian. A read past the end gives 0 or fewer bytes and is remembered in `isPast`:
 * whoever reads asks for it before he trusts what he read.
 */
export class Cursor {
	isPast = false;

	constructor(
		readonly bytes: Uint8Array,
		public at = 0,
		readonly end = bytes.length
	) {}

	get left(): number {
		return this.end - this.at;
	}

	u8(): number {
		return this.has(1) ? this.bytes[this.at++]! : 0;
	}

	u32(): number {
		if (!this.has(4)) return 0;
		this.at += 4;
		return readU32Le(this.bytes, this.at - 4);
	}

	f64(): number {
		if (!this.has(8)) return 0;
		this.at += 8;
		return new DataView(this.bytes.buffer, this.bytes.byteOffset + this.at - 8, 8).getFloat64(0, true);
	}

	/** An unsigned integer, seven bits a byte, the lowest first (LEB128); exact up to 2^53. */
	varint(): number {
		let value = 0;
		for (let scale = 1, i = 0; i < VARINT_LONGEST && this.has(1); scale *= 128, i++) {
			const byte = this.bytes[this.at++]!;
			value += (byte & 0x7f) * scale;
			if (byte < 0x80) return value;
		}
		this.isPast = true;
		return 0;
	}

	/** The next `length` bytes, as a view; those that are left where fewer are. */
	take(length: number): Uint8Array {
		const there = this.has(length) ? length : Math.max(0, this.left);
		this.at += there;
		return this.bytes.subarray(this.at - there, this.at);
	}

	/** Bytes behind their length, a varint. */
	sized(): Uint8Array {
		return this.take(this.varint());
	}

	private has(length: number): boolean {
		if (length >= 0 && length <= this.left) return true;
		this.isPast = true;
		return false;
	}
}

const VARINT_LONGEST = 10;
