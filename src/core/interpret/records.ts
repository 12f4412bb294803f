/**
 * The reading of exported records (JSON, XML, CSV, HTML): as a store's, but who writes is judged anew. An export is
 * often one conversation with the writer's name on each message, which no store is.
 */
import { isCalled, isFullName } from '../called';
import { FILE_COLUMN, HEADING_FIELD, type ExportHarvest } from '../harvest';
import type { Row, Table, Value } from '../model';
import { isInWord, isOutWord, saysWay, wayNamed, wayOfBox, wayOfFile } from '../way-words';
import { decideDirection } from './direction';
import { BY_USER, isCalledAfter, isSelf, ownerAmong } from './exported';
import { blankReading, type DirectionRule, type MessageReading, type StoreReading } from './reading';
import { FROM_WHOM, TO_WHOM } from './party-words';
import { isNumber } from '../people/card';
import { isOfOtherRows } from './message-sheet';
import { keyOf, textsIn } from './refs';
import { addressShare, bestText, bestTime, isHandleLike, TEXT_HINT } from './columns';
import { isOwn, ownersInSettings } from './settings';
import { oneOrTheOther, ownerBesideRooms, ownerOfPair } from './parties';
import { readStore } from './roles';
import { profileOf } from './profile';
import { partnersOfLists } from './listed-with-person';
import { cell, sampleOf, sheetsOf, type Sheet, type SheetColumn } from './sheet';
import { areNames, talksBesideParty } from './talks-beside-party';
import { timeOf } from './time';

/** Whose device an export is from: by the user's word, and by what the file is called. */
export interface OwnerHints {
	asked: readonly string[];
	title: string;
}

export function readRecords(harvest: ExportHarvest, hints: OwnerHints): StoreReading | null {
	const sheets = sheetsOf(harvest);
	const reading = readByRows(sheets, harvest, hints);
	if (reading.messages.length === 0) {
		const best = sheets
			.filter((sheet) => !reading.refused.has(sheet))
			.map((sheet) => ({ sheet, text: bestText(sheet), time: bestTime(sheet, harvest.tables) }))
			.filter((c) => c.text !== null && c.time !== null)
			.sort((a, b) => b.sheet.rows.length - a.sheet.rows.length)[0];
		if (!best) return null;
		reading.messages.push(blankReading(best.sheet, best.text!, best.time));
	}
	reading.messages.push(...otherBoxes(reading.messages, sheets, harvest.tables));
	// One entry alone, and what stands in a file but once, are no conversation.
	reading.messages = reading.messages.filter((m) => m.time !== null && m.sheet.rows.length > 1);
	reading.messages = reading.messages.filter((m) => !namesAlone(m, reading.messages));
	const isOfStore = (m: MessageReading): boolean => standsAsInStore(m, reading);
	for (const m of reading.messages) if (!isOfStore(m)) new Parties(m, reading, harvest, hints).settle();
	const namesParty = (m: MessageReading): boolean => (m.sender ?? m.peer ?? m.recipient) !== null;
	for (const m of reading.messages) if (!isOfStore(m) && !namesParty(m)) partyInTitle(m);
	reading.messages = reading.messages.filter((m) => isOfStore(m) || namesParty(m) || isTold(m));
	return reading.messages.length > 0 ? reading : null;
}

/** Lists with what went the other way than a list of messages, by their names, and are made alike. */
function otherBoxes(messages: readonly MessageReading[], sheets: readonly Sheet[], tables: readonly Table[]): MessageReading[] {
	const boxOf = (sheet: Sheet): 'out' | 'in' | null => wayOfBox(lastOf(sheet.name));
	return sheets.flatMap((sheet) => {
		const way = messages.some((m) => m.sheet === sheet) ? null : boxOf(sheet);
		const [text, time] = way ? [bestText(sheet), bestTime(sheet, tables)] : [null, null];
		const isAlike = (m: MessageReading): boolean =>
			boxOf(m.sheet) === (way === 'in' ? 'out' : 'in') && m.text.value.name === text?.value.name && m.time?.value.name === time?.value.name;
		return text && time && messages.some(isAlike) ? [blankReading(sheet, text, time)] : [];
	});
}

/** Whether a word says of each message which way it went, and the conversation has a title. */
const isTold = ({ direction: { value: rule }, threadTitled }: MessageReading): boolean =>
	rule.kind === 'flag' &&
	threadTitled === true &&
	(rule.out.every((v) => isOutWord(String(v))) || wayNamed(lastOf(rule.column.name)) !== null);

/** A conversation of which each message says only which way it went: whom it is with stands in its title alone. */
function partyInTitle(m: MessageReading): void {
	if (!isTold(m) || !m.thread) return;
	const titles = [...m.thread.value.profile.distinct.keys()].map(String);
	if (!titles.every((t) => isFullName(t) || isNumber(t))) return;
	m.peer = {
		value: m.thread.value,
		key: null,
		confidence: 0.6,
		evidence: ['the conversation is called so, and nobody else is named in it']
	};
	m.thread = null;
}

/**
 * Read as a store is, without what a list of persons says of whom a column names. That all of a file is one conversation
 * is tried where nothing else makes messages of its rows: every list of the file has that in common.
 */
function readByRows(sheets: Sheet[], { tables }: ExportHarvest, { asked }: OwnerHints): StoreReading {
	const whole = sheets.map(({ columns }) => columns);
	const readWith = (isMeant: (c: SheetColumn, sheet: Sheet) => boolean): StoreReading => {
		sheets.forEach((sheet, i) => (sheet.columns = whole[i]!.filter((c) => isMeant(c, sheet))));
		const reading = readStore(sheets, tables, asked);
		sheets.forEach((sheet, i) => (sheet.columns = whole[i]!));
		return reading;
	};
	const ofFile = readWith((c, sheet) => !isOfPerson(c, sheet));
	const isOneFile = ({ thread }: MessageReading): boolean => thread?.value.name === FILE_COLUMN && thread.value.profile.distinct.size <= 1;
	if (sheets.length < 2 || !ofFile.messages.some(isOneFile)) return ofFile;
	const parted = readWith((c, sheet) => c.name !== FILE_COLUMN && !isOfPerson(c, sheet));
	return ofFile.messages.every((m) => parted.messages.some((p) => p.sheet === m.sheet)) ? parted : ofFile;
}

/** Whether a column says of a person what the list of persons says; whose device it is is told by that. */
const isOfPerson = (c: SheetColumn, { columns }: Sheet): boolean =>
	c.path.length === 0 && !c.name.endsWith('.me') && columns.some((o) => o !== c && o.path.length === 0 && c.name.startsWith(`${o.name}.`));

/** Whether messages stand in lists as in a store's tables, their conversations in another one, and which way they went is told by that. */
const standsAsInStore = ({ thread, threadJoin, sheet, direction }: MessageReading, { persons, threads }: StoreReading): boolean => {
	if (direction.value.kind === 'unknown') return false;
	if (threadJoin !== null) return true;
	// What a list of persons says stands beside its keys.
	if (thread && sheet.columns.some((c) => c.name.startsWith(`${thread.value.name}.`))) return false;
	const list = thread?.key?.sheet;
	return (
		!!list && list !== sheet && !isList(thread.value) && threads.some((t) => t.sheet === list) && !persons.some((p) => p.sheet === list)
	);
};

/** Whether what was read as messages is called so: a text, and who wrote it or to whom. Few files of settings look alike as well. */
export const isCalledMessages = ({ messages }: StoreReading): boolean =>
	messages.every(
		({ text, sender, peer, recipient }) =>
			TEXT_HINT.test(lastOf(text.value.name)) &&
			[sender, peer, recipient].some(
				(p) => p && (FROM_WHOM.test(lastOf(p.value.name)) || TO_WHOM.test(lastOf(p.value.name)) || WHO.test(p.value.name))
			)
	);

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

/** Lists that nothing is said of but that they are one. */
const UNNAMED_LIST = /^(?:rows|records|messages?|items|data)$/i;
const SAMPLE = 4000;
const DAY = 86_400_000;
/** Share of rows that a rule must hold for. */
const MOSTLY = 0.95;

/** Messages that say who writes in a conversation, share of them that nobody is named for, and of the conversations in which that is so. */
const TALK = 4;
const NOBODY = 0.1;
const MOST_TALKS = 0.7;

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
		this.leaveOutPaths();
		const several = this.candidates();
		const single = several.length > 0 ? several : this.candidates(true);
		const found = single.length > 0 ? single : this.handles();
		// A name and a number of the same person are one party: the number, with the name beside it.
		const parties = found.filter((c) => addressShare(c) > 0.4 || !found.some((a) => addressShare(a) > 0.4 && this.says(a, c)));
		for (const address of found.filter((c) => addressShare(c) > 0.4)) {
			const name = found.find((c) => c !== address && addressShare(c) <= 0.4 && this.says(address, c));
			if (name) this.reading.persons.push({ sheet: m.sheet, names: [name], addresses: [address], via: null });
		}
		if (parties.length > 0 && !this.isOneOrTheOther() && !this.assignUnnamed(found)) this.assign(parties);
		const talks = talksBesideParty(m, this.rows, this.harvest.tables);
		if (talks) {
			// What a conversation is called is no name of who writes in it.
			this.reading.persons = this.reading.persons.filter((p) => p.sheet !== m.sheet || !p.names.includes(talks.thread.value));
			if (m.peerName === talks.thread.value) m.peerName = null;
			Object.assign(m, { ...talks, threadTitled: true, peer: null });
		}
		this.nameInside();
		this.nameInOtherRows();
		const thread = m.thread?.value;
		const stray =
			thread !== undefined &&
			(thread.name === FILE_COLUMN ||
				KIND.test(lastOf(thread.name)) ||
				this.isDay(thread) ||
				found.includes(thread) ||
				this.isPersonKey(thread) ||
				(isList(thread) && this.isStretch(thread)));
		if (!m.thread || stray) this.wholeFile();
		this.membersOfThreads();
		this.byThreads();
		if (m.direction.value.kind === 'unknown') this.byBox();
		partnersOfLists(m, this.reading.persons, this.harvest.tables);
	}

	/** Files that come back are nobody. */
	private leaveOutPaths(): void {
		const { m } = this;
		for (const role of ['sender', 'peer', 'recipient', 'participant'] as const) {
			const found = m[role];
			if (!found || found.key || found.value.profile.path <= PATHS) continue;
			m[role] = null;
			const { value: rule } = m.direction;
			if ('column' in rule && rule.column === found.value) m.direction = { value: { kind: 'unknown' }, confidence: 0, evidence: [] };
		}
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

	/** What rows of another kind call those who write: who joined a conversation, say. */
	private nameInOtherRows(): void {
		const { m, reading, harvest } = this;
		const who = m.sender?.value;
		if (!who || m.sender!.key || reading.persons.some((p) => p.sheet === m.sheet && p.addresses[0] === who && p.names.length > 0)) return;
		const name = m.sheet.columns.find(
			(c) => c !== who && CALLED.test(lastOf(c.name)) && isOfOtherRows(c, m.text, m.sheet, harvest, 1) && areNames(c) && this.says(who, c)
		);
		if (name) reading.persons.unshift({ sheet: m.sheet, names: [name], addresses: [who], via: null });
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
		if (told.value.kind === 'sender' || (told.value.kind === 'sender-empty' && this.namesAllOthers())) m.direction = told;
	}

	/** Whether many rows name nobody who wrote, in most conversations: those are the owner's, and no lines of the program's. */
	private namesAllOthers(): boolean {
		const { m } = this;
		const threads = new Map<string | number | null, { all: number; nobody: number }>();
		for (const row of this.rows) {
			const thread = this.value(row, m.thread!.value);
			const seen = threads.get(thread) ?? { all: 0, nobody: 0 };
			threads.set(thread, { all: seen.all + 1, nobody: seen.nobody + Number(this.value(row, m.sender!.value) === null) });
		}
		const talks = [...threads.values()].filter(({ all }) => all >= TALK);
		const both = talks.filter(({ all, nobody }) => nobody >= all * NOBODY && nobody < all);
		return talks.length > 0 && both.length >= talks.length * MOST_TALKS && FROM_WHOM.test(lastOf(m.sender!.value.name.split('.')[0]!));
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
			if (isOfOtherRows(c, m.text, m.sheet, this.harvest)) return false;
			if (p.texts < p.filled * 0.9 || p.filled < rows * 0.2 || p.many || p.mime > 0.2 || p.averageLength > 60) return false;
			if (p.distinct.size > Math.max(2, rows * 0.6) && !(p.distinct.size < rows && isOfWriters(c))) return false;
			if (this.isPersonKey(c) || [...p.distinct.keys()].every((v) => saysWay(String(v)) || YES_OR_NO.test(String(v)))) return false;
			if (addressShare(c) > 0.4) return true;
			// Some are known by name, others by number only.
			if (c.name === '@class' || p.uuid > 0.3 || p.path > 0.5 || p.name + addressShare(c) < 0.6 || flagWords(c)) return false;
			return WHO.test(c.name) || (p.distinct.size > (alone ? 0 : 1) && !WHAT.test(c.name) && areNames(c));
		});
	}

	/** Where nothing is a name or an address, and no list says who they are: what those who write are called by. */
	private handles(): SheetColumn[] {
		const { m } = this;
		if ([m.sender, m.peer, m.recipient, m.participant].some((p) => p?.key)) return [];
		return m.sheet.columns.filter(
			(c) =>
				c.column >= 0 &&
				c.profile.distinct.size > 1 &&
				!c.profile.many &&
				!LINKED.test(c.name) &&
				FROM_WHOM.test(lastOf(c.name)) &&
				isHandleLike(c)
		);
	}

	/** A key of persons that says nothing itself: what it says stands beside it (named-persons.ts), or in a list of them. */
	private isPersonKey(c: SheetColumn): boolean {
		if (addressShare(c) > 0.4) return false;
		if ([this.m.sender, this.m.peer, this.m.participant].some((p) => p?.value === c && p.key && p.key.sheet !== this.m.sheet)) return true;
		return c.column >= 0 && this.m.sheet.columns.some((o) => o.name.startsWith(`${c.name}.`) && o.path.length === 0);
	}

	private isDay(c: SheetColumn): boolean {
		return (
			c.name === '(day)' ||
			c.name.endsWith(' (date)') ||
			(c.profile.filled > 0 &&
				[...c.profile.distinct.keys()].every(
					(v) =>
						/\d[\s\S]*\d/.test(String(v)) &&
						!(typeof v === 'number' && !isDayInDigits(v)) &&
						/^[\d\s:./,\-–apmAPM]+$/.test(String(v)) &&
						!(addressShare(c) > 0.4 && !/[:/]/.test(String(v)))
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
		// Who wrote, where only some rows say it and another column says of all whom they are with, is read beside that.
		const isFull = (c: SheetColumn): boolean => c.profile.filled >= this.rows.length * MOSTLY;
		const isOfSome = (c: SheetColumn): boolean => lastOf(c.name) === 'from' && !isFull(c) && parties.some((p) => p !== c && isFull(p));
		const sorted = parties.filter((c) => !isOfSome(c)).sort((a, b) => this.rank(b) - this.rank(a));
		if (this.assignBesideRooms(sorted, as)) return;
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
				this.nameOtherSide(m.sender.value, m.recipient.value, owner);
				return;
			}
		const who = sorted.find((c) => !sorted.some((w) => w !== c && this.isWrittenTo(c, w))) ?? sorted[0]!;
		m.sender = as(who, 'its values are names or numbers that come back');
		const values = [...who.profile.distinct].sort((x, y) => y[1] - x[1]).map(([v]) => String(v));
		const names = this.namesOf(who, values);
		const owner = ownerAmong(values, this.hints.asked, this.hints.title) ?? this.byName(values, names) ?? this.byStatement(values);
		m.direction = decideDirection(m, { tables: this.harvest.tables, sheets: [], keys: [], references: new Map(), owner: [] });
		const flagged =
			m.direction.value.kind === 'flag' &&
			(m.direction.confidence > (SAYS_SENT.test(m.direction.value.column.name) ? 0.6 : 0.9) ||
				(!owner && m.direction.confidence > 0.6 && this.isOtherSide(who, m.direction.value)));
		if (flagged && this.isPeer(who, m.direction.value)) {
			m.peer = m.sender;
			m.sender = null;
			this.tellWriters(who, m.direction.value);
		} else if (owner) {
			const rule: DirectionRule = { kind: 'sender', column: who, owner: [owner.owner] };
			m.direction = { value: rule, confidence: 0.9, evidence: [`${owner.owner} is the owner: ${owner.why}`] };
		} else if (!flagged && values.length > 1)
			m.direction = { value: { kind: 'unknown' }, confidence: 0, evidence: ['nothing says which of the writers is the owner'] };
	}

	/** Beside whom messages went to and fro, who wrote those of several: a column called for it, with the owner in what was sent. */
	private tellWriters(peer: SheetColumn, rule: DirectionRule): void {
		const from = this.m.sheet.columns.find((c) => c !== peer && lastOf(c.name) === 'from' && addressShare(c) > 0.6);
		if (!from || rule.kind !== 'flag') return;
		const isOut = (row: Row): boolean => rule.out.includes(this.value(row, rule.column) ?? '');
		const named = this.rows.filter((row) => this.value(row, from) !== null);
		const own = new Set(named.filter(isOut).map((row) => this.value(row, from)));
		if (named.length === 0 || own.size > 1) return;
		this.m.participant = { value: from, key: null, confidence: 0.8, evidence: ['it is called for who wrote'] };
		this.m.ownParticipant = [...own][0] ?? null;
	}

	/** A column of names that goes with whichever of two columns does not have the owner names the other side. */
	private nameOtherSide(sender: SheetColumn, recipient: SheetColumn, owner: string | number): void {
		const { sheet, text } = this.m;
		if (addressShare(sender) <= 0.4) return;
		const read = (row: Row): Value | undefined => this.value(row, String(this.value(row, sender)) === String(owner) ? recipient : sender);
		const other: SheetColumn = { ...sender, path: [], made: { read }, profile: profileOf(sheet.sure, read, sampleOf(sheet.sure)) };
		const isNameOf = (c: SheetColumn): boolean =>
			c !== sender && c !== recipient && c !== text.value && c.name !== FILE_COLUMN && areNames(c) && addressShare(c) < 0.4;
		const named = sheet.columns.find((c) => isNameOf(c) && this.says(other, c) && this.says(c, other));
		if (named) this.reading.persons.unshift({ sheet, names: [named], addresses: [other], via: null });
	}

	/** A list, or a file, with what was sent alone, or what was received: all that it names is the other side. */
	private byBox(): void {
		const { m, harvest } = this;
		const name = lastOf(m.sheet.name);
		const files = m.sheet.columns.find((c) => c.name === FILE_COLUMN)?.profile.distinct;
		const file = files?.size === 1 ? String([...files.keys()][0]) : '';
		const isUnnamed = UNNAMED_LIST.test(name);
		const way = isUnnamed ? wayOfFile(file) : wayOfBox(name);
		const opposite = way === 'out' ? 'in' : 'out';
		if (!way || !(isUnnamed || harvest.tables.some((t) => wayOfBox(lastOf(t.name)) === opposite))) return;
		const words = way === 'out' ? TO_WHOM : FROM_WHOM;
		const parties = m.sheet.columns.filter(
			(c) => c !== m.text.value && c !== m.time?.value && c.name !== FILE_COLUMN && (addressShare(c) > 0.4 || words.test(lastOf(c.name)))
		);
		const party = parties.find((c) => words.test(lastOf(c.name))) ?? parties[0];
		if (!party) return;
		const evidence = [
			`it holds what was ${way === 'in' ? 'received' : 'sent'}: ${isUnnamed ? 'its file' : 'it'} is called ${isUnnamed ? file : name}`
		];
		m.direction = { value: { kind: 'sheet', direction: way }, confidence: 0.9, evidence };
		m.peer = { value: party, key: null, confidence: 0.8, evidence: ['whom it names is the other side'] };
		m.sender = m.recipient = m.participant = m.thread = null;
		const named = m.sheet.columns.find((c) => c !== party && c !== m.text.value && areNames(c) && this.says(party, c));
		if (named && addressShare(party) > 0.4) this.reading.persons.unshift({ sheet: m.sheet, names: [named], addresses: [party], via: null });
	}

	/** Who wrote stands in one column, and to whom in another: never both, and which way is known. */
	private isOneOrTheOther(): boolean {
		const { m } = this;
		const told = this.partiesByBox();
		if (told) {
			m.peer = m.participant = null;
			m.sender = told.from;
			m.recipient = told.to;
			return true;
		}
		const isTold = m.direction.value.kind !== 'unknown' && m.sender !== null && m.recipient !== null;
		return isTold && oneOrTheOther(m.sheet, m.sender!.value, m.recipient!.value, { tables: this.harvest.tables });
	}

	/** Of two columns one is filled in each row: from whom, where the box's word says that it was received, and else to whom. */
	private partiesByBox(): { from: NonNullable<MessageReading['peer']>; to: NonNullable<MessageReading['peer']> } | null {
		const { columns } = this.m.sheet;
		const named = (words: RegExp): SheetColumn[] =>
			columns.filter((c) => c.profile.texts > 0 && words.test(c.name) && !/name/i.test(c.name));
		const as = (value: SheetColumn): NonNullable<MessageReading['peer']> => ({
			value,
			key: null,
			confidence: 0.8,
			evidence: ['it goes with the box']
		});
		for (const box of columns) {
			const words = [...box.profile.distinct.keys()].map(String);
			if (words.length < 2 || !words.every((w) => isInWord(w) !== isOutWord(w))) continue;
			for (const from of named(FROM_WHOM))
				for (const to of named(TO_WHOM)) {
					const holds = this.rows.every((row) => {
						const isIn = isInWord(String(this.value(row, box)));
						return (this.value(row, from) !== null) === isIn && (this.value(row, to) !== null) !== isIn;
					});
					if (!holds) continue;
					this.m.direction = {
						value: { kind: 'flag', column: box, out: words.filter(isOutWord), in: words.filter(isInWord) },
						confidence: 0.95,
						evidence: ['its words say in and out']
					};
					return { from: as(from), to: as(to) };
				}
		}
		return null;
	}

	/** Where only the others have names, and keys that all have say who wrote: the one without a name is the owner. */
	private assignUnnamed(found: readonly SheetColumn[]): boolean {
		const { m } = this;
		for (const name of found)
			for (const key of m.sheet.columns) {
				const { profile: p } = key;
				if (key === name || key.column < 0 || p.texts < m.sheet.sure.length || p.many || p.distinct.size < 2 || !FROM_WHOM.test(key.name))
					continue;
				const owner = this.onlyUnnamed(key, name);
				if (owner === null) continue;
				m.peer = m.recipient = m.participant = null;
				m.sender = { value: key, key: null, confidence: 0.8, evidence: ['its values are keys of those who write'] };
				m.direction = {
					value: { kind: 'sender', column: key, owner: [owner] },
					confidence: 0.9,
					evidence: [`all but ${owner} have names: the owner needs none`]
				};
				this.reading.persons.unshift({ sheet: m.sheet, names: [name], addresses: [key], via: null });
				return true;
			}
		return false;
	}

	/** The one value of a column beside which another is always empty, where that one says of each other value one thing. */
	private onlyUnnamed(key: SheetColumn, name: SheetColumn): string | number | null {
		const names = new Map<string | number, string | number | null>();
		for (const row of this.rows) {
			const [who, called] = [this.value(row, key), this.value(row, name)];
			if (who === null || (names.has(who) && names.get(who) !== called)) return null;
			names.set(who, called);
		}
		const unnamed = [...names].filter(([, called]) => called === null || called === '');
		return unnamed.length === 1 && names.size > 1 ? unnamed[0]![0] : null;
	}

	/** From whom and to whom, where some of it was written to rooms, or what the owner is written names nobody. */
	private assignBesideRooms(
		parties: readonly SheetColumn[],
		as: (c: SheetColumn, why: string) => NonNullable<MessageReading['peer']>
	): boolean {
		const { m } = this;
		const group = this.groupBeside();
		for (const from of parties)
			for (const to of m.sheet.columns) {
				if (from === to || !WRITES.test(lastOf(from.name)) || !TO_WHOM.test(lastOf(to.name)) || !this.namesSomebody(to, from)) continue;
				const writers = [...from.profile.distinct.keys()].map(String);
				const stated = ownerAmong(writers, this.hints.asked, '') ?? this.byStatement(writers);
				const found = ownerBesideRooms(m.sheet, from, to, group, (writer) => String(writer) === stated?.owner, this.harvest);
				if (!found || (found.rooms.size === 0 && to.profile.filled >= m.sheet.sure.length * MOSTLY)) continue;
				m.peer = m.participant = null;
				m.sender = as(from, 'its name says who wrote');
				m.recipient = as(to, 'its name says to whom');
				m.rooms = found.rooms;
				m.group = group;
				m.direction = {
					value: { kind: 'sender', column: from, owner: [found.owner] },
					confidence: 0.9,
					evidence: ['all is from or to one party, or to rooms: the owner']
				};
				return true;
			}
		return false;
	}

	/** Whether a column names some of those who write, and has no other sorts of values. */
	private namesSomebody(to: SheetColumn, from: SheetColumn): boolean {
		const { profile: p } = to;
		return (
			p.texts === p.filled && !p.time && !p.many && p.averageLength < 60 && [...p.distinct.keys()].some((v) => from.profile.distinct.has(v))
		);
	}

	/** The room that only what was written to one names; what it is called, where a key stands beside that. */
	private groupBeside(): SheetColumn | null {
		const { m } = this;
		const rooms = m.sheet.columns.filter(({ name, profile: p, column, path }) => {
			const isSparse = p.filled > 0 && p.filled < m.sheet.sure.length * MOSTLY && p.texts === p.filled;
			return (
				column >= 0 && path.length === 0 && isSparse && !p.many && p.averageLength < 60 && p.distinct.size < p.filled && ROOM.test(name)
			);
		});
		const named = rooms.find((c) => areNames(c) && rooms.every((o) => o === c || this.says(o, c) || this.says(c, o)));
		return named ?? rooms[0] ?? null;
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
		const name = person?.names[0] ?? this.m.peerName;
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

	/** The one of those who write whom the file calls its account, or its user. */
	private byStatement(values: readonly string[]): { owner: string; why: string } | null {
		const { tables } = this.harvest;
		const stated = ownersInSettings(
			this.reading.sheets.map(({ sheet }) => sheet),
			tables
		).map(String);
		for (const { sheet } of this.reading.sheets)
			if (sheet.rows.length === 1)
				for (const c of sheet.columns) if (isOwn(lastOf(c.name))) stated.push(String(keyOf(cell(sheet.rows[0]!, c, tables)) ?? ''));
		const meant = values.filter((v) => stated.includes(v));
		return meant.length === 1 ? { owner: meant[0]!, why: 'the file states whose it is' } : null;
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
		if (Math.max(addressShare(who), who.profile.addresses) <= MOSTLY && !(OTHER_SIDE.test(who.name) && WAY.test(rule.column.name)))
			return false;
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
			Number(/title|subject|chat|conv|thread|room|group/i.test(c.name)) -
			// What several stand under is whom all of them are with.
			(c.name.startsWith(HEADING_FIELD) ? 2 : 0)
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
		if (KIND.test(lastOf(c.name))) return false;
		if (m.direction.value.kind === 'flag' && m.direction.value.column === c) return false;
		if (
			(CONVERSATION.test(c.name) ? p.filled - p.reals : p.texts) < this.rows.length * MOSTLY ||
			p.many ||
			p.distinct.size < 2 ||
			p.distinct.size > this.rows.length * 0.5 ||
			flagWords(c)
		)
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
		const named = CONVERSATION.test(c.name) || areCalledAfterWriters(ofValue);
		return (
			ofWriter.size > 1 &&
			shared * 2 >= ofValue.size &&
			// Members of a group have a conversation of their own beside it.
			(named || (inOne >= (ofWriter.size - 1) * MOSTLY && areNames(c)))
		);
	}

	private wholeFile(): void {
		const { m } = this;
		m.thread = null;
		if (m.peer ?? m.recipient) return;
		const parent = m.sheet.columns.find((c) => isList(c) && c.profile.distinct.size > 1 && !this.isStretch(c));
		const named = parent ? undefined : m.sheet.columns.find((c) => this.namesConversation(c));
		const heading = m.sheet.columns.find((c) => c.name === HEADING_FIELD);
		const value = parent ?? named ?? heading ?? m.sheet.columns.find((c) => c.name === FILE_COLUMN);
		// The entries of another file are not this file's conversation.
		if (!value) return;
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
				const named = new Set(sheet.rows.map((row) => String(keyOf(cell(row, c, harvest.tables)) ?? '')));
				const isOfSeveral = named.size > 1 && named.size <= MOST_MEMBERS;
				// The owner can be without a number there.
				const names = [...named].filter((name) => name !== '');
				if (isOfSeveral && [...writers].every((w) => names.includes(w))) m.takingPart = names;
			}
		}
	}
}

/** Whether several conversations are called as one who writes in them, and one and the same other writes there alone besides. */
function areCalledAfterWriters(talks: ReadonlyMap<string | number, ReadonlySet<string | number>>): boolean {
	const called = [...talks].filter(([name, writers]) => writers.has(name));
	const others = new Set(called.flatMap(([name, writers]) => [...writers].filter((w) => w !== name)));
	return called.length >= TALKS_LEAST && called.length * 2 >= talks.size && others.size === 1;
}

/** A day as digits of a number: 20250114. */
const isDayInDigits = (n: number): boolean => n > 19_000_000 && n < 21_000_000 && (n / 100) % 100 < 13 && n % 100 < 32;
/** The last part of a field's name, without what a column beside it adds. */
const lastOf = (name: string): string => name.replace(/ \(.*\)$/, '').slice(name.replace(/ \(.*\)$/, '').lastIndexOf('.') + 1);
const WRITES = new RegExp(`${FROM_WHOM.source}|^source`, 'i');
const ROOM = /group|room|channel/i;
/** Of which kind a conversation is says not which one it is. */
const KIND = /^(?:kind|type|category|class|mode)$/i;
const CALLED = /^(display|full|nick)?[ _-]?name$/i;
const PARTICIPANTS = /particip|member/i;
const MOST_MEMBERS = 5000;
/** What a part of a page leads to, or shows. */
const LINKED = /@(?:src|href)$/;
/** Share of the values that are paths. */
const PATHS = 0.5;
/** Conversations that must be called as who writes in them. */
const TALKS_LEAST = 2;
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
	((FROM_WHOM.test(c.name) || OF_PERSONS.test(c.name) || [...c.profile.distinct.keys()].every((v) => isCalled(String(v)))) && areNames(c));
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
