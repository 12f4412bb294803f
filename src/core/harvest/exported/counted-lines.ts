/** Numbers that an export counts its messages by, at the head of each line with a stamp: `#12 | 14.01.2025 10:02 …`. */
import { findStamp } from './stamps';

const COUNTER = /^\s*[#№([]?(\d{1,9})[.):\]]?(?:\s*[|·•;,–-])?\s+/u;
const LEAST = 3;
const RISING = 0.9;
const MOSTLY = 0.8;

/** The lines with blanks in the place of such numbers, of the same length; as they are where they are not counted. */
export function withoutCounters(plain: readonly string[]): readonly string[] {
	const counted = plain.flatMap((line, i) => {
		const m = COUNTER.exec(line);
		if (!m || findStamp(line, true) || !findStamp(line.slice(m[0].length), true)) return [];
		return [{ i, number: Number(m[1]), length: m[0].length }];
	});
	if (counted.length < LEAST) return plain;
	const rising = counted.filter(({ number }, k) => k === 0 || number > counted[k - 1]!.number).length;
	const others = plain.filter((line) => findStamp(line, true)).length;
	if (rising < counted.length * RISING || counted.length < (counted.length + others) * MOSTLY) return plain;
	const bare = [...plain];
	for (const { i, length } of counted) bare[i] = ' '.repeat(length) + plain[i]!.slice(length);
	return bare;
}
