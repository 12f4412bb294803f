/**
 * Many short texts looked for in many long ones. Each long text is read once for every length of window: the hash of
 * the window rolls along (Rabin and Karp), and only where it is the hash of a piece's beginning are letters compared.
 */

/** UTF-16 units of the windows; a piece goes by the longest that it fills. */
const WINDOWS = [32, 16, 8, 4, 2, 1];
const BASE = 16_777_619;

class Window<T> {
	private readonly byHash = new Map<number, { piece: string; of: T }[]>();
	/** Whether any piece's hash has these last bits: most windows need not be looked up. */
	private readonly some = new Uint8Array(1 << 16);
	/** The base to the power of one less than the window. */
	private readonly lastPower: number;

	constructor(private readonly size: number) {
		this.lastPower = Array.from({ length: size - 1 }).reduce<number>((power) => Math.imul(power, BASE), 1);
	}

	add(piece: string, of: T): void {
		let hash = 0;
		for (let i = 0; i < this.size; i++) hash = (Math.imul(hash, BASE) + piece.charCodeAt(i)) | 0;
		this.some[hash & 0xffff] = 1;
		const list = this.byHash.get(hash);
		if (list) list.push({ piece, of });
		else this.byHash.set(hash, [{ piece, of }]);
	}

	eachIn(text: string, take: (of: T) => void): void {
		let hash = 0;
		for (let i = 0; i < text.length; i++) {
			if (i >= this.size) hash = (hash - Math.imul(text.charCodeAt(i - this.size), this.lastPower)) | 0;
			hash = (Math.imul(hash, BASE) + text.charCodeAt(i)) | 0;
			if (i < this.size - 1 || this.some[hash & 0xffff] === 0) continue;
			const alike = this.byHash.get(hash);
			if (alike) for (const { piece, of } of alike) if (text.startsWith(piece, i - this.size + 1)) take(of);
		}
	}
}

export class Pieces<T> {
	private readonly windows = new Map<number, Window<T>>();

	/** @throws RangeError for an empty piece: it is in every text everywhere. */
	add(piece: string, of: T): void {
		const size = WINDOWS.find((units) => units <= piece.length);
		if (size === undefined) throw new RangeError('A piece to look for has at least one letter');
		const window = this.windows.get(size) ?? new Window<T>(size);
		this.windows.set(size, window);
		window.add(piece, of);
	}

	/** Calls `take` for each place where `text` has a piece in it: as often as it has. */
	eachIn(text: string, take: (of: T) => void): void {
		for (const window of this.windows.values()) window.eachIn(text, take);
	}
}
