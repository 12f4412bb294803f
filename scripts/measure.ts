/** Prints recall and false findings per layout and situation, on seeds given as arguments (default 1). `npm run measure`. */
import { buildVector, SITUATIONS } from '../test/vectors/build';
import { loadMemoryEngine } from '../test/vectors/engine';
import { LAYOUTS } from '../test/vectors/layouts';
import { score, type Score } from '../test/vectors/score';

const args = process.argv.slice(2);
const seeds = args.filter((a) => /^\d+$/.test(a)).map(Number);
const only = args.filter((a) => !/^\d+$/.test(a) && a !== '-v');
const verbose = args.includes('-v');
await loadMemoryEngine();
const total: Score[] = [];
const percent = (a: number, b: number): string => (b === 0 ? '    –' : `${((100 * a) / b).toFixed(1)}`.padStart(5));
console.log(`${'layout · situation'.padEnd(46)} in use  right   gone(there)  found  right  false  twice  standing`);
for (const layout of LAYOUTS) {
	for (const situation of SITUATIONS) {
		for (const seed of seeds.length ? seeds : [1]) {
			if (only.length && !only.every((o) => `${layout.name} · ${situation.name}`.includes(o))) continue;
			const vector = buildVector(layout, situation, seed * 1000 + LAYOUTS.indexOf(layout));
			if (!vector) continue;
			const s = score(vector);
			total.push(s);
			console.log(
				`${s.name.padEnd(46)} ${percent(s.inUseFound, s.inUse)}  ${percent(s.inUseRight, s.inUse)}   ${String(s.deletedThere).padStart(6)}       ${percent(s.deletedFound, s.deletedThere)}  ${percent(s.deletedRight, s.deletedThere)}  ${String(s.falseTexts).padStart(4)}  ${String(s.duplicates).padStart(5)}  ${String(s.wrongStanding).padStart(5)}${s.threadsRight ? '' : '  threads wrong'}`
			);
			if (verbose) for (const p of s.problems) console.log(`      ${p}`);
		}
	}
}
const sum = (f: (s: Score) => number): number => total.reduce((a, s) => a + f(s), 0);
console.log(
	`${'all'.padEnd(46)} ${percent(
		sum((s) => s.inUseFound),
		sum((s) => s.inUse)
	)}  ${percent(
		sum((s) => s.inUseRight),
		sum((s) => s.inUse)
	)}   ${String(sum((s) => s.deletedThere)).padStart(6)}       ${percent(
		sum((s) => s.deletedFound),
		sum((s) => s.deletedThere)
	)}  ${percent(
		sum((s) => s.deletedRight),
		sum((s) => s.deletedThere)
	)}  ${String(sum((s) => s.falseTexts)).padStart(4)}  ${String(sum((s) => s.duplicates)).padStart(5)}  ${String(sum((s) => s.wrongStanding)).padStart(5)}  threads wrong in ${total.filter((s) => !s.threadsRight).length} of ${total.length}, reported ${sum((s) => s.reported)}`
);
