/**
 * Messages that are files alone, in a table of their own that has no texts: who, in which conversation and when stand
 * there in columns called as those beside the texts are.
 */
import type { Row, Value } from '../model';
import { bestTime } from './columns';
import type { Context } from './context';
import { fileColumns } from './files';
import { profileOf } from './profile';
import { blankReading, type DirectionRule, type MessageReading } from './reading';
import { keyOf, type Key } from './refs';
import { areOneTable, cell, sampleOf, type Sheet, type SheetColumn } from './sheet';
import type { Understood } from './messages';

/** Column number of a text that is nowhere. */
const NO_COLUMN = -3;
/** Share of the values of a column that must be ones that the column beside the texts has as well. */
const KNOWN = 0.9;
const FEWEST = 2;

/** The readings of such sheets among `free`, made like those of the messages with texts. */
export function readFilesAlone(free: readonly Sheet[], messages: readonly MessageReading[], context: Context): MessageReading[] {
	return free.flatMap((sheet) => {
		for (const like of messages) {
			const reading = readLike(sheet, like, context);
			if (reading) return [reading];
		}
		return [];
	});
}

function readLike(sheet: Sheet, like: MessageReading, context: Context): MessageReading | null {
	const { tables } = context;
	const time = bestTime(sheet, tables);
	const rows = sheet.rows.filter((row) => row.standing === 'kept').length;
	if (!time || !like.time || rows < FEWEST || sheet.family || like.sheet.family || like.threadJoin) return null;
	const here = (c: SheetColumn): SheetColumn | undefined => sheet.columns.find((o) => o.name === c.name && o.path.join() === c.path.join());
	const alike = (c: SheetColumn): SheetColumn | null => {
		const own = here(c);
		return own && holdsTheSame(own, c) ? own : null;
	};
	const party = <T extends { value: SheetColumn; key: Key | null }>(role: T | null): T | null => {
		const own = role && alike(role.value);
		return role && own ? { ...role, value: own } : null;
	};
	const who = [like.sender, like.peer, like.recipient, like.participant].filter((p) => p !== null);
	const [thread, found] = [party(like.thread), who.map(party)];
	const direction = directionHere(like.direction.value, (c) => here(c) ?? null);
	const isSaid = (like.thread === null || thread !== null) && found.every((p) => p !== null) && direction !== null;
	if (!isSaid || (thread === null && found.length === 0)) return null;
	const written = areOneTable(sheet, like.sheet) ? here(like.text.value) : undefined;
	const text = written ? captionsIn(written, sheet, tables) : noText(time.value);
	const taken = [time.value, ...(written ? [written] : []), ...[thread, ...found].flatMap((p) => p?.value ?? [])];
	if (!fileColumns(sheet, tables, taken)) return null;
	const guid = like.guid && here(like.guid);
	const reading: MessageReading = {
		...blankReading(sheet, { value: text, confidence: like.text.confidence, evidence: ['its rows are files alone'] }, time),
		direction: { ...like.direction, value: direction },
		peer: party(like.peer),
		sender: party(like.sender),
		recipient: party(like.recipient),
		participant: party(like.participant),
		ownParticipant: like.ownParticipant,
		thread,
		guid: guid ?? null,
		alone: { of: like, ...sharedKey(sheet, like.sheet, context) }
	};
	if (like.threadPeer) reading.threadPeer = like.threadPeer;
	if (like.membersTold) reading.membersTold = { ...like.membersTold, of: reading };
	return reading;
}

const noText = (time: SheetColumn): SheetColumn => ({
	name: '(no text)',
	column: NO_COLUMN,
	path: [],
	made: { read: () => null },
	profile: { ...time.profile, filled: 0 }
});

/** What was written below files, in the column that has the texts of the same table: where nothing was, the file's name stands there. */
function captionsIn(written: SheetColumn, sheet: Sheet, tables: Context['tables']): SheetColumn {
	const others = sheet.columns.filter((c) => c !== written && c.column >= 0 && c.profile.texts > 0);
	const read = (row: Row): Value | undefined => {
		const text = cell(row, written, tables);
		return others.some((c) => cell(row, c, tables) === text) ? null : text;
	};
	return { ...written, made: { read }, profile: profileOf(sheet.sure, read, sampleOf(sheet.sure)) };
}

/** Whether a column has hardly a value that the one beside the texts has not. */
function holdsTheSame(own: SheetColumn, other: SheetColumn): boolean {
	const values = [...own.profile.distinct.keys()];
	return values.filter((v) => other.profile.distinct.has(v)).length >= values.length * KNOWN;
}

/** The rule as it is said by this sheet's columns; null where those are not there. */
function directionHere(rule: DirectionRule, here: (c: SheetColumn) => SheetColumn | null): DirectionRule | null {
	if (!('column' in rule)) return rule.kind === 'sheet' ? null : rule;
	const column = here(rule.column);
	return column && { ...rule, column };
}

/** The columns by which a file and a text are one message, where both tables have a key of one name. */
function sharedKey(sheet: Sheet, texts: Sheet, { tables }: Context): { key: SheetColumn | null; messageKey: SheetColumn | null } {
	for (const key of sheet.columns) {
		const messageKey = texts.columns.find((c) => c.name === key.name);
		if (!messageKey || !key.profile.unique || !messageKey.profile.unique || key.profile.time) continue;
		const known = new Set(texts.rows.map((row) => keyOf(cell(row, messageKey, tables))));
		if (sheet.rows.some((row) => known.has(keyOf(cell(row, key, tables))))) return { key, messageKey };
	}
	return { key: null, messageKey: null };
}

/** Files that stand beside a text of the same key and time are that message's; the others are messages of their own. */
export function filesToTheirTexts(messages: readonly Understood[], tables: Context['tables']): Understood[] {
	const texts = new Map<MessageReading, Map<string, Understood>>();
	const textsOf = (of: MessageReading, column: SheetColumn): Map<string, Understood> => {
		let known = texts.get(of);
		if (!known) {
			known = new Map();
			texts.set(of, known);
			for (const u of messages) {
				const key = u.reading === of ? keyOf(cell(u.row, column, tables)) : null;
				if (key !== null && (u.row.standing === 'kept' || !known.has(String(key)))) known.set(String(key), u);
			}
		}
		return known;
	};
	/** What a file's lost row, of whose key something is gone, belongs to: the one message of that moment and conversation. */
	const lostKeyOf = (u: Understood): Understood | undefined => {
		if (u.row.standing === 'kept' || u.sentAt === null) return undefined;
		const there = (byMoment().get(momentOf(u)) ?? []).filter((t) => t.reading === u.reading.alone!.of);
		return there.length === 1 ? there[0] : undefined;
	};
	let moments: Map<string, Understood[]> | null = null;
	const momentOf = ({ sentAt, threadKey }: Understood): string => `${sentAt} ${threadKey}`;
	const byMoment = (): ReadonlyMap<string, Understood[]> => {
		if (moments) return moments;
		moments = new Map();
		for (const m of messages) {
			const list = moments.get(momentOf(m));
			if (list) list.push(m);
			else moments.set(momentOf(m), [m]);
		}
		return moments;
	};
	return messages.filter((u) => {
		const alone = u.reading.alone;
		if (!alone?.key || !alone.messageKey) return true;
		const text = textsOf(alone.of, alone.messageKey).get(String(keyOf(cell(u.row, alone.key, tables)))) ?? lostKeyOf(u);
		if (!text || text.sentAt !== u.sentAt) return true;
		for (const file of u.files) if (!text.files.some((f) => f.name === file.name && f.path === file.path)) text.files.push(file);
		return false;
	});
}
