/**
 * Who wrote, where each row names the other side and a number beside says the writer, whosever it is: with each other side
 * go one number of its own and one that goes with all, the owner's.
 */
import type { Context } from './context';
import { keyOf } from './refs';
import { isParty } from './rooms-and-members';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

const ROWS = 4000;
const PARTNERS_LEAST = 3;
/** Rows of an other side from which on both must have written. */
const TELLING = 4;
/** Share of the rows that may say otherwise. */
const STRAY = 0.02;

/** `peer`: the column of the other sides; `used`: those that say something else. */
export function pairedWriter(
	sheet: Sheet,
	peer: SheetColumn,
	used: ReadonlySet<SheetColumn>,
	context: Context
): { column: SheetColumn; owner: string | number } | null {
	for (const column of sheet.columns) {
		if (column === peer || used.has(column) || !canBeWriter(column, sheet, context)) continue;
		const owner = ownerBeside(column, peer, sheet, context);
		if (owner !== null) return { column, owner };
	}
	return null;
}

/** Of two who write the one whom no row names, where another column names the other in all: the one conversation that there is. */
export function besideTheOnlyPartner(writer: SheetColumn, sheet: Sheet, { tables }: Context): string | number | null {
	const both = [...writer.profile.distinct.keys()];
	if (both.length !== 2 || writer.profile.filled < TELLING) return null;
	const rows = sheet.sure.slice(0, ROWS);
	const named = sheet.columns.flatMap((c) => {
		const [one, more] = [...c.profile.distinct.keys()];
		const isSomebody = typeof one === 'number' ? Math.abs(one) >= LARGE : String(one ?? '').length >= LONG;
		const isInAll = c !== writer && c.column >= 0 && more === undefined && isSomebody && both.includes(one!);
		return isInAll && rows.every((row) => keyOf(cell(row, c, tables)) === one) ? [one!] : [];
	});
	return new Set(named).size === 1 ? both.find((who) => who !== named[0])! : null;
}
/** Small numbers and short words are kinds of anything. */
const LARGE = 1000;
const LONG = 4;

function canBeWriter(c: SheetColumn, sheet: Sheet, { tables }: Context): boolean {
	const p = c.profile;
	if (!isParty(c) || isOwnNumber(c, sheet, tables) || p.many || p.blobs > 0) return false;
	return p.filled >= sheet.sure.length * (1 - STRAY) && p.distinct.size > PARTNERS_LEAST && p.distinct.size <= p.filled * 0.6;
}

function ownerBeside(writer: SheetColumn, peer: SheetColumn, sheet: Sheet, { tables }: Context): string | number | null {
	const partners = new Map<string | number, Map<string | number, number>>();
	let withNobody = 0;
	for (const row of sheet.sure.slice(0, ROWS)) {
		const [who, partner] = [keyOf(cell(row, writer, tables)), keyOf(cell(row, peer, tables))];
		if (who === null) continue;
		if (partner === null) {
			withNobody++;
			continue;
		}
		const counts = partners.get(partner) ?? new Map<string | number, number>();
		partners.set(partner, counts.set(who, (counts.get(who) ?? 0) + 1));
	}
	// What names somebody in a part of the rows says who wrote those.
	if (withNobody > sheet.sure.length * NAMELESS) return null;
	const all = [...partners.values()];
	const telling = all.filter((counts) => [...counts.values()].reduce((a, b) => a + b, 0) >= TELLING);
	if (telling.length < PARTNERS_LEAST) return null;
	const owner = [...telling[0]!.keys()].find((who) => telling.filter((counts) => counts.has(who)).length >= telling.length * (1 - STRAY));
	if (owner === undefined) return null;
	const others = all.map((counts) => [...counts].filter(([who]) => who !== owner).sort((a, b) => b[1] - a[1]));
	const [first, rows] = [others.flatMap((list) => list.slice(0, 1)), sheet.sure.slice(0, ROWS).length];
	const stray = others.flatMap((list) => list.slice(1)).reduce((sum, [, n]) => sum + n, 0);
	const isEachOnes = new Set(first.map(([who]) => who)).size === first.length;
	return isEachOnes && first.length >= Math.max(PARTNERS_LEAST, all.length * MOST) && stray <= rows * STRAY ? owner : null;
}
/** Share of the other sides that must have written. */
const MOST = 0.6;
/** Share of the rows that may name no other side. */
const NAMELESS = 0.1;
