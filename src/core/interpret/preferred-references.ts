/** Which list a column of a sheet of messages is a key of, where its numbers are those of several. */
import { type Ends } from './addressees';
import type { Context } from './context';
import { isDeclared, isNamedAlike, type Key, type Reference } from './refs';
import { type Sheet, type SheetColumn } from './sheet';
import { looksLikeThreads } from './threads';
import { HARDLY, NAMED_THREAD } from './how-sure';

/** A column whose numbers are keys of several sheets leaves one to the column that is called for it. */
export function leaveToNamed(best: Map<SheetColumn, Reference>, refs: readonly Reference[]): void {
	for (const [column, r] of best) {
		const { sheet } = r.key;
		if (isNamedAlike(column, sheet) || ![...best].some(([c, o]) => c !== column && o.key.sheet === sheet && isNamedAlike(c, sheet)))
			continue;
		const others = refs.filter(
			(o) => o.from === column && o.key.sheet !== sheet && o.inclusion >= r.inclusion && o.confidence >= r.confidence - AS_SURE
		);
		const other = others.find((o) => o.key.column === null) ?? others[0];
		if (other) best.set(column, other);
	}
}
const AS_SURE = 0.15;

/** Small numbers are keys of persons as well as of calls or settings: of two that are about as sure the persons' are meant. */
export function ratherPersons(
	best: Map<SheetColumn, Reference>,
	refs: readonly Reference[],
	personSheets: ReadonlySet<Sheet>,
	context: Context
): void {
	/** Whether another column surely names conversations, or is called for these. */
	const isTold = (column: SheetColumn, than: Sheet): boolean =>
		[...best].some(
			([c, { key, confidence }]) =>
				c !== column &&
				(key.sheet !== than || isNamedAlike(c, than)) &&
				!personSheets.has(key.sheet) &&
				confidence >= NAMED_THREAD &&
				looksLikeThreads(key.sheet, context)
		);
	for (const [column, r] of best) {
		const { sheet } = r.key;
		if (personSheets.has(sheet) || r.key.column !== null || isDeclared(r, context.tables) || isNamedAlike(column, sheet)) continue;
		if (looksLikeThreads(sheet, context) && !isTold(column, sheet)) continue;
		if (namesEachOnce(r)) continue;
		const person = refs.find(
			(o) =>
				o.from === column && personSheets.has(o.key.sheet) && o.inclusion >= r.inclusion && o.confidence >= r.confidence - ABOUT_AS_SURE
		);
		if (person) best.set(column, person);
	}
}
const ABOUT_AS_SURE = 0.1;

/** Whether a column names each of a sheet's rows, and each once: those are of one message each, as persons are not. */
const namesEachOnce = ({ from: { profile: p }, inclusion, coverage }: Reference): boolean =>
	inclusion === 1 && coverage === 1 && !p.many && p.distinct.size === p.filled && p.filled >= EACH_ONCE;
const EACH_ONCE = 4;

/** Who wrote and to whom are of the same persons: small numbers at the one end are keys of the list that the other end's are. */
export function alikeAtBothEnds(
	best: Map<SheetColumn, Reference>,
	refs: readonly Reference[],
	personSheets: ReadonlySet<Sheet>,
	pairs: readonly Pick<Ends, 'from' | 'to'>[]
): void {
	for (const { from, to } of pairs)
		for (const [named, other] of [
			[best.get(from), to],
			[best.get(to), from]
		] as const) {
			if (!named || !personSheets.has(named.key.sheet) || other.made?.ofKind === 'rooms') continue;
			const same = refs.find((r) => r.from === other && r.key === named.key);
			if (same && same.confidence < named.confidence) best.set(other, { ...same, confidence: named.confidence });
		}
}

/**
 * What names the same persons as a column of another sheet does names those persons, and not that sheet's rows. Where the
 * other sheet's own numbers are those of persons (conversations numbered by whom they are with), one column names its rows.
 */
export function toTheEnd(
	best: Map<SheetColumn, Reference>,
	refs: readonly Reference[],
	personSheets: ReadonlySet<Sheet>,
	context: Context
): void {
	const onwards = ({ key }: Reference): Set<Key> => {
		const { rowidColumn } = context.tables[key.sheet.tables[0]!]!;
		const isOwn = (c: SheetColumn): boolean => c === key.column || (key.column === null && c.column === rowidColumn && c.path.length === 0);
		return new Set((context.references.get(key.sheet) ?? []).filter((o) => isOwn(o.from)).map((o) => o.key));
	};
	for (const [column, r] of best) {
		if (personSheets.has(r.key.sheet) || isDeclared(r, context.tables)) continue;
		const keys = onwards(r);
		const person = refs.find((p) => p.from === column && personSheets.has(p.key.sheet) && keys.has(p.key));
		if (!person || person.confidence < HARDLY) continue;
		const other = [...best].some(([c, o]) => c !== column && o.key === r.key && namesRatherThreads(c, column, r.key.sheet));
		if (r.key.column !== null || other) best.set(column, person);
	}
}

/** Of two columns of keys to conversations the one that is called so, or stands in more rows. */
const namesRatherThreads = (a: SheetColumn, b: SheetColumn, sheet: Sheet): boolean => {
	const named = Number(isNamedAlike(a, sheet)) - Number(isNamedAlike(b, sheet));
	return named > 0 || (named === 0 && a.profile.filled > b.profile.filled);
};

/**
 * Of two columns whose numbers can be keys of persons, one may as well be keys of threads: then the one that stands in
 * every row is, since the owner's own messages mostly name no person.
 */
export function preferThreads(
	best: Map<SheetColumn, Reference>,
	refs: readonly Reference[],
	sheet: Sheet,
	personSheets: ReadonlySet<Sheet>,
	context: Context
): void {
	const toPersons = [...best].filter(([, r]) => personSheets.has(r.key.sheet));
	if (toPersons.length < 2) return;
	const named = (c: SheetColumn): number => c.profile.filled - (c.profile.distinct.get(0) ?? 0);
	// What has each of those persons once, by the keys of their list, has them as members.
	const namesThem = ({ key }: Reference, persons: Key): boolean =>
		key.column !== null &&
		(context.references.get(key.sheet) ?? []).some((o) => o.from === key.column && o.key === persons && o.confidence >= HARDLY);
	for (const [column, current] of toPersons) {
		const other = refs.find(
			(r) =>
				r.from === column &&
				!personSheets.has(r.key.sheet) &&
				r.inclusion >= current.inclusion &&
				!namesThem(r, current.key) &&
				looksLikeThreads(r.key.sheet, context)
		);
		const sparser = toPersons.some(([c]) => c !== column && named(c) < named(column) * 0.95);
		if (!other || !sparser || named(column) < sheet.sure.length * 0.95 || other.confidence < current.confidence - 0.15) continue;
		best.set(column, other);
		return;
	}
}
