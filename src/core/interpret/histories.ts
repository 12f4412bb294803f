/**
 * Whether texts that stand beside messages, each naming one, are its earlier wordings. Much else stands so: what a link
 * leads to, the question of a poll, a translation, a note.
 */
import { shareWithin } from '../likeness';
import type { Row, Table } from '../model';
import type { Context } from './context';
import type { MessageReading } from './reading';
import { messageKeyOf, textsOf, timesOf } from './message-keys';
import { isMeant, type Reference } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';
import { timeOf } from './time';

const HISTORY_NAMED =
	/(?<!cr)edit|revis|histor|version|previous|prior|earlier|former|replaced|(?:^|_)old|wording|fassung|bearbeit|ge(?:ä|ae)nder|fr(?:ü|ue)her|vorher|ancien|anterior|modif/i;
const OTHERWISE_NAMED =
	/title|subject|desc|caption|question|frage|pregunta|prompt|transl|(?:ü|ue)bersetz|traduc|transcr|summar|comment|note|remark|label|\bocr|preview|vorschau|link|poll|survey|umfrage|encuesta|quiz|about|place|address|reminder|excerpt|snippet|teaser|(?:^|_)pin/i;
const LINK = /^[a-z][a-z\d+.-]*:\/\/\S+$/i;
const MOSTLY = 0.6;
const WRITING = 0.5;
const SAMPLED = 200;
/** Pairs from which it can be told whether wordings are alike, with how many others each is compared, and share that must be nearest. */
const PAIRS_LEAST = 3;
const OTHERS = 6;
const NEAREST = 0.7;
/** ms within which a program is done with what it makes of a message. */
const AT_ONCE = 30_000;
/** How well a mark must stand at the messages named, and at no others. */
const MARKED = 0.8;

/** Whether something is called for earlier wordings. */
export const isCalledHistory = (name: string): boolean => HISTORY_NAMED.test(name);

/**
 * What speaks for it decides: a name, wordings like those of the messages they name, a mark of what was edited. Where
 * nothing does, what speaks for something else.
 */
export function isHistory(sheet: Sheet, text: SheetColumn, names: Reference, m: MessageReading, context: Context): boolean {
	if ([sheet.name, text.name].some(isCalledHistory) || isAlike(sheet, text, names, m, context.tables)) return true;
	if (marksEdits(sheet, names, m, context.tables)) return true;
	const own = sheet.columns.filter((c) => c !== text && c !== names.from && c.column >= 0 && !isOwnNumber(c, sheet, context.tables));
	const time = own.find((c) => c.profile.time && c.profile.filled > sheet.sure.length * WRITING);
	return (
		![sheet.name, text.name].some((name) => OTHERWISE_NAMED.test(name)) &&
		!own.some((c) => c.profile.prose > WRITING || holdsLinks(c) || (c.profile.reals > 0 && !c.profile.time)) &&
		time !== undefined &&
		!isMadeAtOnce(sheet, time, names, m, context.tables) &&
		!isNamedByOthers(sheet, context)
	);
}

/** Whether all were made within moments of the messages they name, as a program does it by itself. */
function isMadeAtOnce(sheet: Sheet, time: SheetColumn, names: Reference, m: MessageReading, tables: readonly Table[]): boolean {
	if (!m.time) return false;
	const sent = timesOf(m, names.key.column, tables);
	const later = sheet.sure.slice(0, SAMPLED).flatMap((row) => {
		const [at, of] = [timeOf(cell(row, time, tables), time.profile.time!), sent.get(messageKeyOf(row, names.from, tables) ?? '')];
		return at === null || of === undefined ? [] : [at - of];
	});
	return later.length > 0 && later.every((ms) => ms >= 0 && ms <= AT_ONCE);
}

const holdsLinks = ({ profile: p }: SheetColumn): boolean => {
	const texts = [...p.distinct.keys()].filter((v) => typeof v === 'string').slice(0, SAMPLED);
	return texts.length > 0 && texts.filter((v) => LINK.test(String(v))).length > texts.length * MOSTLY;
};

/** Whether another sheet's rows surely belong to these: options to a question. */
const isNamedByOthers = (sheet: Sheet, { sheets, references, tables }: Context): boolean =>
	sheets.some((s) =>
		(references.get(s) ?? []).some(
			(r, _, all) =>
				s !== sheet && r.key.sheet === sheet && r.confidence > 0.5 && r === all.find((x) => x.from === r.from) && isMeant(r, s, tables)
		)
	);

/** Texts with those of the messages they name. */
function pairsOf(
	sheet: Sheet,
	text: SheetColumn,
	names: Reference,
	texts: ReturnType<typeof textsOf>,
	tables: readonly Table[]
): { here: string; there: string }[] {
	return sheet.sure.slice(0, SAMPLED).flatMap((row) => {
		const [here, there] = [cell(row, text, tables), texts.get(messageKeyOf(row, names.from, tables) ?? '')];
		return typeof here === 'string' && typeof there === 'string' ? [{ here, there }] : [];
	});
}

/**
 * Letters at which texts are cut that are how the messages they name begin, as a list of what was pinned shows them; null
 * where they are not. `least`: so many must be cut. Wordings that were added to begin so as well, but do not all end at one length.
 */
export function cutAtOf(
	sheet: Sheet,
	text: SheetColumn,
	names: Reference,
	m: MessageReading,
	tables: readonly Table[],
	least: number
): number | null {
	const texts = textsOf(m, names.key.column, tables);
	const pairs = pairsOf(sheet, text, names, texts, tables);
	const cut = pairs.filter(({ here, there }) => here !== there).map(({ here }) => here.length);
	const end = Math.min(...cut);
	const areBeginnings = pairs.every(({ here, there }) => here === there || isBeginning(here, there));
	return cut.length >= least && areBeginnings && pairs.every(({ here }) => here.length <= end + 1) ? end : null;
}
/** Marks that something was left out. */
const LEFT_OUT = /(?:\u2026|\.\.\.)$/;

/** Whether a text is how another begins, with a mark of what was left out or without. */
export const isBeginning = (text: string, of: string): boolean => of.startsWith(text) || of.startsWith(text.replace(LEFT_OUT, ''));

/** Whether nearly all texts are more like those of the messages they name than like those of others. */
function isAlike(sheet: Sheet, text: SheetColumn, names: Reference, m: MessageReading, tables: readonly Table[]): boolean {
	const texts = textsOf(m, names.key.column, tables);
	const others = [...texts.values()].filter((other) => typeof other === 'string');
	const pairs = pairsOf(sheet, text, names, texts, tables);
	const isNearest = ({ here, there }: (typeof pairs)[number], i: number): boolean => {
		const own = shareWithin(here, there);
		const step = Math.max(1, Math.floor(others.length / OTHERS));
		const compared = Array.from({ length: OTHERS }, (_, k) => others[(i + k * step) % others.length]!).filter((other) => other !== there);
		return compared.every((other) => own > shareWithin(here, other));
	};
	return pairs.length >= PAIRS_LEAST && pairs.filter(isNearest).length >= pairs.length * NEAREST;
}

/** Whether a column of the messages that is called for it is filled at those named, and at no others. */
function marksEdits(sheet: Sheet, names: Reference, m: MessageReading, tables: readonly Table[]): boolean {
	const keyIn = (row: Row): string => messageKeyOf(row, names.key.column, tables) ?? '';
	const known = new Set(m.sheet.sure.map(keyIn));
	const named = new Set(sheet.sure.map((row) => messageKeyOf(row, names.from, tables) ?? '').filter((key) => known.has(key)));
	return m.sheet.columns
		.filter((c) => isCalledHistory(c.name))
		.some((column) => {
			const marked = [...new Set(m.sheet.sure.filter((row) => !!cell(row, column, tables)).map(keyIn))];
			const both = marked.filter((key) => named.has(key)).length;
			return both > 0 && both >= marked.length * MARKED && both >= named.size * MARKED;
		});
}
