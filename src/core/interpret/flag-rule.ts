/** Flags that say which way a message went: which column is one, and which of its values means sent. */
import type { Row, Value } from '../model';
import { isInWord, isOutWord, saysWay, wayNamed } from '../way-words';
import type { Context } from './context';
import { counterOf } from './counter';
import { type Flag, columnOf, flag } from './direction-rules';
import { isPath } from './files';
import type { DirectionRule, Guess, MessageReading } from './reading';
import { PHONE } from './profile';
import { keyOf } from './refs';
import { type Sheet, type SheetColumn, cell } from './sheet';
import { timeOf } from './time';

export interface Sampled {
	value: Flag | null;
	thread: string;
	row: number;
}

const FLAG_NAME = /dir|richtung|sens|type|box|folder|way|side|flow|kind/i;

export const ROWS = 6000;

export const BY_FLAG_NAME = 'its name says direction';

export const BY_NAMES = 'each value goes with somebody being named, or with nobody';

export const BY_WAY_WORDS = 'its values say in and out';

export function threadKeyOf(reading: MessageReading, row: (typeof reading.sheet.rows)[number], context: Context): string {
	if (!reading.thread && reading.threadJoin) {
		const joined = joinMap(reading, context).get(String(joinKey(reading, row, context)));
		if (joined !== undefined) return joined;
	}
	const column = reading.thread?.value ?? reading.peer?.value ?? null;
	return column ? howeverWritten(String(keyOf(cell(row, column, context.tables)))) : '';
}

/** A number as it is counted here: by its last digits, since what was dialled is written in other ways than what came in. */
const howeverWritten = (key: string): string => (PHONE.test(key) ? key.replace(/\D/g, '').slice(-LAST_DIGITS) : key);

const LAST_DIGITS = 9;

const JOINED = new WeakMap<NonNullable<MessageReading['threadJoin']>, Map<string, string>>();

/** The conversation of each message that a join names; read once. */
export function joinMap(reading: MessageReading, context: Context): Map<string, string> {
	const join = reading.threadJoin!;
	const known = JOINED.get(join);
	if (known) return known;
	const map = new Map<string, string>();
	JOINED.set(join, map);
	for (const row of join.sheet.rows) {
		const message = keyOf(cell(row, join.message, context.tables));
		const thread = keyOf(cell(row, join.thread, context.tables));
		if (message !== null && thread !== null) map.set(String(message), String(thread));
	}
	return map;
}

export function joinKey(reading: MessageReading, row: (typeof reading.sheet.rows)[number], context: Context): Flag | null {
	const column = reading.threadJoin!.messageKey.column;
	return column ? keyOf(cell(row, column, context.tables)) : keyOf(row.rowid as Value);
}

function isFlagColumn(column: SheetColumn, reading: MessageReading): boolean {
	if (column.column < 0 || column === reading.text.value || column === reading.time?.value || column === reading.thread?.value)
		return false;
	const p = column.profile;
	if (p.time || p.reals > 0 || p.blobs > 0 || p.filled < reading.sheet.sure.length * 0.5) return false;
	if (p.texts > 0 && p.averageLength > 12) return false;
	return !p.many && p.distinct.size >= 1 && p.distinct.size <= 10;
}

/** What the number of a conversation is called, and no way is. */
const ROOM_NUMBER = /(?:^|[._ ])(?:conv(?:ersation)?|chat|thread|room|group|channel|dialog(?:ue)?)[_ ]?(?:id|key|no|nr|uid)?$/i;

/** `except`: the place of a column that says it already, of some rows. */
export function flagRule(reading: MessageReading, context: Context, except: number | null = null): Guess<DirectionRule> | null {
	let best: Weighed | null = null;
	const counter = counterOf(reading.sheet, context.tables);
	for (const column of reading.sheet.columns) {
		if (column === reading.peer?.value || column === reading.sender?.value || column === counter || column.column === except) continue;
		if (ROOM_NUMBER.test(column.name) && column.profile.texts === 0) continue;
		if (isKeyCalled(column, reading.sheet, context) || saysWhetherFile(column, reading.sheet, context)) continue;
		const whole = isFlagColumn(column, reading)
			? weighFlag(column, (row) => keyOf(cell(row, column, context.tables)), reading, context)
			: null;
		// What two values say of nearly all rows is no matter of bits: of a box's other numbers those would say anything.
		const isPlain = whole !== null && areMost(column);
		const bits = isPlain && saysOfAll(whole.value, column) ? null : bitRule(column, reading, context, whole);
		const rule = isPlain && !(bits && saysAlike(bits.value, whole.value)) ? whole : (bits ?? whole);
		if (rule && (!best || rule.weight > best.weight)) best = { ...rule, ...(best ? { runnerUp: columnOf(best.value) } : {}) };
	}
	if (!best) return null;
	const told = { value: best.value, confidence: best.confidence, evidence: best.evidence };
	const rule = goingWithNames(told, reading, context) ?? goingOnAlike(told);
	return { ...rule, ...(best.runnerUp ? { runnerUp: best.runnerUp } : {}) };
}

/**
 * The same rule where other values of the flag are a pair as the two that it knows are, by the tens or a mark higher or
 * lower (21 and 22, 31 and 32): they say the same of another kind of message.
 */
function goingOnAlike(told: Guess<DirectionRule>): Guess<DirectionRule> {
	const rule = told.value;
	if (rule.kind !== 'flag' || rule.bit || rule.out.length !== 1 || rule.in.length !== 1) return told;
	const [out, into] = [rule.out[0]!, rule.in[0]!];
	if (typeof out !== 'number' || typeof into !== 'number' || Math.abs(out - into) >= STEP_LEAST) return told;
	const { distinct } = rule.column.profile;
	const steps = [...distinct.keys()].flatMap((v) => (typeof v === 'number' && distinct.has(v - out + into) ? [v - out] : []));
	const alike = steps.filter((step) => step !== 0 && isRoundStep(Math.abs(step)));
	if (alike.length === 0) return told;
	return {
		...told,
		value: { ...rule, out: [out, ...alike.map((step) => out + step)], in: [into, ...alike.map((step) => into + step)] },
		evidence: [...told.evidence, 'its other values are pairs as these two are']
	};
}
/** By tens, hundreds and so on, or by one mark that no small number has. */
const isRoundStep = (step: number): boolean => step % 10 === 0 || (step >= STEP_LEAST && Number.isInteger(Math.log2(step)));
const STEP_LEAST = 8;

const VALUES_LEAST = 3;

const STRAY = 0.03;

/**
 * The same rule where each of a flag's several values goes with somebody's being named as the writer, or with nobody's:
 * that says of every one of them which way it is. Null where some go with both, or it would turn what is said of most.
 */
function goingWithNames(told: Guess<DirectionRule>, reading: MessageReading, context: Context): Guess<DirectionRule> | null {
	const rule = told.value;
	const party = (reading.participant ?? reading.sender ?? reading.peer)?.value;
	if (rule.kind !== 'flag' || !party || party.made) return null;
	const counts = new Map<Flag, { named: number; nameless: number }>();
	for (const row of reading.sheet.sure.slice(0, ROWS)) {
		const value = keyOf(cell(row, rule.column, context.tables));
		if (value === null) continue;
		const count = counts.get(value) ?? { named: 0, nameless: 0 };
		count[isNought(cell(row, party, context.tables)) ? 'nameless' : 'named']++;
		counts.set(value, count);
	}
	const values = [...counts];
	if (values.length < VALUES_LEAST || values.some(([, c]) => Math.min(c.named, c.nameless) > (c.named + c.nameless) * STRAY)) return null;
	const out = values.filter(([, c]) => c.nameless > c.named).map(([value]) => value);
	const into = values.filter(([, c]) => c.named > c.nameless).map(([value]) => value);
	const rows = (of: readonly Flag[]): number =>
		of.reduce<number>((sum, value) => sum + counts.get(value)!.named + counts.get(value)!.nameless, 0);
	const same = rows(out.filter((v) => rule.out.includes(v))) + rows(into.filter((v) => rule.in.includes(v)));
	const turned = rows(out.filter((v) => rule.in.includes(v))) + rows(into.filter((v) => rule.out.includes(v)));
	if (out.length === 0 || into.length === 0 || turned >= same) return null;
	const { bit, ...flags } = rule;
	return {
		...told,
		value: { ...flags, out, in: into, ...(bit && turned === 0 ? { bit } : {}) },
		evidence: [...told.evidence, BY_NAMES]
	};
}

/** Whether the words of a column say of each row whether there is a file with it: of what kind it is, no way. */
function saysWhetherFile(column: SheetColumn, sheet: Sheet, { tables }: Context): boolean {
	const { profile: p } = column;
	if (p.texts === 0 || p.many || [...p.distinct.keys()].some((v) => saysWay(String(v)))) return false;
	const files = sheet.columns.filter((c) => c !== column && c.profile.filled < sheet.sure.length * 0.9 && isPath(c));
	return files.some((file) => {
		const counts = new Map<Flag, { with: number; all: number }>();
		for (const row of sheet.sure.slice(0, ROWS)) {
			const value = keyOf(cell(row, column, tables));
			if (value === null) continue;
			const count = counts.get(value) ?? { with: 0, all: 0 };
			count.all++;
			if (keyOf(cell(row, file, tables)) !== null) count.with++;
			counts.set(value, count);
		}
		const kinds = [...counts.values()];
		const isOf = kinds.filter((k) => k.with >= k.all * (1 - STRAY));
		return isOf.length > 0 && isOf.length < kinds.length && kinds.every((k) => isOf.includes(k) || k.with <= k.all * STRAY);
	});
}

/** Whether a column has the name of another table's key, and holds those keys: a slot, an account; no way. */
const isKeyCalled = (column: SheetColumn, sheet: Sheet, { keys, tables }: Context): boolean =>
	keys.some(
		({ sheet: other, column: key, values }) =>
			other !== sheet &&
			!other.columns.some((c) => c.profile.texts > 0 && [...c.profile.distinct.keys()].some((v) => saysWay(String(v)))) &&
			keyName(other, key, tables).toLowerCase() === column.name.toLowerCase() &&
			[...column.profile.distinct.keys()].every((value) => values.has(value))
	);

const keyName = (sheet: Sheet, key: SheetColumn | null, tables: Context['tables']): string => {
	const table = tables[sheet.tables[0]!]!;
	return key?.name ?? table.columns[table.rowidColumn]?.name ?? '';
};

/** Values of which each is a number of marks together, at most. */
const MARKS_AT_MOST = 64;

const HIGHEST_BIT = 30;

/** Whether a flag's number is the set one: some programs write it as minus one. */
const isMore = (a: number, b: number): boolean => (a === 0 || b === 0 ? Math.abs(a) > Math.abs(b) : a > b);

/** Share of rows that a mark must be in, and must not be in. */
const MARKED = 0.05;

/** How surely a number is a key, from which on it is none of marks. */
const KEYS = 0.6;

/** From here on who wrote says it for a mark: of marks as such any takes turns. */
const WRITERS_DIFFER = 0.5;

/** Whether two of a column's values are those of most of its rows. */
function areMost({ profile: p }: SheetColumn): boolean {
	const [a, b] = [...p.distinct.values()].sort((x, y) => y - x);
	return (a ?? 0) + (b ?? 0) >= p.filled * MOST;
}

const MOST = 0.8;

/** Whether a rule says of each of a column's values which way it is. */
const saysOfAll = (rule: DirectionRule, { profile }: SheetColumn): boolean =>
	rule.kind !== 'flag' || [...profile.distinct.keys()].every((v) => [...rule.out, ...rule.in].includes(v));

/** Whether one rule says of all values what another one says of some. */
const saysAlike = (all: DirectionRule, some: DirectionRule): boolean =>
	all.kind === 'flag' && some.kind === 'flag' && some.out.every((v) => all.out.includes(v)) && some.in.every((v) => all.in.includes(v));

/**
 * A number of which one bit says which way, beside others that say something else. Only where rows with it differ from
 * those without by who wrote them.
 */
function bitRule(column: SheetColumn, reading: MessageReading, context: Context, whole: Weighed | null): Weighed | null {
	const p = column.profile;
	const parts = [reading.thread, reading.time, reading.recipient, reading.participant];
	if (parts.some((part) => part?.value === column) || column.column < 0 || p.time || p.many) return null;
	// Few rows name a writer then: of some bit they have it by chance.
	if (reading.participant?.value.made?.inRooms) return null;
	const isKey = (context.references.get(reading.sheet) ?? []).some((r) => r.from === column && r.confidence > KEYS);
	if (isKey && !whole) return null;
	if (
		p.filled < reading.sheet.sure.length * 0.5 ||
		p.ints < p.filled ||
		p.ints === 0 ||
		p.low < 0 ||
		p.high >= 2 ** HIGHEST_BIT ||
		p.distinct.size < 3 ||
		p.distinct.size > MARKS_AT_MOST ||
		// Numbers of which nearly each row has its own count the rows.
		p.distinct.size * 2 > p.filled
	)
		return null;
	const rows = reading.sheet.sure.slice(0, ROWS);
	let best: Weighed | null = null;
	for (let bit = 0; 2 ** bit <= p.high; bit++) {
		const mask = 2 ** bit;
		const isSet: FlagOf = (row) => {
			const value = cell(row, column, context.tables);
			return typeof value === 'number' ? Number((value & mask) !== 0) : null;
		};
		const share = rows.filter((row) => isSet(row) === 1).length / rows.length;
		if (share < MARKED || share > 1 - MARKED) continue;
		const difference = senderDifference(reading, context, rows, isSet, 1, 0);
		const weighed = Math.abs(difference) > WRITERS_DIFFER ? weighFlag(column, isSet, reading, context) : null;
		if (!weighed || (best && best.weight >= weighed.weight)) continue;
		const values = [...p.distinct.keys()].filter((v): v is number => typeof v === 'number');
		const [withIt, without] = [values.filter((v) => v & mask), values.filter((v) => !(v & mask))];
		const outIsSet = difference > 0;
		const value: DirectionRule = {
			kind: 'flag',
			column,
			out: outIsSet ? withIt : without,
			in: outIsSet ? without : withIt,
			bit: { mask, out: outIsSet }
		};
		// Small numbers may well be keys: what the commonest of them say must bear it out.
		if (isKey && !saysAlike(value, whole!.value)) continue;
		best = { ...weighed, value, evidence: [`of its bits that of ${mask} says it`, ...weighed.evidence] };
	}
	return best;
}

const GOES_WITH = 0.95;

type Weighed = Guess<DirectionRule> & { weight: number };

/** What a row's flag is. */
type FlagOf = (row: Row) => Flag | null;

function weighFlag(column: SheetColumn, flagOf: FlagOf, reading: MessageReading, context: Context): Weighed | null {
	const rows = reading.sheet.sure.slice(0, ROWS);
	const sampled: Sampled[] = rows.map((row, i) => ({
		value: flagOf(row),
		thread: threadKeyOf(reading, row, context),
		row: i
	}));
	const counts = new Map<Flag, number>();
	for (const s of sampled) if (s.value !== null) counts.set(s.value, (counts.get(s.value) ?? 0) + 1);
	const sorted = [...counts].sort((a, b) => b[1] - a[1]);
	const [a, b] = sorted;
	if (!a) return null;
	const evidence: string[] = [];
	const name = column.name.split('.').at(-1)!;
	const named = wayNamed(name);
	if (!b) {
		// Only one value: no flag to be told by its values, but a name can still say.
		if (!named || typeof a[0] !== 'number') return null;
		return {
			value: flag(column, named === 'out' ? [1] : [0], named === 'out' ? [0] : [1]),
			confidence: 0.5,
			evidence: [BY_FLAG_NAME],
			weight: 1
		};
	}
	const total = sampled.length;
	const minority = b[1] / total;
	let weight = 0;
	// Sent and received take turns; a flag like "read" does not.
	const turns = turnTaking(sampled, a[0], b[0]);
	weight += turns * 2;
	if (minority > 0.1) weight += 0.8;
	if (sorted.length > 4) weight -= 0.5;
	// Every message went one way or the other: two values that leave many rows out say something else.
	weight -= (1 - (a[1] + b[1]) / sampled.filter((s) => s.value !== null).length) * 3;
	if (isTwoWay(a[0], b[0])) weight += 0.3;
	if (named || FLAG_NAME.test(name)) weight += named ? 2.5 : 0.4;
	// How far a message got, sooner than which way.
	if (/^(msg_?|message_?)?stat(e|us)$/i.test(name)) weight -= 0.2;
	if (/read|seen|gelesen|star|pin|arch|delet|edit|attach|unread|mute|fail|err/i.test(name)) weight -= 2;
	const words = wordsOf(counts);
	if (words) return { value: flag(column, words.out, words.in), confidence: 0.95, evidence: [BY_WAY_WORDS], weight: weight + 4 };
	const bySender = senderDifference(reading, context, rows, flagOf, a[0], b[0]);
	// A flag that goes with whether anybody is named is no matter of chance.
	if (reading.participant?.value.made?.inRooms || Math.abs(bySender) > GOES_WITH) weight += Math.abs(bySender);
	if (weight < 0.9) return null;
	// Which of the two is out?
	let outIsA = 0;
	const say = (towardsA: number, why: string): void => {
		if (Math.abs(towardsA) < 0.05) return;
		outIsA += towardsA;
		evidence.push(why);
	};
	const [first, second] = [asNumber(a[0]), asNumber(b[0])];
	if (named && first !== null && second !== null) {
		const one = isMore(first, second) ? 1 : -1;
		say((named === 'out' ? one : -one) * 3, BY_FLAG_NAME);
	} else if (/^sent$/i.test(name) && first !== null && second !== null) say(isMore(first, second) ? 1.5 : -1.5, BY_FLAG_NAME);
	say(bySender * 2, 'rows with one value have no sender or always the same one: the owner');
	say(-oneSided(sampled, a[0], b[0]) * 1.5, 'threads in which only one side writes are those of senders nobody answers');
	say(
		receiptDifference(reading, context, rows, column, flagOf, a[0], b[0]),
		'marks of what was read and later receiving times stand only with one value: received'
	);
	if (typeof a[0] === 'number' && typeof b[0] === 'number') {
		const higher = isMore(a[0], b[0]) ? 1 : -1;
		say(higher * HIGHER, 'of two numbers the higher is usually sent');
	}
	// Nothing but that the one is higher: of two tables alike each may be of one way, and of other numbers than those of
	// two ways it says nothing.
	if (outIsA === 0) return null;
	const guessed = !named && Math.abs(outIsA) <= HIGHER;
	if (guessed && (reading.sheet.tables.length === 2 || (!isTwoWay(a[0], b[0]) && turns < TAKES_TURNS))) return null;
	const out = outIsA > 0 ? a[0] : b[0];
	const incoming = outIsA > 0 ? b[0] : a[0];
	const rest = sorted.slice(2).map(([v]) => v);
	const outs: Flag[] = [out];
	// Other values of a box number (outbox, failed, queued) are the owner's where they are higher than "sent".
	for (const v of rest) if (typeof v === 'number' && typeof out === 'number' && v > out && v <= 8 && out === 2) outs.push(v);
	const ins = [incoming];
	for (const v of rest.filter((r) => !outs.includes(r))) {
		const way = likeWhich(v, out, incoming, rows, flagOf, reading, context);
		if (way) (way === 'out' ? outs : ins).push(v);
	}
	return {
		value: flag(column, outs, ins),
		confidence: Math.min(0.95, 0.45 + weight * 0.08 + Math.min(0.25, Math.abs(outIsA) * 0.1)),
		evidence: [...evidence, `its two main values take turns within threads`],
		weight
	};
}

/**
 * Which way rows of a further value went: a column that is filled in all rows of the one way and in none of the other (a
 * time of arrival, say) says it of theirs too. Columns that disagree say nothing.
 */
function likeWhich(
	value: Flag,
	out: Flag,
	incoming: Flag,
	rows: readonly Row[],
	flagOf: FlagOf,
	{ sheet, text }: MessageReading,
	{ tables }: Context
): 'out' | 'in' | null {
	const of = (flag: Flag): Row[] => rows.filter((row) => flagOf(row) === flag);
	const [these, sent, received] = [of(value), of(out), of(incoming)];
	if (these.length < FEWEST_ALIKE) return null;
	const said = new Set<'out' | 'in'>();
	for (const column of sheet.columns.filter((c) => c !== text.value && c.column >= 0)) {
		const filled = (list: readonly Row[]): number => list.filter((row) => !isNought(cell(row, column, tables))).length / list.length;
		const [inSent, inReceived, here] = [filled(sent), filled(received), filled(these)];
		if (Math.abs(inSent - inReceived) < ALIKE) continue;
		const [near, far] = [Math.abs(here - inSent), Math.abs(here - inReceived)];
		if (Math.min(near, far) <= 1 - ALIKE) said.add(near < far ? 'out' : 'in');
	}
	return said.size === 1 ? [...said][0]! : null;
}

const FEWEST_ALIKE = 2;

const ALIKE = 0.97;

export const isNought = (value: Value | undefined): boolean => value === null || value === undefined || value === 0 || value === '';

/** What it says that one of two numbers is higher, and the taking of turns that chance does not give. */
const HIGHER = 0.3;

const TAKES_TURNS = 0.15;

/** A flag as a number: words for yes are one, words for no nought. */
const asNumber = (flag: Flag): number | null => (typeof flag === 'number' ? flag : YES.test(flag) ? 1 : NO.test(flag) ? 0 : null);

const YES = /^(yes|y|true|t|ja|oui|s[ií]|sim|да)$/i;

const NO = /^(no|n|false|f|nein|non|não|нет)$/i;

/** Nought and one, or one and two: what a flag of two ways mostly holds. */
const isTwoWay = (a: Flag, b: Flag): boolean =>
	typeof a === 'number' && typeof b === 'number' && Math.abs(a - b) === 1 && Math.min(a, b) >= 0 && Math.max(a, b) <= 2;

function wordsOf(counts: Map<Flag, number>): { out: Flag[]; in: Flag[] } | null {
	const words = [...counts.keys()].filter((v) => typeof v === 'string');
	const out = words.filter((v) => isOutWord(v.trim()));
	const incoming = words.filter((v) => isInWord(v.trim()));
	if (out.length === 0 || incoming.length === 0) return null;
	// Further states of either: what could not be sent, what was not read. "Read" goes with the one that has a state before it.
	const rest = words.filter((v) => !out.includes(v) && !incoming.includes(v));
	const [unsent, unread, read] = [UNSENT_WORD, UNREAD_WORD, READ_WORD].map((word) => rest.filter((v) => word.test(v.trim())));
	out.push(...unsent!);
	incoming.push(...unread!);
	if (out.some((v) => ARRIVED_WORD.test(String(v)))) out.push(...read!);
	else if (unread!.length > 0) incoming.push(...read!);
	return { out, in: incoming };
}

const UNSENT_WORD = /^(failed|undelivered|pending|error|queued|waiting)$/i;

const UNREAD_WORD = /^(unread|unseen|new)$/i;

const READ_WORD = /^(read|seen|opened)$/i;

const ARRIVED_WORD = /^delivered$/i;

/** 0–1: how often neighbours in a thread differ, measured against chance. */
function turnTaking(sampled: Sampled[], a: Flag, b: Flag): number {
	const last = new Map<string, Flag>();
	let switches = 0;
	let pairs = 0;
	let ones = 0;
	let n = 0;
	for (const { value, thread } of sampled) {
		if (value !== a && value !== b) continue;
		n++;
		if (value === a) ones++;
		const before = last.get(thread);
		if (before !== undefined) {
			pairs++;
			if (before !== value) switches++;
		}
		last.set(thread, value);
	}
	if (pairs < 3) return 0.5;
	const p = ones / n;
	const chance = 2 * p * (1 - p);
	return chance < 0.02 ? 0 : Math.min(1, switches / pairs / chance) * Math.min(1, chance * 2.5);
}

/**
 * −1 to 1; positive where value a's threads stand alone more: threads in which everything has one value. Each counts by
 * how unlikely that is by chance: of two or three messages in a thread it says next to nothing.
 */
export function oneSided(sampled: Sampled[], a: Flag, b: Flag): number {
	const threads = new Map<string, { a: number; b: number }>();
	const all = { a: 0, b: 0 };
	for (const { value, thread } of sampled) {
		if (value !== a && value !== b) continue;
		const side = value === a ? 'a' : 'b';
		let t = threads.get(thread);
		if (!t) threads.set(thread, (t = { a: 0, b: 0 }));
		t[side]++;
		all[side]++;
	}
	if (threads.size < 3) return 0;
	// Of many threads some are so by chance.
	const surprise = (side: 'a' | 'b', n: number): number => Math.max(0, n * Math.log((all.a + all.b) / all[side]) - Math.log(threads.size));
	let sum = 0;
	for (const t of threads.values()) {
		if (t.a >= 2 && t.b === 0) sum += surprise('a', t.a);
		if (t.b >= 2 && t.a === 0) sum -= surprise('b', t.b);
	}
	const beyond = Math.sign(sum) * Math.max(0, Math.abs(sum) - LITTLE_SURPRISE);
	return Math.max(-1, Math.min(1, beyond / SURE_SURPRISE));
}

/** Natural logarithm of the odds against chance from which one-sided threads count in full. */
const SURE_SURPRISE = 12;

/** And so much happens often enough. */
const LITTLE_SURPRISE = 1.5;

/** Positive where rows with value a have no sender, or one and the same in every thread. */
function senderDifference(reading: MessageReading, context: Context, rows: readonly Row[], flagOf: FlagOf, a: Flag, b: Flag): number {
	const party = (reading.participant ?? reading.sender ?? reading.peer)?.value;
	if (!party) return 0;
	const seen = { a: new Map<string, number>(), b: new Map<string, number>() };
	const empty = { a: 0, b: 0 };
	const count = { a: 0, b: 0 };
	for (const row of rows) {
		const value = flagOf(row);
		const side = value === a ? 'a' : value === b ? 'b' : null;
		if (!side) continue;
		count[side]++;
		const sender = keyOf(cell(row, party, context.tables));
		if (sender === null || sender === 0) empty[side]++;
		else seen[side].set(String(sender), (seen[side].get(String(sender)) ?? 0) + 1);
	}
	if (count.a === 0 || count.b === 0) return 0;
	// Who wrote in rooms is said of what was received alone.
	const named = count.a - empty.a + count.b - empty.b;
	if (party.made?.inRooms && named > 1 && (seen.a.size === 0 || seen.b.size === 0)) return seen.a.size === 0 ? 1 : -1;
	const emptyDifference = empty.a / count.a - empty.b / count.b;
	if (Math.abs(emptyDifference) > 0.4) return emptyDifference;
	const nameless = namelessInRooms(reading, party, context, rows, flagOf);
	const [inRoomsA, inRoomsB] = [nameless.get(a) ?? 0, nameless.get(b) ?? 0];
	// Where nobody is named elsewhere as well, a flag that said the way would have parted those rows too.
	if (inRoomsA + inRoomsB < (empty.a + empty.b) * MOSTLY_IN_ROOMS) return 0;
	// By chance they would be on both sides.
	const chance = (count[inRoomsA > 0 ? 'a' : 'b'] / (count.a + count.b)) ** Math.max(inRoomsA, inRoomsB);
	if (inRoomsA !== inRoomsB && Math.min(inRoomsA, inRoomsB) === 0) return (inRoomsA > 0 ? 1 : -1) * (1 - chance);
	if (seen.a.size === 1 && seen.b.size >= 3) return 1;
	if (seen.b.size === 1 && seen.a.size >= 3) return -1;
	return 0;
}

/** Share of the rows that name nobody which must be of rooms. */
const MOSTLY_IN_ROOMS = 0.2;

/** Rows that name nobody, of conversations in which others name several, by their flag: in a room nobody names himself. */
function namelessInRooms(
	reading: MessageReading,
	party: SheetColumn,
	context: Context,
	rows: readonly Row[],
	flagOf: FlagOf
): Map<Flag | null, number> {
	const found = new Map<Flag | null, number>();
	if ((!reading.thread && !reading.threadJoin) || reading.thread?.value === party) return found;
	const named = new Map<string, Set<Flag>>();
	const nameless: { room: string; flag: Flag | null }[] = [];
	for (const row of rows) {
		const room = threadKeyOf(reading, row, context);
		if (room === '' || room === '0' || room === 'null') continue;
		const who = keyOf(cell(row, party, context.tables));
		if (who === null || who === 0) nameless.push({ room, flag: flagOf(row) });
		else named.set(room, (named.get(room) ?? new Set()).add(who));
	}
	for (const { room, flag } of nameless) if ((named.get(room)?.size ?? 0) > 1) found.set(flag, (found.get(flag) ?? 0) + 1);
	return found;
}

/** Positive where value a is sent: marks that only received messages have (unread, a receiving time later than sent) stand with b. */
const READ_NAMED = /read|seen|gelesen|gesehen|^lu$|le[ií]d[oa]|lett[oa]|lido|visto|прочит|已读|既読/i;

const UNREAD_NAMED = /unread|ungelesen|non_?lu|no_?le[ií]d/i;

const RECEIVED_NAMED = /recei|arriv|eingang|empfang|erhalten|re[cç]u|recib|ricev|receb|ontvang|получ|接收|受信/i;

const DELIVERED_NAMED = /deliver|zugestellt|geliefert|livr[ée]|entreg|consegn|доставл/i;

function receiptDifference(
	reading: MessageReading,
	context: Context,
	rows: readonly Row[],
	column: SheetColumn,
	flagOf: FlagOf,
	a: Flag,
	b: Flag
): number {
	let score = 0;
	for (const other of reading.sheet.columns) {
		if (other === column || other.column < 0 || other === reading.text.value || other === reading.time?.value) continue;
		const name = other.name.split('.').at(-1)!;
		const p = other.profile;
		const isRead = READ_NAMED.test(name) && p.distinct.size <= 3;
		const isReceived = RECEIVED_NAMED.test(name) && p.time;
		const isDelivered = DELIVERED_NAMED.test(name) && (p.time || p.distinct.size <= 4);
		const isEarlier = !isRead && !isReceived && !isDelivered && standsEarlier(other, reading, rows, context);
		if (!isRead && !isReceived && !isDelivered && !isEarlier) continue;
		const rate = { a: 0, b: 0, na: 0, nb: 0 };
		for (const row of rows) {
			const value = flagOf(row);
			const mark = keyOf(cell(row, other, context.tables));
			const set = mark !== null && mark !== 0;
			const unread = UNREAD_NAMED.test(name) ? set : !set;
			const counts = isRead ? unread : set;
			if (value === a) {
				rate.na++;
				if (counts) rate.a++;
			} else if (value === b) {
				rate.nb++;
				if (counts) rate.b++;
			}
		}
		if (!rate.na || !rate.nb) continue;
		let difference = rate.a / rate.na - rate.b / rate.nb;
		// Programs mark all that was sent alike, be it as read or as not: what is marked now so, now so was received.
		const [isMixedA, isMixedB] = [isMixed(rate.a, rate.na), isMixed(rate.b, rate.nb)];
		if (isRead && isMixedA !== isMixedB) difference = Math.abs(difference) * (isMixedA ? 1 : -1);
		// Unread or received rows are incoming; delivery marks are the sender's.
		score += (isDelivered ? difference : -difference) * (isEarlier ? EARLIER_SAYS : 0.8);
	}
	return Math.max(-EARLIER_SAYS, Math.min(EARLIER_SAYS, score));
}

const isMixed = (some: number, all: number): boolean => some > 0 && some < all;

const EARLIER_SAYS = 1.6;

const EARLIER_LEAST = 5;

const EARLIER_SHARE = 0.98;

/** Whether a further time is that of the message, or before it, wherever it stands: when it was sent elsewhere, before it came in. */
function standsEarlier(column: SheetColumn, { time }: MessageReading, rows: readonly Row[], { tables }: Context): boolean {
	const reading = column.profile.time;
	if (!reading || !time) return false;
	let [all, earlier] = [0, 0];
	for (const row of rows) {
		const value = cell(row, column, tables);
		const [at, sent] = [value === 0 ? null : timeOf(value, reading), timeOf(cell(row, time.value, tables), time.reading)];
		if (at === null || sent === null) continue;
		all++;
		if (at <= sent) earlier++;
	}
	return all >= EARLIER_LEAST && earlier >= all * EARLIER_SHARE;
}
