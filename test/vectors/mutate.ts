/** Breaks a real database in the places that parsers trust: page headers, pointers, varints, chains, whole pages. */
import type { Random } from './random';

export interface Mutated {
	bytes: Uint8Array;
	/** Offsets that changed. */
	touched: number[];
}

export function mutate(file: Uint8Array, r: Random, pageSize: number): Mutated {
	const bytes = Uint8Array.from(file);
	const touched: number[] = [];
	const pages = Math.floor(file.length / pageSize);
	const set = (at: number, value: number): void => {
		if (at < 0 || at >= bytes.length || bytes[at] === value) return;
		bytes[at] = value;
		touched.push(at);
	};
	const page = (): number => r.int(0, pages - 1) * pageSize;
	const kinds = [
		() => set(page() + r.int(0, 11), r.int(0, 255)), // page header
		() => set(page() + 8 + r.int(0, 60), r.int(0, 255)), // cell pointers
		() => set(r.int(0, 99), r.int(0, 255)), // database header
		() => set(r.int(100, bytes.length - 1), r.int(0, 255)), // anything
		() => {
			const p = page();
			for (let i = 0; i < 4; i++) set(p + i, r.int(0, 255));
		}, // overflow chain, freeblock
		() => {
			const p = page();
			const q = page();
			for (let i = 0; i < pageSize; i++) set(p + i, file[q + i]!);
		}, // a page twice: cycles
		() => {
			const p = page();
			for (let i = 0; i < pageSize; i++) set(p + i, 0);
		}, // a page zeroed
		() => {
			const p = r.int(0, bytes.length - 16);
			for (let i = 0; i < 9; i++) set(p + i, 0xff);
		} // long varints
	];
	do for (let n = r.int(1, 4); n > 0; n--) r.pick(kinds)();
	while (touched.length === 0);
	return { bytes, touched };
}
