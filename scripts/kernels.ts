/**
 * Makes the modules of bytes that the core runs of their text: `npm run kernels`, after a `.wat` was changed. What it makes
 * is committed, so that nothing has to be built before the command line or a test can run; a unit test compares the two.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import wabtModule from 'wabt';

const FOLDER = new URL('../src/core/harvest/sqlite/', import.meta.url);

/** What stands in marks.wasm.ts. */
export async function marksModule(): Promise<string> {
	const wabt = await wabtModule();
	const parsed = wabt.parseWat('marks.wat', readFileSync(new URL('marks.wat', FOLDER), 'utf8'), { simd: true });
	const bytes = Buffer.from(parsed.toBinary({}).buffer);
	const lines = bytes.toString('hex').match(/.{1,100}/g)!;
	return [
		'/** Made of marks.wat by `npm run kernels`; not to be changed by hand. */',
		`const HEX = [`,
		...lines.map((line) => `\t'${line}',`).map((line, i) => (i === lines.length - 1 ? line.slice(0, -1) : line)),
		`].join('');`,
		`export const MARKS = Uint8Array.from({ length: HEX.length / 2 }, (_, i) => parseInt(HEX.slice(i * 2, i * 2 + 2), 16));`,
		''
	].join('\n');
}

if (import.meta.filename === process.argv[1]) writeFileSync(new URL('marks.wasm.ts', FOLDER), await marksModule());
