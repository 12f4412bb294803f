/**
 * Gives each sheet and column of a store its role, from the values. Names of tables and columns add a little where
 * they say something and take nothing away where they do not.
 */
import type { Row, Table, Value } from '../model';
import { asideColumn } from './aside';
import { findCompanions, findReply } from './companions';
import { correctColumns, correctedText, correctionFor, roleWanted, type Correction } from './correction';
import { decideDirection, saysWay } from './direction';
import {
	blankReading,
	type Guess,
	type MembersReading,
	type MessageReading,
	type PersonReading,
	type SheetRole,
	type StoreReading,
	type ThreadReading
} from './reading';
import { keyOf, keysOf, referencesOf, type Key, type Reference } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

const TABLE_NAME = -1;
const TEXT_HINT = /(^|[^a-z])(text|body|content|message|msg|caption|txt)([^a-z]|$)/i;
const TIME_HINT = /sent|date|time|stamp|created|when|ts$|^ts/i;
const LATER_HINT = /read|deliver|recei|edit|modif|updat|expire|last|server|seen|play/i;

export interface Context {
	tables: readonly Table[];
	sheets: Sheet[];
	keys: Key[];
	references: Map<Sheet, Reference[]>;
	/** Whose device it is, where the user said so. */
	owner: string | null;
}

/** How much a column is like the texts of messages. */
export function textScore(column: SheetColumn, rows: number): { score: number; why: string[] } {
	const p = column.profile;
	if (p.texts < Math.max(1, p.filled * 0.9) || p.json > 0.3 || p.time || column.column === TABLE_NAME) return { score: -1, why: [] };
	const why: string[] = [];
	const varied = p.many ? 1 : p.distinct.size / Math.max(1, p.texts);
	let score = p.prose * 3 + varied * 1.5 + Math.min(1, p.averageLength / 40);
	score -= (p.phone + p.email + p.uuid + p.mime) * 3 + p.path * 2 + Math.max(0, p.token - 0.5) * 2;
	if (p.prose > 0.3) why.push(`${Math.round(p.prose * 100)} % of its values read as sentences`);
	if (varied > 0.5) why.push(`${p.many ? 'nearly all' : Math.round(varied * 100) + ' %'} of its values differ`);
	if (p.filled < rows * 0.3) score -= 1.5;
	if (TEXT_HINT.test(column.name)) {
		score += 0.8;
		why.push('its name speaks of text');
	}
	if (p.name > 0.85 && p.prose > 0.3 && p.averageLength < 24 && !TEXT_HINT.test(column.name)) score -= 1.2;
	return { score, why };
}

export function bestText(sheet: Sheet): Guess<SheetColumn> | null {
	const ranked = sheet.columns.map((column) => ({ column, ...textScore(column, sheet.sure.length) })).sort((a, b) => b.score - a.score);
	const first = ranked[0];
	if (!first || first.score < 1.1) return null;
	return {
		value: first.column,
		confidence: Math.min(1, first.score / 5),
		evidence: first.why,
		...(ranked[1] && ranked[1].score > 0.5 ? { runnerUp: ranked[1].column.name } : {})
	};
}

/** The time of sending among a sheet's time columns: filled in nearly every row, in the order of the record numbers, earliest in the row. */
export function bestTime(sheet: Sheet, tables: readonly Table[]): MessageReading['time'] {
	const times = sheet.columns.filter((c) => c.profile.time && c.profile.filled >= sheet.sure.length * 0.2);
	if (times.length === 0) return null;
	const scored = times.map((column) => {
		const p = column.profile;
		let score = p.time!.score + (p.filled / Math.max(1, sheet.sure.length)) * 2;
		score += ascending(sheet.sure, column, tables);
		score += Math.min(1, p.distinct.size / Math.max(1, p.filled)) * 0.8;
		const name = column.name.split('.').at(-1)!;
		if (TIME_HINT.test(name)) score += 0.4;
		if (/sent|creat/i.test(name)) score += 0.3;
		if (LATER_HINT.test(name)) score -= 0.7;
		const zeros = p.distinct.get(0) ?? 0;
		score -= (zeros / Math.max(1, p.filled)) * 2;
		return { column, score };
	});
	scored.sort((a, b) => b.score - a.score);
	let best = scored[0]!;
	// Of two equally good ones the earlier within the row is the sending.
	for (const other of scored.slice(1)) {
		if (other.score > best.score - 0.45 && earlier(sheet.sure, other.column, best.column, tables)) best = other;
	}
	const reading = best.column.profile.time!;
	return {
		value: best.column,
		confidence: Math.min(1, best.score / 6),
		evidence: [
			`its values are times as ${reading.label}`,
			`${Math.round((best.column.profile.filled / sheet.sure.length) * 100)} % of the rows have one`
		],
		...(scored.length > 1 ? { runnerUp: scored.find((s) => s !== best)!.column.name } : {}),
		reading
	};
}

function ascending(rows: readonly Row[], column: SheetColumn, tables: readonly Table[]): number {
	let up = 0;
	let pairs = 0;
	let last: number | null = null;
	for (const row of rows.slice(0, 2000)) {
		if (row.standing !== 'kept') continue;
		const value = cell(row, column, tables);
		const n = typeof value === 'number' || typeof value === 'bigint' ? Number(value) : typeof value === 'string' ? Date.parse(value) : NaN;
		if (Number.isNaN(n)) continue;
		if (last !== null) {
			pairs++;
			if (n >= last) up++;
		}
		last = n;
	}
	return pairs > 5 ? up / pairs : 0.5;
}

function earlier(rows: readonly Row[], a: SheetColumn, b: SheetColumn, tables: readonly Table[]): boolean {
	if (a.profile.time!.label !== b.profile.time!.label || a.profile.time!.kind !== 'number') return false;
	let less = 0;
	let more = 0;
	for (const row of rows.slice(0, 1000)) {
		const x = Number(cell(row, a, tables) ?? NaN);
		const y = Number(cell(row, b, tables) ?? NaN);
		if (!(x > 0) || !(y > 0)) continue;
		if (x < y) less++;
		else if (x > y) more++;
	}
	return less > more * 3 && less > 3;
}

export const addressShare = (c: SheetColumn): number => Math.max(c.profile.phone, c.profile.email);

const isHandleLike = (c: SheetColumn): boolean => {
	const p = c.profile;
	return (
		p.texts >= p.filled * 0.9 &&
		p.texts > 0 &&
		!p.time &&
		p.mime < 0.3 &&
		p.uuid < 0.5 &&
		(addressShare(c) > 0.5 || (p.token > 0.8 && p.averageLength >= 2 && p.averageLength < 60))
	);
};

function readPersons(sheet: Sheet, context: Context): PersonReading | null {
	const addresses = sheet.columns.filter(
		(c) =>
			c.profile.filled > 0 &&
			(addressShare(c) > 0.4 || (isHandleLike(c) && /addr|handle|phone|number|mail|jid|login|user|nick/i.test(c.name)))
	);
	const names = sheet.columns
		.filter(
			(c) =>
				c.profile.texts > 0 &&
				c.profile.name > 0.6 &&
				!addresses.includes(c) &&
				c.profile.uuid < 0.3 &&
				c.profile.averageLength >= 2 &&
				c.profile.mime === 0 &&
				!c.profile.time
		)
		.sort((a, b) => nameScore(b) - nameScore(a));
	const via = (context.references.get(sheet) ?? []).find(
		(r) => r.confidence > 0.55 && r.key.sheet !== sheet && addresses.length > 0 && names.length === 0
	);
	if (addresses.length === 0 && names.length === 0) return null;
	addresses.sort((a, b) => addressShare(b) - addressShare(a) || Number(b.profile.unique) - Number(a.profile.unique));
	return { sheet, name: names[0] ?? null, addresses, via: via ? { column: via.from, key: via.key } : null };
}

const nameScore = (c: SheetColumn): number =>
	c.profile.name +
	(/name|nick|title|label/i.test(c.name) ? 0.6 : 0) +
	(c.profile.distinct.size / Math.max(1, c.profile.filled)) * 0.5 +
	c.profile.prose * 0.4 -
	Math.max(0, c.profile.token - 0.7);

/** Reads a whole store. */
export function readStore(
	sheets: Sheet[],
	tables: readonly Table[],
	owner: string | null,
	correction: Correction | null = null
): StoreReading {
	const keys = sheets.flatMap((s) => keysOf(s, tables));
	const references = new Map(sheets.map((s) => [s, referencesOf(s, keys, tables)]));
	const context: Context = { tables, sheets, keys, references, owner };
	const aside = readTextsAside(context);
	const corrected = new Map(sheets.map((s) => [s, correctionFor(s, tables, correction)]));
	const wanted = (s: Sheet): SheetRole | null => roleWanted(corrected.get(s)!);
	const candidates = sheets
		.map((sheet) => ({ sheet, text: bestText(sheet), time: bestTime(sheet, tables) }))
		.filter((c): c is Candidate => c.text !== null && wanted(c.sheet) === null && !aside.has(c.sheet));
	const forced = sheets
		.filter((s) => wanted(s) === 'messages')
		.flatMap((sheet): Candidate[] => {
			const text = correctedText(sheet, corrected.get(sheet)!) ?? sheet.columns.find((c) => c.profile.texts > 0);
			const guess = bestText(sheet) ?? (text ? { value: text, confidence: 1, evidence: ['put right by the user'] } : null);
			return guess ? [{ sheet, text: guess, time: bestTime(sheet, tables) }] : [];
		});
	const chosen = [...forced, ...chooseMessageSheets(candidates, context)];
	const roles = new Map<Sheet, Guess<SheetRole>>();
	for (const { sheet, text, time } of chosen)
		roles.set(sheet, {
			value: 'messages',
			confidence: Math.min(text.confidence, time?.confidence ?? 0.4),
			evidence: [`${sheet.sure.length} rows with a text${time ? ' and a time' : ''}`]
		});
	const messageSheets = new Set(chosen.map((c) => c.sheet));
	const persons: PersonReading[] = [];
	const threads: ThreadReading[] = [];
	const members: MembersReading[] = [];
	const others = sheets.filter((s) => !messageSheets.has(s));
	for (const sheet of others) {
		const person = wanted(sheet) === 'other' ? null : readPersons(sheet, context);
		if (person && wanted(sheet) === 'persons') persons.push(person);
		else if (person && !isJoin(sheet, context) && !looksLikeThreads(sheet, context)) persons.push(person);
	}
	const personSheets = new Set(persons.map((p) => p.sheet));
	const messages = chosen.map((c) => readMessages(c.sheet, c.text, c.time, context, persons));
	for (const m of messages) {
		const entry = corrected.get(m.sheet);
		if (entry) correctColumns(m, entry, references.get(m.sheet) ?? []);
	}
	const threadKeys = new Set(
		messages.flatMap((m) => [m.thread?.key?.sheet, m.threadJoin?.threadKey?.sheet]).filter((s) => s !== undefined)
	);
	for (const sheet of threadKeys) {
		if (!sheet) continue;
		threads.push(readThreadSheet(sheet, context, persons));
		roles.set(sheet, { value: 'threads', confidence: 0.8, evidence: ['messages point to its rows, several to each'] });
	}
	for (const sheet of others) {
		const { rowidColumn } = tables[sheet.tables[0]!]!;
		const refs = (references.get(sheet) ?? []).filter((r) => r.from.column !== rowidColumn);
		const toThread = refs.find((r) => threadKeys.has(r.key.sheet) && r.confidence > 0.4);
		const toPerson = refs.find((r) => personSheets.has(r.key.sheet) && r.confidence > 0.4 && r.from !== toThread?.from);
		const address = sheet.columns.find((c) => addressShare(c) > 0.5);
		if (toThread && (toPerson || address) && !threadKeys.has(sheet)) {
			members.push({
				sheet,
				thread: toThread.from,
				threadKey: toThread.key,
				person: toPerson?.from ?? address!,
				personKey: toPerson?.key ?? null
			});
			roles.set(sheet, { value: 'members', confidence: 0.7, evidence: ['each row joins a thread and a person'] });
		}
	}
	const named = new Set(persons.filter((p) => p.addresses.length === 0).map((p) => p.sheet));
	const free = others.filter(
		(s) => !roles.has(s) && (!personSheets.has(s) || named.has(s)) && !messages.some((m) => m.threadJoin?.sheet === s)
	);
	const companions = findCompanions(free, messages, context);
	for (const c of companions.copies)
		roles.set(c.sheet, {
			value: c.kind === 'history' ? 'histories' : 'copies',
			confidence: 0.7,
			evidence: [c.kind === 'history' ? 'several texts to one message' : 'its texts are those of the messages it names']
		});
	for (const a of companions.attachments)
		roles.set(a.sheet, { value: 'attachments', confidence: 0.7, evidence: ['its rows name files and the messages they belong to'] });
	for (const a of companions.attached)
		roles.set(a.sheet, { value: 'attached', confidence: 0.6, evidence: ['each row names a message: receipts, reactions or the like'] });
	for (const m of messages)
		if (m.threadJoin)
			roles.set(m.threadJoin.sheet, { value: 'message-thread', confidence: 0.8, evidence: ['each row joins a message and a thread'] });
	for (const person of persons)
		if (!roles.has(person.sheet))
			roles.set(person.sheet, {
				value: 'persons',
				confidence: 0.7,
				evidence: [person.addresses.length ? 'its rows have numbers or addresses' : 'its rows have names']
			});
	return {
		sheets: sheets.map((sheet) => ({
			sheet,
			role: roles.get(sheet) ?? { value: 'other', confidence: 0.3, evidence: ['nothing in it reads as messages, persons or threads'] }
		})),
		messages,
		persons,
		threads,
		members,
		...companions
	};
}

/** Gives sheets of messages whose texts stand in another one a column that reads them; those others. */
function readTextsAside(context: Context): Set<Sheet> {
	const found = new Set<Sheet>();
	const { sheets, references, tables } = context;
	const timed = new Map(sheets.map((s) => [s, bestTime(s, tables) !== null]));
	const texts = sheets.flatMap((sheet) => {
		const text = timed.get(sheet) ? null : bestText(sheet);
		return text ? [{ sheet, text: text.value }] : [];
	});
	for (const sheet of sheets) {
		if (!timed.get(sheet) || texts.length === 0 || bestText(sheet)) continue;
		for (const one of texts) {
			const column = one.sheet === sheet || found.has(one.sheet) ? null : asideColumn(sheet, one, references, tables);
			if (!column) continue;
			sheet.columns.push(column);
			found.add(one.sheet);
			break;
		}
	}
	return found;
}

function isJoin(sheet: Sheet, context: Context): boolean {
	// A row's own number is no reference, though others have the same.
	const { rowidColumn } = context.tables[sheet.tables[0]!]!;
	const strong = (context.references.get(sheet) ?? []).filter((r) => r.confidence > 0.5 && r.from.column !== rowidColumn);
	return new Set(strong.map((r) => r.from)).size >= 2 && sheet.columns.length <= 4;
}

type Candidate = { sheet: Sheet; text: Guess<SheetColumn>; time: MessageReading['time'] };

/**
 * Of the sheets with writing in them, those that are messages: not the threads whose rows only repeat the last
 * text, not notes with nobody to whom, not copies of another sheet's texts (a search index, a history of edits).
 */
function chooseMessageSheets(candidates: Candidate[], context: Context): Candidate[] {
	const weight = (c: Candidate): number => {
		const text = textScore(c.text.value, c.sheet.sure.length).score;
		const social = socialScore(c, context);
		return text + (c.time ? 1.5 : -0.5) + social + Math.min(1.2, Math.log10(c.sheet.sure.length + 1) * 0.4);
	};
	const ranked = candidates.map((c) => ({ c, w: weight(c) })).sort((a, b) => b.w - a.w);
	const best = ranked[0];
	if (!best) return [];
	const chosen: Candidate[] = [];
	for (const { c, w } of ranked) {
		if (w < 3.2 && !(c === best.c && w > 2.2)) continue;
		if (c !== best.c && !c.time && best.c.time) continue;
		if (c !== best.c && socialScore(c, context) < 0.5) continue;
		const referencedByMessages = chosen.some((m) =>
			(context.references.get(m.sheet) ?? []).some(
				(r) => r.key.sheet === c.sheet && r.confidence > 0.6 && m.sheet.sure.length > c.sheet.sure.length
			)
		);
		if (referencedByMessages) continue;
		if (chosen.some((m) => repeats(c, m, context))) continue;
		chosen.push(c);
	}
	return chosen;
}

/** Whether the rows say who with: a flag, a sender, a thread. */
function socialScore(c: Candidate, context: Context): number {
	let score = 0;
	const refs = context.references.get(c.sheet) ?? [];
	if (refs.some((r) => r.confidence > 0.5 && r.from.profile.distinct.size < c.sheet.sure.length * 0.8)) score += 1;
	if (
		c.sheet.columns.some(
			(x) => x !== c.text.value && addressShare(x) > 0.4 && x.profile.distinct.size <= Math.max(3, c.sheet.sure.length * 0.8)
		)
	)
		score += 1.2;
	if (c.sheet.columns.some((x) => x.column === TABLE_NAME)) score += 0.8;
	if (c.sheet.columns.some((x) => x !== c.text.value && x.profile.ints > 0 && x.profile.distinct.size >= 2 && x.profile.distinct.size <= 6))
		score += 0.4;
	if (c.sheet.columns.some((x) => x !== c.text.value && isHandleLike(x) && x.profile.distinct.size < c.sheet.sure.length * 0.5))
		score += 0.5;
	return score;
}

/** Whether most of c's texts are also m's: a copy, or a history of earlier wordings. */
function repeats(c: Candidate, m: Candidate, context: Context): boolean {
	const texts = new Set<string>();
	for (const row of m.sheet.rows) {
		const text = cell(row, m.text.value, context.tables);
		if (typeof text === 'string') texts.add(text);
	}
	let same = 0;
	let all = 0;
	for (const row of c.sheet.sure.slice(0, 2000)) {
		const text = cell(row, c.text.value, context.tables);
		if (typeof text !== 'string' || text.length < 6) continue;
		all++;
		if (texts.has(text)) same++;
	}
	if (all > 0 && same / all > 0.6) return true;
	// A history: its rows point to messages, several to one.
	return (context.references.get(c.sheet) ?? []).some(
		(r) => r.key.sheet === m.sheet && r.confidence > 0.7 && c.sheet.sure.length < m.sheet.sure.length * 0.5
	);
}

function readMessages(
	sheet: Sheet,
	text: Guess<SheetColumn>,
	time: MessageReading['time'],
	context: Context,
	persons: PersonReading[]
): MessageReading {
	const refs = (context.references.get(sheet) ?? []).filter((r) => r.from !== text.value && r.from !== time?.value);
	const personSheets = new Set(persons.map((p) => p.sheet));
	const used = new Set<SheetColumn>([text.value, ...(time ? [time.value] : [])]);
	const best = new Map<SheetColumn, Reference>();
	for (const r of refs) if (!best.has(r.from) && r.confidence >= 0.45 && !isJoin(r.key.sheet, context)) best.set(r.from, r);
	type Party = Guess<SheetColumn> & { key: Key | null };
	const parties: Party[] = [];
	for (const [column, r] of best) {
		if (personSheets.has(r.key.sheet))
			parties.push({
				value: column,
				key: r.key,
				confidence: r.confidence,
				evidence: [`${Math.round(r.inclusion * 100)} % of its values name rows of ${r.key.sheet.name}`]
			});
	}
	for (const column of sheet.columns) {
		if (used.has(column) || parties.some((p) => p.value === column) || column.column < 0) continue;
		if (addressShare(column) > 0.4)
			parties.push({ value: column, key: null, confidence: addressShare(column), evidence: ['its values are numbers or addresses'] });
	}
	if (parties.length < 2) parties.push(...namedPair(sheet, used, parties, context));
	if (parties.length === 0) {
		const handle = sheet.columns.find(
			(c) =>
				!used.has(c) &&
				c.column >= 0 &&
				isHandleLike(c) &&
				!c.profile.many &&
				c.profile.distinct.size > 1 &&
				c.profile.distinct.size <= sheet.sure.length * 0.6 &&
				!/type|kind|state|status|mime|dir/i.test(c.name) &&
				c.profile.averageLength > 3
		);
		if (handle) parties.push({ value: handle, key: null, confidence: 0.5, evidence: ['its values recur and are written like handles'] });
	}
	const beside = parties.length === 0 ? writerBesidePeer(sheet, used, context) : null;
	if (beside)
		parties.push({
			value: beside.peer,
			key: null,
			confidence: 0.7,
			evidence: ['its values recur, and stand as writers in another column']
		});
	if (parties.length === 0) {
		const number = sheet.columns.find((c) => !used.has(c) && c.column >= 0 && isLongNumber(c, sheet));
		if (number)
			parties.push({ value: number, key: null, confidence: 0.5, evidence: ['its values are as long as telephone numbers, and recur'] });
	}
	let thread: MessageReading['thread'] = null;
	for (const [column, r] of best) {
		if (personSheets.has(r.key.sheet)) continue;
		if (column.profile.distinct.size > sheet.sure.length * 0.8 && sheet.sure.length > 10) continue;
		if (!thread || r.confidence > thread.confidence)
			thread = {
				value: column,
				key: r.key,
				confidence: r.confidence,
				evidence: [`${Math.round(r.inclusion * 100)} % of its values name rows of ${r.key.sheet.name}`]
			};
	}
	if (thread) {
		const index = parties.findIndex((p) => p.value === thread!.value);
		if (index >= 0) parties.splice(index, 1);
	}
	const tableColumn = sheet.columns.find((c) => c.column === TABLE_NAME);
	if (!thread && tableColumn && !mixedParties(sheet, parties[0]?.value ?? null, context))
		thread = { value: tableColumn, key: null, confidence: 0.8, evidence: ['each table holds one thread'] };
	const threadJoin = thread ? null : findThreadJoin(sheet, context, personSheets, parties.length === 0);
	if (!thread && !threadJoin) {
		const loose = sheet.columns.find(
			(c) =>
				!used.has(c) &&
				!parties.some((p) => p.value === c) &&
				c.column >= 0 &&
				isThreadKey(c, sheet) &&
				!repeatsParty(c, parties, sheet, context) &&
				holdsTogether(c, parties, sheet, context)
		);
		if (loose)
			thread = { value: loose, key: null, confidence: 0.5, evidence: ['its values recur over stretches of rows, as a thread number does'] };
	}
	const reading: MessageReading = { ...blankReading(sheet, text, time), thread, threadJoin };
	assignParties(reading, parties, context);
	reading.guid = sheet.columns.find((c) => c.profile.uuid > 0.8 && c.profile.unique) ?? null;
	let direction = decideDirection(reading, context);
	if (beside && direction.confidence < 0.95)
		direction = {
			value: { kind: 'sender', column: beside.writer, owner: [beside.owner] },
			confidence: 0.9,
			evidence: [`the writer is the other side, or ${beside.owner}: the owner`],
			runnerUp: direction.value.kind
		};
	reading.direction = direction;
	const self = !reading.sender && reading.peer ? ownWriter(reading, context) : null;
	if (self !== null) {
		const rule = { kind: 'sender' as const, column: reading.peer!.value, owner: [self] };
		reading.direction = {
			...direction,
			value: rule,
			evidence: [...direction.evidence, 'all of the sent rows have one writer, and no received row has that one']
		};
	}
	if (reading.direction.value.kind === 'sender' && !reading.sender && reading.peer) {
		reading.sender = reading.peer;
		reading.peer = null;
	}
	reading.deleted = findDeletedFlag(reading, context);
	reading.otherKinds = findOtherKinds(reading, context);
	reading.replyTo = findReply(reading, context.tables);
	return reading;
}

/**
 * A sheet of threads rather than persons: a join leads from it to persons, or it points to them itself, or its rows
 * mostly have no title. A sheet with an address of its own in each row is one of persons.
 */
function looksLikeThreads(sheet: Sheet, context: Context): boolean {
	if (sheet.columns.some((c) => addressShare(c) > 0.6 && c.profile.unique && c.profile.filled > sheet.sure.length * 0.6)) return false;
	// A row's own number is no reference, though others have the same.
	const { rowidColumn } = context.tables[sheet.tables[0]!]!;
	const own = (context.references.get(sheet) ?? []).some(
		(r) => r.confidence > 0.6 && r.key.sheet !== sheet && r.from.column !== rowidColumn
	);
	const joined = context.sheets.some((s) => {
		if (s === sheet || !isJoin(s, context)) return false;
		const refs = (context.references.get(s) ?? []).filter((r) => r.confidence > 0.5);
		if (!refs.some((r) => r.key.sheet === sheet)) return false;
		// A join has two ends: the one whose rows all have a name is that of persons, where the other's have none.
		const others = refs.filter((r) => r.key.sheet !== sheet).map((r) => r.key.sheet);
		return others.length === 0 || !(isNamed(sheet) && others.every((o) => !isNamed(o)));
	});
	const untitled = sheet.columns.every(
		(c) => c.profile.texts === 0 || c.profile.filled < sheet.sure.length * 0.6 || c.profile.uuid > 0.6 || c.profile.json > 0.5
	);
	return own || joined || untitled || /thread|chat|conv|room|dialog|session/i.test(sheet.name);
}

/** Whether (nearly) every row has a name of its own. */
const isNamed = (sheet: Sheet): boolean =>
	sheet.columns.some(
		(c) =>
			c.profile.texts > 0 &&
			c.profile.name > 0.6 &&
			c.profile.uuid < 0.3 &&
			c.profile.filled > sheet.sure.length * 0.8 &&
			c.profile.distinct.size > sheet.sure.length * 0.8 &&
			c.profile.token < 0.9
	);

/** Two columns of which one and the same value stands in one or the other of every row: who wrote, and to whom. */
function namedPair(
	sheet: Sheet,
	used: ReadonlySet<SheetColumn>,
	known: readonly NonNullable<MessageReading['peer']>[],
	context: Context
): NonNullable<MessageReading['peer']>[] {
	if (known.some((p) => p.key !== null) || known.length > 1) return [];
	const recurs = (c: SheetColumn): boolean => {
		const p = c.profile;
		if (used.has(c) || c.column < 0 || p.time || p.many || p.reals > 0 || p.blobs > 0 || p.filled < sheet.sure.length * 0.9) return false;
		if (p.distinct.size < 2 || p.distinct.size > sheet.sure.length * 0.6 || p.mime > 0.2 || p.averageLength > 60) return false;
		return PAIR_NAME.test(c.name.split('.').at(-1)!);
	};
	const columns = sheet.columns.filter(recurs);
	for (const a of columns)
		for (const b of columns) {
			if (a === b || sheet.columns.indexOf(a) > sheet.columns.indexOf(b)) continue;
			if (ownerOfPair(sheet, a, b, context) === null) continue;
			const party = (value: SheetColumn): NonNullable<MessageReading['peer']> => ({
				value,
				key: null,
				confidence: 0.6,
				evidence: ['one and the same value stands in it or in the column beside it']
			});
			return [a, b].filter((c) => !known.some((k) => k.value === c)).map(party);
		}
	return [];
}

const PAIR_NAME =
	/^(from|to|src|dst|dest|sender|receiver|recipient|author|addressee|source|target|destination)([_.\s-]?(id|name|key|user|who|person|uid|addr|address))?$|send|recip|recei|author/i;

function isThreadKey(c: SheetColumn, sheet: Sheet): boolean {
	const p = c.profile;
	if (p.time || p.many || p.reals > 0 || p.blobs > 0 || p.filled < sheet.sure.length * 0.9 || p.prose > 0.3) return false;
	if (p.distinct.size <= 8 && [...p.distinct.keys()].some((v) => typeof v === 'string' && saysWay(v))) return false;
	if (p.distinct.size < 3 || p.distinct.size > Math.max(3, sheet.sure.length * 0.4))
		return /thread|chat|conv|room/i.test(c.name) && p.distinct.size <= sheet.sure.length * 0.6;
	return (
		(p.ints > 0 && /thread|chat|conv|room|peer|group/i.test(c.name)) ||
		(p.texts > 0 && p.averageLength > 5 && p.token > 0.9 && p.mime === 0 && p.path < 0.5) ||
		(p.ints > 0 && p.distinct.size >= 6)
	);
}

/** A column of names in which each row has the other side or one and the same writer, and the column of that other side. */
function writerBesidePeer(
	sheet: Sheet,
	used: ReadonlySet<SheetColumn>,
	context: Context
): { peer: SheetColumn; writer: SheetColumn; owner: string | number } | null {
	const recurs = (c: SheetColumn): boolean =>
		!used.has(c) &&
		c.column >= 0 &&
		!c.profile.time &&
		!c.profile.many &&
		c.profile.texts > 0 &&
		c.profile.averageLength < 60 &&
		c.profile.distinct.size >= 2 &&
		c.profile.distinct.size <= sheet.sure.length * 0.6;
	const columns = sheet.columns.filter(recurs);
	const rows = sheet.sure.slice(0, 2000);
	for (const peer of columns)
		for (const writer of columns) {
			if (peer === writer) continue;
			let same = 0;
			const others = new Map<string | number, number>();
			for (const row of rows) {
				const a = keyOf(cell(row, peer, context.tables));
				const b = keyOf(cell(row, writer, context.tables));
				if (a === null || b === null) continue;
				if (a === b) same++;
				else others.set(b, (others.get(b) ?? 0) + 1);
			}
			const [owner] = others.keys();
			if (others.size === 1 && same > rows.length * 0.1 && same < rows.length * 0.95 && !peer.profile.distinct.has(owner!))
				return { peer, writer, owner: owner! };
		}
	return null;
}

/** Whole numbers of nine to fifteen digits that recur and are no times: telephone numbers, or a service's own. */
function isLongNumber(c: SheetColumn, sheet: Sheet): boolean {
	const p = c.profile;
	if (p.time || p.texts > 0 || p.blobs > 0 || p.reals > 0 || p.ints === 0 || p.many || p.filled < sheet.sure.length * 0.9) return false;
	if (/size|byte|len|dur|width|height|hash|time|date|stamp/i.test(c.name)) return false;
	return p.low >= 1e8 && p.high < 1e15 && p.distinct.size >= 2 && p.distinct.size <= sheet.sure.length * 0.6;
}

/** Whether the rows of one value have one party, for enough of the values: a thread's have, a running number's have not. */
function holdsTogether(c: SheetColumn, parties: readonly NonNullable<MessageReading['peer']>[], sheet: Sheet, context: Context): boolean {
	const party = parties.find((p) => addressShare(p.value) > 0.4 || p.key !== null);
	if (!party) return true;
	const perValue = new Map<string | number, { parties: Set<string | number>; rows: number }>();
	for (const row of sheet.sure.slice(0, 4000)) {
		const value = keyOf(cell(row, c, context.tables));
		const who = keyOf(cell(row, party.value, context.tables));
		if (value === null || who === null) continue;
		const seen = perValue.get(value);
		if (seen) {
			seen.parties.add(who);
			seen.rows++;
		} else perValue.set(value, { parties: new Set([who]), rows: 1 });
	}
	const several = [...perValue.values()].filter((v) => v.rows > 1);
	return several.length === 0 || several.filter((v) => v.parties.size <= 2).length >= several.length * 0.4;
}

/** Whether a column often holds what the party's column of the same row holds: then it says who wrote, and no thread. */
function repeatsParty(c: SheetColumn, parties: readonly NonNullable<MessageReading['peer']>[], sheet: Sheet, context: Context): boolean {
	const rows = sheet.sure.slice(0, 2000);
	return parties.some((p) => {
		const same = rows.filter((row) => {
			const value = keyOf(cell(row, c, context.tables));
			return value !== null && value === keyOf(cell(row, p.value, context.tables));
		});
		return same.length > rows.length * 0.2;
	});
}

/** `toPersons`: where nothing in the row says with whom, a join may say it. */
function findThreadJoin(sheet: Sheet, context: Context, personSheets: Set<Sheet>, toPersons: boolean): MessageReading['threadJoin'] {
	for (const join of context.sheets) {
		if (join === sheet || join.columns.length > 5) continue;
		const refs = context.references.get(join) ?? [];
		const toMessage = refs.find((r) => r.key.sheet === sheet && r.from.profile.distinct.size > join.sure.length * 0.8);
		if (!toMessage) continue;
		const toThread = refs.find(
			(r) => r.from !== toMessage.from && r.key.sheet !== sheet && r.from.profile.distinct.size < join.sure.length * 0.8
		);
		if (toThread && (toPersons || !personSheets.has(toThread.key.sheet) || looksLikeThreads(toThread.key.sheet, context)))
			return { sheet: join, message: toMessage.from, thread: toThread.from, messageKey: toMessage.key, threadKey: toThread.key };
	}
	return null;
}

/** Whether the tables of a family each hold several parties: then they are boxes, not threads. */
function mixedParties(sheet: Sheet, party: SheetColumn | null, context: Context): boolean {
	if (!party || !sheet.family) return false;
	const perTable = new Map<number, Set<string | number>>();
	for (const row of sheet.sure.slice(0, 5000)) {
		const key = keyOf(cell(row, party, context.tables));
		if (key === null || !row.tableKnown) continue;
		const set = perTable.get(row.table);
		if (set) set.add(key);
		else perTable.set(row.table, new Set([key]));
	}
	const sizes = [...perTable.values()].map((s) => s.size);
	return sizes.length <= 6 && sizes.some((n) => n >= 3);
}

/**
 * The owner as a writer, where the party column holds who wrote rather than the other side: sent rows have one value,
 * which no received row has. It is told only where there is a thread to say whom the sent ones went to.
 */
function ownWriter(reading: MessageReading, context: Context): string | number | null {
	const rule = reading.direction.value;
	if (rule.kind !== 'flag' || (!reading.thread && !reading.threadJoin)) return null;
	const sent = new Map<string | number, number>();
	const received = new Set<string | number>();
	for (const row of reading.sheet.sure.slice(0, 4000)) {
		const flag = keyOf(cell(row, rule.column, context.tables));
		const value = keyOf(cell(row, reading.peer!.value, context.tables));
		if (flag === null || value === null) continue;
		if (rule.out.includes(flag)) sent.set(value, (sent.get(value) ?? 0) + 1);
		else if (rule.in.includes(flag)) received.add(value);
	}
	const [only] = sent.keys();
	return sent.size === 1 && received.size >= 1 && !received.has(only!) && sent.get(only!)! > 2 ? only! : null;
}

/** One party column is the peer, or the sender; two are sender and recipient. */
function assignParties(reading: MessageReading, parties: MessageReading['peer'][], context: Context): void {
	const [first, second] = parties.filter((p) => p !== null).sort((a, b) => partyRank(b!) - partyRank(a!));
	if (!first) return;
	if (second && second.key?.sheet === first.key?.sheet) {
		const a = ownerOfPair(reading.sheet, first.value, second.value, context);
		if (a !== null) {
			const senderFirst =
				/from|send|author|src|origin/i.test(first.value.name) ||
				/to|recip|dest|dst/i.test(second.value.name) ||
				reading.sheet.columns.indexOf(first.value) < reading.sheet.columns.indexOf(second.value);
			const swap =
				/^(to|recip|dest|dst)|_to$/i.test(first.value.name) ||
				(/from|send|author/i.test(second.value.name) && !/from|send|author/i.test(first.value.name));
			reading.sender = swap || !senderFirst ? second : first;
			reading.recipient = reading.sender === first ? second : first;
			return;
		}
	}
	reading.peer = first;
	// A second party that stands only in some rows is the writer in a group, and the first the group.
	if (
		second &&
		second.value.profile.filled < reading.sheet.sure.length * 0.7 &&
		first.value.profile.filled > reading.sheet.sure.length * 0.9
	)
		reading.participant = second;
}

const partyRank = (p: NonNullable<MessageReading['peer']>): number =>
	p.confidence + (/peer|address|handle|sender|from|author|person|contact|user|who/i.test(p.value.name) ? 0.3 : 0) + (p.key ? 0.1 : 0);

/** The one value that stands in one of two columns of (nearly) every row: the owner. */
export function ownerOfPair(sheet: Sheet, a: SheetColumn, b: SheetColumn, context: Pick<Context, 'tables'>): string | number | null {
	// What is the same in every row is a state rather than somebody, unless its name says that it is.
	if ([a, b].some((c) => c.profile.distinct.size < 2 && !PAIR_NAME.test(c.name.split('.').at(-1)!))) return null;
	const counts = new Map<string | number, number>();
	let rows = 0;
	let different = 0;
	for (const row of sheet.sure.slice(0, 4000)) {
		const x = keyOf(cell(row, a, context.tables) as Value);
		const y = keyOf(cell(row, b, context.tables) as Value);
		if (x === null && y === null) continue;
		rows++;
		if (x !== y) different++;
		for (const v of new Set([x, y])) if (v !== null) counts.set(v, (counts.get(v) ?? 0) + 1);
	}
	const [best] = [...counts].sort((p, q) => q[1] - p[1]);
	return best && rows > 0 && best[1] >= rows * 0.9 && different > rows * 0.5 ? best[0] : null;
}

function readThreadSheet(sheet: Sheet, context: Context, persons: PersonReading[]): ThreadReading {
	const personSheets = new Set(persons.map((p) => p.sheet));
	const { rowidColumn } = context.tables[sheet.tables[0]!]!;
	const ref = (context.references.get(sheet) ?? []).find(
		(r) => personSheets.has(r.key.sheet) && r.key.sheet !== sheet && r.confidence > 0.5 && r.from.column !== rowidColumn
	);
	const address = sheet.columns.find((c) => addressShare(c) > 0.4);
	const titles = sheet.columns
		.filter((c) => c.profile.texts > 0 && c.profile.name > 0.5 && addressShare(c) < 0.3 && c.profile.uuid < 0.3 && c !== address)
		.sort((a, b) => nameScore(b) - nameScore(a));
	return {
		sheet,
		title: titles[0] ?? null,
		peer: ref ? { column: ref.from, key: ref.key } : address ? { column: address, key: null } : null
	};
}

const NOT_A_MESSAGE =
	/^(call|calls|voip|missed|system|sys|notice|notification|info|event|join|leave|status|meta|service|control|receipt|reaction|typing)$/i;

/**
 * A column that says of what kind a row is: where rows with one of its values never hold writing while others do, or
 * the value itself names something that is no message.
 */
function findOtherKinds(reading: MessageReading, context: Context): MessageReading['otherKinds'] {
	const direction = reading.direction.value;
	for (const column of reading.sheet.columns) {
		const p = column.profile;
		if (column === reading.text.value || column.column < 0 || p.time || p.many || p.distinct.size < 2 || p.distinct.size > 12) continue;
		if ('column' in direction && direction.column === column) continue;
		const stats = new Map<string | number, { rows: number; prose: number }>();
		for (const row of reading.sheet.sure.slice(0, 8000)) {
			const kind = keyOf(cell(row, column, context.tables));
			if (kind === null) continue;
			const text = cell(row, reading.text.value, context.tables);
			const s = stats.get(kind) ?? { rows: 0, prose: 0 };
			s.rows++;
			if (typeof text === 'string' && /\p{L}{2}|\p{Extended_Pictographic}|[\u3040-\u9fff]/u.test(text)) s.prose++;
			stats.set(kind, s);
		}
		const some = [...stats.values()].some((s) => s.rows >= 5 && s.prose > s.rows * 0.7);
		const others = [...stats]
			.filter(([kind, s]) => (s.rows >= 4 && s.prose < s.rows * 0.05) || (typeof kind === 'string' && NOT_A_MESSAGE.test(kind)))
			.map(([kind]) => kind);
		if (some && others.length > 0 && others.length < stats.size) {
			return { value: { column, values: others }, confidence: 0.7, evidence: [`rows with ${others.join(', ')} hold no writing`] };
		}
	}
	return null;
}

const DELETED_HINT = /delet|trash|recycl|remov|(^|_)bin(ned)?(_|$)|tomb|gone|hidden/i;

/** A flag by whose name the store marks messages deleted but kept. Only a name says so; values alone never do. */
function findDeletedFlag(reading: MessageReading, context: Context): MessageReading['deleted'] {
	for (const column of reading.sheet.columns) {
		if (!DELETED_HINT.test(column.name) || column === reading.text.value || column === reading.time?.value) continue;
		const p = column.profile;
		const kept = reading.sheet.rows.filter((r) => r.standing === 'kept');
		if (p.time || (p.ints > 0 && p.distinct.size > 8)) {
			const values = [...p.distinct.keys()].filter((v) => v !== 0);
			return { value: { column, values }, confidence: 0.7, evidence: ['its name says deletion and its values are times'] };
		}
		if (p.ints === 0 || p.distinct.size > 4) continue;
		const marked = [...p.distinct.keys()].filter((v) => v !== 0 && v !== '0');
		const share = kept.filter((r) => marked.includes(keyOf(cell(r, column, context.tables)) ?? 0)).length / Math.max(1, kept.length);
		if (marked.length > 0 && share < 0.6)
			return {
				value: { column, values: marked },
				confidence: 0.7,
				evidence: ['its name says deletion', `${Math.round(share * 100)} % of the rows in use are so marked`]
			};
	}
	return null;
}
