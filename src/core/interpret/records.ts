/**
 * The reading of exported records (JSON, XML, CSV, HTML): as a store's, but who writes is judged anew. An export is
 * often one conversation with the writer's name on each message, which no store is.
 */
import { isCalled } from '../called';
import { FILE_COLUMN, HEADING_FIELD, type ExportHarvest } from '../harvest';
import type { Row, Table } from '../model';
import { isInWord, isOutWord, saysWay } from '../way-words';
import { decideDirection } from './direction';
import { BY_USER, isCalledAfter, isSelf, ownerAmong } from './exported';
import { blankReading, type DirectionRule, type MessageReading, type StoreReading } from './reading';
import { FROM_WHOM, TO_WHOM } from './party-words';
import { keyOf, textsIn } from './refs';
import { addressShare, bestText, bestTime } from './columns';
import { ownerOfPair } from './parties';
import { readStore } from './roles';
import { cell, sheetsOf, type SheetColumn } from './sheet';
import { timeOf } from './time';

/** Whose device an export is from: by the user's word, and by what the file is called. */
export interface OwnerHints {
	asked: readonly string[];
	title: string;
}

export function readRecords(harvest: ExportHarvest, hints: OwnerHints): StoreReading | null {
	const sheets = sheetsOf(harvest);
	const reading = readStore(sheets, harvest.tables, hints.asked);
	if (reading.messages.length === 0) {
		const best = sheets
			.filter((sheet) => !reading.refused.has(sheet))
			.map((sheet) => ({ sheet, text: bestText(sheet), time: bestTime(sheet, harvest.tables) }))
			.filter((c) => c.text !== null && c.time !== null)
			.sort((a, b) => b.sheet.rows.length - a.sheet.rows.length)[0];
		if (!best) return null;
		reading.messages.push(blankReading(best.sheet, best.text!, best.time));
	}
	// One entry alone, and what stands in a file but once, are no conversation.
	reading.messages = reading.messages.filter((m) => m.time !== null && m.sheet.rows.length > 1);
	reading.messages = reading.messages.filter((m) => !namesAlone(m, reading.messages));
	for (const m of reading.messages) new Parties(m, reading, harvest, hints).settle();
	reading.messages = reading.messages.filter((m) => m.sender ?? m.peer ?? m.recipient);
	return reading.messages.length > 0 ? reading : null;
}

/** Who writes in records of messages, as stored; null where none are. */
export function writersIn(reading: StoreReading, tables: readonly Table[]): Set<string> | null {
	const read = reading.messages.filter((m) => m.sender !== null);
	if (read.length === 0) return null;
	return new Set(
		read
			.flatMap((m) => m.sheet.rows.map((row) => keyOf(cell(row, m.sender!.value, tables))))
			.filter((w) => w !== null)
			.map(String)
	);
}

/** Whether what was taken for a text are names that stand beside another sheet's messages: a list of calls has such. */
function namesAlone(m: MessageReading, all: readonly MessageReading[]): boolean {
	const { profile: p } = m.text.value;
	if (p.many || p.distinct.size === 0) return false;
	return all.some(
		(other) =>
			other !== m &&
			other.sheet.columns.some(
				(c) => c !== other.text.value && !c.profile.many && [...p.distinct.keys()].every((v) => c.profile.distinct.has(v))
			)
	);
}

const SAMPLE = 4000;
const DAY = 86_400_000;
/** Share of rows that a rule must hold for. */
const MOSTLY = 0.95;

class Parties {
	private readonly rows: readonly Row[];

	constructor(
		private readonly m: MessageReading,
		private readonly reading: StoreReading,
		private readonly harvest: ExportHarvest,
		private readonly hints: OwnerHints
	) {
		this.rows = m.sheet.sure.slice(0, SAMPLE);
	}

	settle(): void {
		const { m } = this;
		const several = this.candidates();
		const found = several.length > 0 ? several : this.candidates(true);
		// A name and a number of the same person are one party: the number, with the name beside it.
		const parties = found.filter((c) => addressShare(c) > 0.4 || !found.some((a) => addressShare(a) > 0.4 && this.says(a, c)));
		for (const address of found.filter((c) => addressShare(c) > 0.4)) {
			const name = found.find((c) => c !== address && addressShare(c) <= 0.4 && this.says(address, c));
			if (name) this.reading.persons.push({ sheet: m.sheet, names: [name], addresses: [address], via: null });
		}
		if (parties.length > 0) this.assign(parties);
		this.nameInside();
		const thread = m.thread?.value;
		const stray =
			thread !== undefined &&
			(thread.name === FILE_COLUMN ||
				this.isDay(thread) ||
				found.includes(thread) ||
				this.isPersonKey(thread) ||
				(isList(thread) && this.isStretch(thread)));
		if (!m.thread || stray) this.wholeFile();
		this.membersOfThreads();
		this.byThreads();
	}

	/** Of a writer that is an object with a key and a name the name is the one within it, whatever else stands beside its key. */
	private nameInside(): void {
		const { m, reading } = this;
		const who = m.sender?.value;
		const inside = who && /^(.+\.)[^.]+$/.exec(who.name)?.[1];
		const name = inside && m.sheet.columns.find((c) => c !== who && c.name.startsWith(inside) && CALLED.test(c.name.slice(inside.length)));
		if (!name || !this.says(who, name)) return;
		reading.persons = reading.persons.filter((p) => p.sheet !== m.sheet || p.addresses[0] !== who);
		reading.persons.unshift({ sheet: m.sheet, names: [name], addresses: [who], via: null });
	}

	/** A list of conversations that lists who takes part in each, as the writers are called. */
	private membersOfThreads(): void {
		const { m } = this;
		const key = m.thread?.key;
		const list = key && this.reading.threads.find((t) => t.sheet === key.sheet);
		if (!key || !list || list.list || !m.sender) return;
		const wrote = new Map<string, Set<string>>();
		for (const row of this.rows) {
			const thread = this.value(row, m.thread!.value);
			const writer = this.value(row, m.sender.value);
			if (thread === null || writer === null) continue;
			wrote.set(String(thread), (wrote.get(String(thread)) ?? new Set()).add(String(writer)));
		}
		const column = list.sheet.columns.find((c) => {
			if (c.profile.json < MOSTLY || c === key.column) return false;
			const held = list.sheet.rows.filter((row) => {
				const members = textsIn(cell(row, c, this.harvest.tables));
				const writers = wrote.get(String(key.column ? this.value(row, key.column) : row.rowid));
				return members.length > 0 && [...(writers ?? [])].every((w) => members.includes(w));
			});
			return held.length >= list.sheet.rows.length * MOSTLY && list.sheet.rows.length > 1;
		});
		if (column) list.list = { column, key: null };
	}

	/** Where nothing else says it: whoever writes in every thread is the owner. */
	private byThreads(): void {
		const { m } = this;
		if (m.direction.value.kind !== 'unknown' || !m.sender || !m.thread) return;
		const told = decideDirection(m, { tables: this.harvest.tables, sheets: [], keys: [], references: new Map(), owner: [] });
		if (told.value.kind === 'sender') m.direction = told;
	}

	/** Columns with names or addresses that come back; `alone`: also one of a single name, where only one wrote. */
	private candidates(alone = false): SheetColumn[] {
		const { m } = this;
		const rows = m.sheet.sure.length;
		return m.sheet.columns.filter((c) => {
			const p = c.profile;
			if (
				c === m.text.value ||
				c === m.time?.value ||
				c.column < 0 ||
				p.time ||
				this.isDay(c) ||
				c.name === FILE_COLUMN ||
				c.name === HEADING_FIELD
			)
				return false;
			if (p.texts < p.filled * 0.9 || p.filled < rows * 0.2 || p.many || p.mime > 0.2 || p.averageLength > 60) return false;
			if (p.distinct.size > Math.max(2, rows * 0.6) && !(p.distinct.size < rows && isOfWriters(c))) return false;
			if (this.isPersonKey(c) || [...p.distinct.keys()].every((v) => saysWay(String(v)) || YES_OR_NO.test(String(v)))) return false;
			if (addressShare(c) > 0.4) return true;
			// Some are known by name, others by number only.
			if (c.name === '@class' || p.uuid > 0.3 || p.path > 0.5 || p.name + addressShare(c) < 0.6 || flagWords(c)) return false;
			return WHO.test(c.name) || (p.distinct.size > (alone ? 0 : 1) && !WHAT.test(c.name) && looksLikeNames(c));
		});
	}

	/** A key of persons: what it says stands beside it (named-persons.ts). */
	private isPersonKey(c: SheetColumn): boolean {
		return c.column >= 0 && this.m.sheet.columns.some((o) => o.name.startsWith(`${c.name}.`) && o.path.length === 0);
	}

	private isDay(c: SheetColumn): boolean {
		return (
			c.name === '(day)' ||
			c.name.endsWith(' (date)') ||
			(c.profile.filled > 0 &&
				[...c.profile.distinct.keys()].every(
					(v) =>
						/\d[\s\S]*\d/.test(String(v)) && /^[\d\s:./,\-–apmAPM]+$/.test(String(v)) && !(addressShare(c) > 0.4 && !/[:/]/.test(String(v)))
				))
		);
	}

	private value(row: Row, c: SheetColumn): string | number | null {
		return keyOf(cell(row, c, this.harvest.tables));
	}

	/** Whether a's value says b's, and not all b's values are one. */
	private says(a: SheetColumn, b: SheetColumn): boolean {
		const map = new Map<string | number, string | number>();
		let held = 0;
		let all = 0;
		for (const row of this.rows) {
			const x = this.value(row, a);
			const y = this.value(row, b);
			if (x === null || y === null) continue;
			// Where the same persons stand in both, they are from and to; one known by number alone has that for a name.
			if (x !== y && a.profile.distinct.has(y)) return false;
			all++;
			const known = map.get(x);
			if (known === undefined) map.set(x, y);
			if (known === undefined || known === y) held++;
		}
		return all > 0 && held >= all * MOSTLY && new Set(map.values()).size > map.size * 0.5;
	}

	private assign(parties: SheetColumn[]): void {
		const { m } = this;
		const as = (c: SheetColumn, why: string): NonNullable<MessageReading['peer']> => ({
			value: c,
			key: null,
			confidence: 0.8,
			evidence: [why]
		});
		m.peer = m.sender = m.recipient = m.participant = null;
		const sorted = [...parties].sort((a, b) => this.rank(b) - this.rank(a));
		for (const a of sorted)
			for (const b of sorted) {
				const pair = a !== b && m.sheet.columns.indexOf(a) < m.sheet.columns.indexOf(b) && this.differ(a, b);
				const both = pair ? ownerOfPair(m.sheet, a, b, { tables: this.harvest.tables }) : null;
				if (both === null || this.isWrittenTo(a, b) || this.isWrittenTo(b, a)) continue;
				// Of two who only write to each other each stands in every row.
				const written = [...new Set([...a.profile.distinct.keys(), ...b.profile.distinct.keys()])].map(String);
				const named = written.length === 2 ? ownerAmong(written, this.hints.asked, this.hints.title) : null;
				const swap = TO_WHOM.test(a.name) || FROM_WHOM.test(b.name);
				const owner = named?.owner ?? (written.length === 2 ? this.whoSent(swap ? b : a) : null) ?? both;
				m.sender = as(swap ? b : a, 'one of two columns of persons');
				m.recipient = as(swap ? a : b, 'the other of two columns of persons');
				m.direction = {
					value: { kind: 'sender', column: m.sender.value, owner: [owner] },
					confidence: 0.9,
					evidence: ['one party stands in every row: the owner']
				};
				return;
			}
		const who = sorted.find((c) => !sorted.some((w) => w !== c && this.isWrittenTo(c, w))) ?? sorted[0]!;
		m.sender = as(who, 'its values are names or numbers that come back');
		const values = [...who.profile.distinct].sort((x, y) => y[1] - x[1]).map(([v]) => String(v));
		const names = this.namesOf(who, values);
		const owner = ownerAmong(values, this.hints.asked, this.hints.title) ?? this.byName(values, names);
		m.direction = decideDirection(m, { tables: this.harvest.tables, sheets: [], keys: [], references: new Map(), owner: [] });
		const flagged =
			m.direction.value.kind === 'flag' &&
			(m.direction.confidence > (SAYS_SENT.test(m.direction.value.column.name) ? 0.6 : 0.9) ||
				(!owner && m.direction.confidence > 0.6 && this.isOtherSide(who, m.direction.value)));
		if (flagged && this.isPeer(who, m.direction.value)) {
			m.peer = m.sender;
			m.sender = null;
		} else if (owner) {
			const rule: DirectionRule = { kind: 'sender', column: who, owner: [owner.owner] };
			m.direction = { value: rule, confidence: 0.9, evidence: [`${owner.owner} is the owner: ${owner.why}`] };
		} else if (!flagged && values.length > 1)
			m.direction = { value: { kind: 'unknown' }, confidence: 0, evidence: ['nothing says which of the writers is the owner'] };
	}

	/** Who alone wrote what a column of words says was sent; null where none does. */
	private whoSent(writer: SheetColumn): string | number | null {
		for (const c of this.m.sheet.columns) {
			const words = [...c.profile.distinct.keys()].map(String);
			if (words.length !== 2 || !words.some(isOutWord) || !words.some(isInWord)) continue;
			const sent = this.rows.filter((row) => isOutWord(String(this.value(row, c)))).map((row) => this.value(row, writer));
			if (new Set(sent).size === 1) return sent[0]!;
		}
		return null;
	}

	/** Whether a column has but a group, to which all was written: the file is called after it, or the owner writes to it himself. */
	private isWrittenTo(to: SheetColumn, writer: SheetColumn): boolean {
		const [group, other] = [...to.profile.distinct.keys()].map(String);
		const writers = [...writer.profile.distinct.keys()].map(String);
		if (group === undefined || other !== undefined || writers.length < 2 || isSelf(group) || writers.includes(group)) return false;
		return writers.some(isSelf) || isCalledAfter(this.hints.title, group) || ownerAmong(writers, this.hints.asked, '')?.why === BY_USER;
	}

	private namesOf(who: SheetColumn, values: readonly string[]): Map<string, string> {
		const person = this.reading.persons.find((p) => p.sheet === this.m.sheet && p.addresses[0] === who);
		const out = new Map<string, string>();
		const [name] = person?.names ?? [];
		// What other lists of the file call them.
		for (const other of this.reading.persons) {
			if (other.sheet === this.m.sheet || !other.names[0]) continue;
			for (const row of other.sheet.rows)
				for (const address of other.addresses) {
					const called = keyOf(cell(row, other.names[0], this.harvest.tables));
					if (called !== null) out.set(String(keyOf(cell(row, address, this.harvest.tables))), String(called));
				}
		}
		if (name) for (const row of this.rows) out.set(String(this.value(row, who)), String(this.value(row, name) ?? ''));
		for (const v of values) if (!out.has(v)) out.set(v, v);
		return out;
	}

	private byName(values: readonly string[], names: ReadonlyMap<string, string>): { owner: string; why: string } | null {
		const found = ownerAmong(
			values.map((v) => names.get(v)!),
			this.hints.asked,
			this.hints.title
		);
		const value = found && values.find((v) => names.get(v) === found.owner);
		return found && value !== undefined && value !== null ? { owner: value, why: found.why } : null;
	}

	/** The other side whichever way a message went, not the writer: what stands with sent rows stands with received ones. */
	private isPeer(who: SheetColumn, rule: DirectionRule): boolean {
		if (rule.kind !== 'flag') return false;
		const sent = new Set<string | number>();
		const received = new Set<string | number>();
		let unnamed = 0;
		for (const row of this.rows) {
			const flag = this.value(row, rule.column);
			const value = this.value(row, who);
			if (flag === null) continue;
			if (value === null || value === '') unnamed += Number(rule.out.includes(flag));
			else if (rule.out.includes(flag)) sent.add(value);
			else received.add(value);
		}
		// Whoever writes himself is often not named.
		if (unnamed > 0 && sent.size === 0) return false;
		if (sent.size === 0 || received.size === 0) return true;
		return [...sent].some((v) => received.has(v));
	}

	/** Whether numbers, addresses or names are those of other sides, whichever way a message went: each goes both ways, and none is the owner's. */
	private isOtherSide(who: SheetColumn, rule: DirectionRule): boolean {
		if (rule.kind !== 'flag') return false;
		// Names are, where the columns say so.
		if (addressShare(who) <= MOSTLY && !(OTHER_SIDE.test(who.name) && WAY.test(rule.column.name))) return false;
		const ways = new Map<string | number, { rows: number; flags: Set<string | number> }>();
		for (const row of this.rows) {
			const [value, flag] = [this.value(row, who), this.value(row, rule.column)];
			if (value === null || flag === null) continue;
			const seen = ways.get(value) ?? { rows: 0, flags: new Set() };
			seen.rows++;
			seen.flags.add(flag);
			ways.set(value, seen);
		}
		const often = [...ways.values()].filter((w) => w.rows >= GOES_BOTH_WAYS);
		const most = Math.max(...[...ways.values()].map((w) => w.rows));
		// Who is in all conversations writes about half of all that is written.
		const isNobodysOwn = ways.size === 1 || this.hints.asked.length > 0 || (ways.size > 2 && most < this.rows.length * HALF);
		return isNobodysOwn && often.length > 0 && often.every((w) => w.flags.size > 1);
	}

	private rank(c: SheetColumn): number {
		return (
			(addressShare(c) > 0.4 ? 1 : 0) +
			(FROM_WHOM.test(c.name) ? 1.5 : WHO.test(c.name) ? 1 : 0) -
			Number(TO_WHOM.test(c.name)) -
			Number(/title|subject|chat|conv|thread|room|group/i.test(c.name))
		);
	}

	/** Whether two columns never name the same in one row. */
	private differ(a: SheetColumn, b: SheetColumn): boolean {
		return this.rows.every((row) => this.value(row, a) === null || this.value(row, a) !== this.value(row, b));
	}

	/** Whether a list's parts are no conversations but stretches of one: days, pages, that follow each other in time. */
	private isStretch(c: SheetColumn): boolean {
		const { time, sender } = this.m;
		const parts = new Map<string | number, { from: number; to: number }>();
		const partsOf = new Map<string | number, Set<string | number>>();
		for (const row of this.rows) {
			const part = this.value(row, c);
			const at = time && timeOf(cell(row, time.value, this.harvest.tables), time.reading);
			if (part === null || at === null) continue;
			const writer = sender && this.value(row, sender.value);
			if (writer !== null) partsOf.set(writer, (partsOf.get(writer) ?? new Set()).add(part));
			const seen = parts.get(part);
			if (!seen) parts.set(part, { from: at, to: at });
			else {
				seen.from = Math.min(seen.from, at);
				seen.to = Math.max(seen.to, at);
			}
		}
		const all = [...parts.values()];
		// Of conversations held one after the other each has its own two, and hardly anybody is in several of them.
		const spans = [...partsOf.values()].map((of) => of.size).sort((a, b) => b - a);
		const second = spans[1] ?? parts.size;
		if (second * 2 <= parts.size && spans[Math.floor(spans.length / 2)]! < SEVERAL) return false;
		return all.length > 2 && all.every(({ from, to }, i) => to - from < DAY && (i === 0 || from >= all[i - 1]!.to));
	}

	/** A column that stands in sent rows as in received ones, and by its name is of conversations, or has one writer for each value. */
	private namesConversation(c: SheetColumn): boolean {
		const { m } = this;
		const p = c.profile;
		if (c.column < 0 || c === m.text.value || c === m.time?.value || c === m.sender?.value || c.name === FILE_COLUMN || this.isDay(c))
			return false;
		if (m.direction.value.kind === 'flag' && m.direction.value.column === c) return false;
		if (p.texts < this.rows.length * MOSTLY || p.many || p.distinct.size < 2 || p.distinct.size > this.rows.length * 0.5 || flagWords(c))
			return false;
		const ofWriter = new Map<string | number, Set<string | number>>();
		const ofValue = new Map<string | number, Set<string | number>>();
		for (const row of this.rows) {
			const writer = (m.sender && this.value(row, m.sender.value)) || '';
			const value = this.value(row, c);
			if (value === null) continue;
			ofValue.set(value, (ofValue.get(value) ?? new Set()).add(writer));
			if (writer !== '') ofWriter.set(writer, (ofWriter.get(writer) ?? new Set()).add(value));
		}
		const inOne = [...ofWriter.values()].filter((v) => v.size === 1).length;
		// What only says the writer in other words has one in each.
		const shared = [...ofValue.values()].filter((v) => v.size > 1).length;
		const named = CONVERSATION.test(c.name);
		return (
			ofWriter.size > 1 &&
			shared * 2 >= ofValue.size &&
			// Members of a group have a conversation of their own beside it.
			(named || (inOne >= (ofWriter.size - 1) * MOSTLY && looksLikeNames(c)))
		);
	}

	private wholeFile(): void {
		const { m } = this;
		m.thread = null;
		if (m.peer ?? m.recipient) return;
		const parent = m.sheet.columns.find((c) => isList(c) && c.profile.distinct.size > 1 && !this.isStretch(c));
		const named = parent ? undefined : m.sheet.columns.find((c) => this.namesConversation(c));
		const heading = m.sheet.columns.find((c) => c.name === HEADING_FIELD);
		const value = parent ?? named ?? heading ?? m.sheet.columns.find((c) => c.name === FILE_COLUMN)!;
		const why = parent
			? 'the list it stands in'
			: named
				? 'in each of its values the same persons write'
				: heading
					? 'the heading it stands under'
					: 'the file is one conversation';
		m.thread = { value, key: null, confidence: 0.7, evidence: [why] };
		m.threadTitled = !parent;
		if (value.name === FILE_COLUMN) this.takingPart();
	}

	/** A list of the file that names who takes part in its one conversation: more than write, where some never did. */
	private takingPart(): void {
		const { m, harvest } = this;
		const { sender } = m;
		if (!sender) return;
		const writers = new Set([...sender.value.profile.distinct.keys()].map(String));
		for (const { sheet } of this.reading.sheets) {
			if (sheet === m.sheet || !PARTICIPANTS.test(sheet.name)) continue;
			for (const c of sheet.columns) {
				const names = sheet.rows.map((row) => String(keyOf(cell(row, c, harvest.tables)) ?? ''));
				if (names.length > 2 && names.length <= MOST_MEMBERS && [...writers].every((w) => names.includes(w))) m.takingPart = names;
			}
		}
	}
}

const CALLED = /^(display|full|nick)?[ _-]?name$/i;
const PARTICIPANTS = /particip|member/i;
const MOST_MEMBERS = 5000;
/** Parts in which somebody writes from which they are parts of one conversation. */
const SEVERAL = 3;
/** Which item of a list the rows stand in (see `tablesOf`). */
const isList = (c: SheetColumn): boolean => c.name.startsWith('in ');
const CONVERSATION = /chat|conv|thread|session|room|group|channel|dialog|contact|\bwith\b/i;
/** A yes or no so called is of the way, not of how far a message got. */
const SAYS_SENT = /^(is[_ -]?)?(sent|out|outgoing|mine|own|from[_ -]?me|by[_ -]?me)$/i;
const WHO = /from|send|author|writer|who|name|user|person|contact|peer|address|phone|number|recip|party|handle|nick|member|\bto\b|\bby\b/i;
const WHAT = /type|kind|state|status|mime|dir|box|folder|priority|mode|level|lang/i;

/** Whether a short list's values are those of a column of writers though hardly one comes back: by what it is called, or all written like full names. */
const isOfWriters = (c: SheetColumn): boolean =>
	addressShare(c) > MOSTLY ||
	((FROM_WHOM.test(c.name) || OF_PERSONS.test(c.name) || [...c.profile.distinct.keys()].every((v) => isCalled(String(v)))) &&
		looksLikeNames(c));
/** What a column of persons is called, and nothing else. */
const OF_PERSONS = /^(?:name|user|person|who|member|contact)$/i;
const YES_OR_NO = /^(?:true|false|yes|no|ja|nein|nee|oui|non|s[ií]|sim|não)$/i;
const OTHER_SIDE = /contact|kontakt|contatt|peer|partner|other|\bwith\b|correspond/i;
const WAY = /dir(?!ectory|ty)|richtung|sens|\bway\b|type|box|sent|out|in|mine|from_?me/i;
/** Rows of one number from which it is seen both ways, and share of all that the owner writes at least. */
const GOES_BOTH_WAYS = 4;
const HALF = 0.4;
/** Values that are words for a state or a way: lower case or upper case throughout, single words. */
const flagWords = (c: SheetColumn): boolean =>
	c.profile.distinct.size <= 6 &&
	!WHO.test(c.name) &&
	[...c.profile.distinct.keys()].every((v) => /^(\p{Ll}+|\p{Lu}+|[\p{L}_]+_[\p{L}_]+)$/u.test(String(v)));
const looksLikeNames = (c: SheetColumn): boolean => {
	const values = [...c.profile.distinct.keys()].map(String);
	return values.filter((v) => /(?:^|\s)[\p{Lu}\p{Lo}]|^\+?\d[\d\s()./-]{5,}$|@/u.test(v)).length > values.length * 0.6;
};
