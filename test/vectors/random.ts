/** A seeded generator of random numbers (mulberry32): the same seed makes the same vectors. */
export class Random {
	private state: number;
	constructor(seed: number) {
		this.state = seed >>> 0;
	}
	next(): number {
		this.state = (this.state + 0x6d2b79f5) >>> 0;
		let t = this.state;
		t = Math.imul(t ^ (t >>> 15), t | 1);
		t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
		return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
	}
	int(low: number, high: number): number {
		return low + Math.floor(this.next() * (high - low + 1));
	}
	pick<T>(list: readonly T[]): T {
		return list[Math.floor(this.next() * list.length)]!;
	}
	chance(p: number): boolean {
		return this.next() < p;
	}
	hex(length: number): string {
		return Array.from({ length }, () => '0123456789abcdef'[Math.floor(this.next() * 16)]).join('');
	}
}
