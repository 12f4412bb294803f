/**
 * Which messages the owner sent. Told from a flag, a sender who is in every thread, an empty sender, or a sign; which
 * value of a flag means which way is told from how the rows with it differ: senders, receipts, one-sided threads.
 */
import { wayBySteps } from './way-by-steps';
import { wayOfBox } from '../way-words';
import { TABLE_NAME, bestText, bestTime } from './columns';
import type { Row } from '../model';
import type { Context } from './context';
import { type Flag, inWords } from './direction-rules';
import {
	BY_FLAG_NAME,
	BY_NAMES,
	BY_WAY_WORDS,
	ROWS,
	type Sampled,
	flagRule,
	isNought,
	joinKey,
	joinMap,
	oneSided,
	threadKeyOf
} from './flag-rule';
import { flagByRooms } from './flag-by-owner';
import { namedOwner } from './named-owner';
import { oneOrTheOther, ownersOfPair } from './parties';
import type { DirectionRule, Guess, MessageReading } from './reading';
import { keyOf } from './refs';
import { type Sheet, type SheetColumn, cell } from './sheet';

export function decideDirection(reading: MessageReading, context: Context): Guess<DirectionRule> {
	const { sheet } = reading;
	if (reading.sender && reading.recipient) {
		const owner = ownersOfPair(sheet, reading.sender.value, reading.recipient.value, context);
		if (owner.length > 0)
			return {
				value: { kind: 'sender', column: reading.sender.value, owner },
				confidence: 0.9,
				evidence: [
					owner.length === 1
						? 'one party stands in every row, as sender or as recipient: the owner'
						: `one of ${owner.length} parties stands in every row, as sender or as recipient: the owner has as many numbers`
				]
			};
	}
	const bySender = ownerAmongSenders(reading, context);
	const byFlag = flagRule(reading, context);
	const bySign = signRule(reading, context);
	const byEmpty = emptySender(reading, context);
	const byTable = tableRule(reading, context);
	// A table with both ways, of which a column says so, is no box, whatever it is called.
	const bothWays = byFlag?.evidence.some((why) => why === BY_FLAG_NAME || why === BY_WAY_WORDS) ?? false;
	const byBox = bothWays ? null : boxRule(sheet, context);
	const byArrival = emptyArrival(reading, context);
	const ranked = [byBox, byArrival, bySender, byFlag, bySign, byEmpty, byTable]
		.filter((g) => g !== null)
		.sort((a, b) => b.confidence - a.confidence);
	const best = ranked[0];
	// Where the steps of both ways lie apart, no bit of their numbers says it.
	const steps = best?.value.kind === 'flag' && best.value.bit && !best.evidence.includes(BY_NAMES) ? wayBySteps(reading, context) : null;
	if (steps?.value.kind === 'flag' && best?.value.kind === 'flag' && steps.value.column === best.value.column) return steps;
	if (best) return ranked[1] ? { ...best, runnerUp: inWords(ranked[1].value) } : best;
	const byName = wayOfBox(sheet.name);
	if (byName)
		return { value: { kind: 'sheet', direction: byName }, confidence: 0.6, evidence: ['its name says which way its messages went'] };
	return wayBySteps(reading, context) ?? { value: { kind: 'unknown' }, confidence: 0, evidence: ['no column tells sent from received'] };
}

/** Share of the rows of which both rules know the way that must agree. */
const AGREE = 0.98;

/**
 * The flag that says the way as the writer does, who stands in another table: of a lost row, which names nobody there any
 * more, it says it still.
 */
export function flagBeside(reading: MessageReading, context: Context): DirectionRule | null {
	const { value } = reading.direction;
	if (value.kind === 'flag') return otherFlag(value, reading, context);
	if (value.kind !== 'sender' || !value.column.made?.writer) return null;
	const found = flagRule(reading, context)?.value;
	if (found?.kind !== 'flag') return null;
	let [known, same] = [0, 0];
	for (const row of reading.sheet.sure.slice(0, ROWS)) {
		const writer = keyOf(cell(row, value.column, context.tables));
		const mark = keyOf(cell(row, found.column, context.tables));
		if (writer === null || mark === null || ![...found.out, ...found.in].includes(mark)) continue;
		known++;
		if (found.out.includes(mark) === value.owner.some((o) => String(o) === String(writer))) same++;
	}
	return known > 0 && same >= known * AGREE ? found : null;
}

/** The further flag that says the same of all rows of which the first says it, where that says nothing of some: of what is in a bin. */
function otherFlag(rule: DirectionRule & { kind: 'flag' }, reading: MessageReading, context: Context): DirectionRule | null {
	const ways = (of: typeof rule, row: Row): 'out' | 'in' | null => {
		const mark = keyOf(cell(row, of.column, context.tables));
		return mark === null ? null : of.out.includes(mark) ? 'out' : of.in.includes(mark) ? 'in' : null;
	};
	const rows = reading.sheet.sure.slice(0, ROWS);
	if (rule.bit || rows.every((row) => ways(rule, row) !== null)) return null;
	const found = flagRule(reading, context, rule.column.column)?.value;
	if (found?.kind !== 'flag' || found.bit) return null;
	const both = rows.flatMap((row) => {
		const [one, other] = [ways(rule, row), ways(found, row)];
		return one === null || other === null ? [] : [one === other];
	});
	const same = both.filter(Boolean).length;
	return both.length >= ROWS_LEAST && same >= both.length * AGREE ? found : null;
}
const ROWS_LEAST = 8;

/**
 * The way by a column that names whoever wrote but the owner: a flag that says the same of nearly all rows, as it says it
 * of lost ones too, or that nobody is named.
 */
export function wayByNaming(
	found: Guess<DirectionRule>,
	writer: SheetColumn,
	{ sheet }: MessageReading,
	{ tables }: Context
): Guess<DirectionRule> {
	const { value: rule } = found;
	if (rule.kind === 'flag') {
		let [known, same] = [0, 0];
		for (const row of sheet.sure.slice(0, ROWS)) {
			const mark = keyOf(cell(row, rule.column, tables));
			if (mark === null || ![...rule.out, ...rule.in].includes(mark)) continue;
			known++;
			if (rule.out.includes(mark) === isNought(cell(row, writer, tables))) same++;
		}
		if (known >= sheet.sure.length * AGREE && same >= known * AGREE) return found;
	}
	return {
		value: { kind: 'sender-empty', column: writer },
		confidence: 0.9,
		evidence: ['it names who wrote, and nobody where that was the owner'],
		...(rule.kind === 'unknown' ? {} : { runnerUp: inWords(rule) })
	};
}

/** Of two tables, one with what was sent and one with what was received, each says so by its name or by whom it names. */
function boxRule(sheet: Sheet, context: Context): Guess<DirectionRule> | null {
	const way = boxOf(sheet);
	if (!way) return null;
	const other = context.sheets.find(
		(s) => s !== sheet && !s.family && boxOf(s) === (way === 'in' ? 'out' : 'in') && holdsLetters(s, context)
	);
	if (!other) return null;
	return {
		value: { kind: 'sheet', direction: way },
		confidence: 0.93,
		evidence: [`it holds what was ${way === 'in' ? 'received' : 'sent'}, and ${other.name} the rest: their names say it`]
	};
}

/** Lists of conversations name recipients too. */
function holdsLetters(sheet: Sheet, { tables }: Context): boolean {
	const text = bestText(sheet)?.value.profile;
	return (
		text !== undefined &&
		text.filled >= sheet.sure.length * WRITTEN &&
		text.prose > WRITTEN &&
		text.json < WRITTEN &&
		bestTime(sheet, tables) !== null
	);
}
const WRITTEN = 0.3;

const TO_WHOM = /recipient|receiver|addressee|^to(_|$)|dest|empf|^z?to(address|number)/i;

const FROM_WHOM = /sender|author|^from(_|$)|origin|absend|^z?from(address|number)/i;

/** The box that a table is by its name; where that says nothing, by whether it names senders alone, or recipients alone. */
function boxOf(sheet: Sheet): 'in' | 'out' | null {
	const named = wayOfBox(sheet.name);
	if (named) return named;
	const who = sheet.columns.filter((c) => c.column >= 0 && c.profile.filled > 0 && !c.profile.time);
	const [to, from] = [TO_WHOM, FROM_WHOM].map((names) => who.some((c) => names.test(c.name)));
	return to === from ? null : to ? 'out' : 'in';
}

/** The sender who writes in every thread, where others write in one or few. */
function ownerAmongSenders(reading: MessageReading, context: Context): Guess<DirectionRule> | null {
	const party = reading.sender ?? reading.peer;
	if (!party || (!reading.thread && !reading.threadJoin)) return null;
	const column = party.value;
	const threads = new Map<string, Set<Flag>>();
	/** Those in which rows name nobody. */
	const unnamed = new Set<string>();
	let nameless = 0;
	const joined = reading.threadJoin ? joinMap(reading, context) : null;
	for (const row of reading.sheet.sure.slice(0, ROWS)) {
		const sender = keyOf(cell(row, column, context.tables));
		const thread = joined
			? joined.get(String(joinKey(reading, row, context)))
			: keyOf(cell(row, reading.thread!.value, context.tables))?.toString();
		if (thread === undefined) continue;
		if (sender === null || sender === 0) {
			unnamed.add(thread);
			nameless++;
		}
		if (sender === null) continue;
		const set = threads.get(thread);
		if (set) set.add(sender);
		else threads.set(thread, new Set([sender]));
	}
	if (threads.size === 0) return null;
	const counts = new Map<Flag, number>();
	for (const senders of threads.values()) for (const s of senders) counts.set(s, (counts.get(s) ?? 0) + 1);
	const two = [...threads.values()].filter((s) => s.size >= 2).length;
	const sorted = [...counts].sort((a, b) => b[1] - a[1]);
	const [best, next] = sorted;
	if (!best || two < threads.size * 0.34) return null;
	const share = best[1] / threads.size;
	const named = namedOwner([party], reading, context);
	if (named) return named;
	// Where nobody is named in more conversations than anybody is, the owner's rows are those.
	const isOften = nameless > Math.min(ROWS, reading.sheet.sure.length) * NAMELESS_OFTEN;
	if (unnamed.size > best[1] || (unnamed.size === best[1] && isOften)) return null;
	if (threads.size >= 2 && share > 0.5 && best[1] > (next?.[1] ?? 0)) {
		return {
			value: { kind: 'sender', column, owner: [best[0]] },
			confidence: 0.6 + share * 0.3,
			evidence: [`one writer appears in ${best[1]} of ${threads.size} threads, the next in ${next?.[1] ?? 0}: the owner`]
		};
	}
	return null;
}

/** Share of the rows above which those that name nobody are no notices of the program's. */
const NAMELESS_OFTEN = 0.1;

/** Tables of one shape as boxes: received in one, sent in the other. */
function tableRule(reading: MessageReading, context: Context): Guess<DirectionRule> | null {
	const column = reading.sheet.columns.find((c) => c.column === TABLE_NAME);
	if (!column || !reading.sheet.family || reading.thread?.value === column || column.profile.distinct.size > 6) return null;
	const names = [...column.profile.distinct.keys()];
	const out = names.filter((n) => wayOfBox(String(n)) === 'out');
	const incoming = names.filter((n) => wayOfBox(String(n)) === 'in');
	if (out.length && incoming.length)
		return { value: { kind: 'table', column, out, in: incoming }, confidence: 0.9, evidence: ['the names of the tables say in and out'] };
	const [a, b] = [...column.profile.distinct].sort((x, y) => y[1] - x[1]).map(([n]) => n);
	if (a === undefined || b === undefined) return null;
	const sampled: Sampled[] = reading.sheet.sure
		.slice(0, ROWS)
		.map((row, i) => ({ value: keyOf(cell(row, column, context.tables)), thread: threadKeyOf(reading, row, context), row: i }));
	const side = oneSided(sampled, a, b);
	if (side === 0 && out.length + incoming.length === 0) return null;
	const outIsA = out.includes(a) || incoming.includes(b) || (!out.includes(b) && !incoming.includes(a) && side < 0);
	return {
		value: { kind: 'table', column, out: [outIsA ? a : b], in: [outIsA ? b : a] },
		confidence: 0.6,
		evidence: ['two tables of one shape, one for each direction']
	};
}

/** The sign of a key tells the way: the same keys stand there positive and negative. */
function signRule(reading: MessageReading, context: Context): Guess<DirectionRule> | null {
	for (const column of reading.sheet.columns) {
		const p = column.profile;
		if (column.column < 0 || p.time || p.ints === 0 || p.texts > 0 || p.low >= 0 || p.high <= 0 || column === reading.time?.value) continue;
		const values = [...p.distinct.keys()].filter((v): v is number => typeof v === 'number' && v !== 0);
		const mirrored = values.filter((v) => p.distinct.has(-v)).length;
		if (values.length < 2 || mirrored < values.length * 0.6) continue;
		const sampled: Sampled[] = reading.sheet.sure.slice(0, ROWS).map((row, i) => {
			const n = Number(cell(row, column, context.tables) ?? 0);
			return { value: n === 0 ? null : n < 0 ? -1 : 1, thread: String(Math.abs(n)), row: i };
		});
		const side = oneSided(sampled, 1, -1);
		return {
			value: { kind: 'sign', column, outNegative: side >= 0 },
			confidence: 0.75,
			evidence: ['the same numbers stand there with both signs']
		};
	}
	return null;
}

const ARRIVAL_NAMED = /recei|arriv|empfang|eingang|re[cç]u|recib|ricev/i;

/** Rows without a time of arrival were not received: the owner's. */
function emptyArrival(reading: MessageReading, { tables }: Context): Guess<DirectionRule> | null {
	const rows = reading.sheet.sure.slice(0, ROWS);
	const arrived = (c: SheetColumn): number => rows.filter((row) => !isNought(cell(row, c, tables))).length / rows.length;
	const column = reading.sheet.columns.find(
		(c) => c.profile.time && c !== reading.time?.value && ARRIVAL_NAMED.test(c.name) && arrived(c) > 0.1 && arrived(c) < 0.9
	);
	if (!column) return null;
	return {
		value: { kind: 'sender-empty', column },
		confidence: 0.58,
		evidence: [`${Math.round((1 - arrived(column)) * 100)} % of the rows have no time of arrival: the owner's own`]
	};
}

/** Rows without a sender are the owner's. */
const isEitherWay = ({ sender, recipient }: MessageReading): boolean => sender !== null && recipient !== null;

function emptySender(reading: MessageReading, context: Context): Guess<DirectionRule> | null {
	const party = reading.participant ?? reading.sender ?? reading.peer;
	if (!party || (!reading.thread && !reading.threadJoin && !reading.participant && !reading.recipient)) return null;
	const p = party.value.profile;
	const zero = p.distinct.get(0) ?? 0;
	const empty = reading.sheet.sure.slice(0, ROWS).filter((r) => {
		const k = keyOf(cell(r, party.value, context.tables));
		return k === null || k === 0;
	}).length;
	const share = empty / Math.min(ROWS, reading.sheet.sure.length);
	if (share < 0.05 || (zero === 0 && p.nulls === 0 && empty === 0)) return null;
	const { sheet, sender, recipient } = reading;
	const byRooms = isEitherWay(reading) ? null : flagByRooms(party.value, reading, context);
	if (share > 0.95 && byRooms?.kind !== 'flag') return null;
	if (byRooms)
		return byRooms.kind === 'unknown'
			? null
			: {
					value: byRooms,
					confidence: 0.85,
					evidence: [`in conversations that name who wrote it goes with whether ${party.value.name} names anybody`]
				};
	const isEither = party === sender && recipient !== null && oneOrTheOther(sheet, sender.value, recipient.value, context);
	return {
		value: { kind: 'sender-empty', column: party.value },
		// Where the other rows name whom it was to, that is sure.
		confidence: isEither ? 0.9 : share > 0.2 && share < 0.8 ? 0.74 : 0.62,
		evidence: [`${Math.round(share * 100)} % of the rows name no sender: the owner's own`]
	};
}
