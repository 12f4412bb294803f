/**
 * What the rows of a table look like where hardly one of them is in use: learned from freed cells that prove themselves
 * whole, before damaged ones are judged by it.
 */
import type { Encoding } from '../../bytes';
import type { Value } from '../../model';
import { carve } from './carve/carve';
import type { CarveContext, Found } from './carve/found';
import { PageUse, type Database } from './database';
import { freeRanges, isBlank, readPageHeader } from './page';
import { learn, type Shape } from './shape';

/** Pages looked at, and what a freed cell must weigh, to learn a shape from freed space. */
const PAGES_LEARNED = 5000;
const LEARNED_AT_LEAST = 8;
/** So many whole cells of one table, each where the one before ends, prove each other. */
const PROVEN_IN_A_ROW = 3;

/** Learns the `unknown` shapes from the freed space of a database. */
export function learnFromFreed(db: Database, unknown: readonly Shape[], contexts: readonly CarveContext[]): void {
	for (let page = 2, looked = 0; page <= db.current.pageCount && looked < PAGES_LEARNED; page++) {
		const use = db.use[page]!;
		if (use === PageUse.Overflow || use === PageUse.PointerMap) continue;
		const bytes = db.current.read(page);
		if (!bytes || isBlank(bytes)) continue;
		looked++;
		const header = use === PageUse.FreelistTrunk ? null : readPageHeader(bytes, page, db.usable);
		const inUse = use >= PageUse.LeafTable && use <= PageUse.InteriorIndex;
		const ranges = header && inUse ? freeRanges(bytes, header, db.usable) : [{ from: 0, to: db.usable }];
		for (const ctx of contexts)
			for (const { from, to } of ranges) {
				const found = carve(bytes, from, to, ctx).filter((f) => f.grade === 'whole' && unknown.includes(f.shape));
				for (const one of provenOf(found)) learnCell(one, db.encoding);
			}
	}
}

/** Cells that weigh enough by themselves, and those that lie in a row with others of their table. */
function provenOf(found: readonly Found[]): Found[] {
	const proven: Found[] = [];
	let run: Found[] = [];
	const settleRun = (): void => {
		// Nothing proves where the last of them ends: something newer can lie in it.
		const together = run.length >= PROVEN_IN_A_ROW ? run.length - 1 : 0;
		proven.push(...run.filter((f, i) => i < together || f.score >= LEARNED_AT_LEAST));
		run = [];
	};
	for (const one of found) {
		const before = run.at(-1);
		if (before && (before.end !== one.start || before.shape !== one.shape)) settleRun();
		run.push(one);
	}
	settleRun();
	return proven;
}

function learnCell({ shape, values: stored, rowid }: Found, encoding: Encoding): void {
	const values: (Value | undefined)[] = [];
	shape.order.forEach((c, k) => (values[c] = stored[k]));
	learn(shape, rowid, values, stored.length, encoding);
}
