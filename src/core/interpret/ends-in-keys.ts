/**
 * Conversations called by both who take part ("+447700900123:+447700900456"): one of them is in all such keys, and is the
 * owner; the other gets a column of its own, empty where a key is that of a room.
 */
import type { Row, Table, Value } from '../model';
import { bestText, recurs } from './columns';
import type { Context } from './context';
import { profileOf } from './profile';
import type { MessageReading } from './reading';
import { keyOf, type Key, type Reference } from './refs';
import { cell, sampleOf, type Sheet, type SheetColumn } from './sheet';

/** Conversations of two from which it is told, and share of all conversations of the sheet that they must be. */
const LEAST = 2;
const SHARE = 0.4;
const LONGEST = 160;
/** Places of a key where it may be parted, at most. */
const PLACES = 16;

const ADDRESS = /^\+?\d{7,15}$|^[^@\s:|]+@[^@\s:|]+\.[^@\s:|]+$/;
/** What stands between the parts of a key; lists have commas and semicolons, and are read as such. */
const SEPARATOR = /[:|_~/#\s-]+/g;

type Ends = readonly [string, string];

/** Adds the columns to sheets of texts. `keys`: of all sheets. Returns who is in all of the keys. */
export function openEndsInKeys(sheets: readonly Sheet[], keys: readonly Key[], tables: readonly Table[]): string[] {
	const listed = keys.filter(({ values }) => values.size > LEAST).map((key) => ({ key, has: (end: string) => hasKey(key, end) }));
	return sheets.flatMap((sheet) => {
		if (!bestText(sheet)) return [];
		for (const column of sheet.columns.filter(
			(c) => recurs(c, sheet) && c.profile.distinct.size >= LEAST && c.profile.averageLength < LONGEST
		)) {
			const values = [...column.profile.distinct.keys()].map(String);
			const areListed = listed.filter(({ key }) => key.sheet !== sheet).map(({ has }) => has);
			for (const isEnd of [(end: string): boolean => ADDRESS.test(end), ...areListed]) {
				const owner = inAll(values, isEnd);
				if (owner === null) continue;
				addOther(sheet, column, owner, isEnd, tables);
				return [owner];
			}
		}
		return [];
	});
}

/** Whether a part of a key is one of a table, as a text or as a number. */
const hasKey = ({ values }: Key, end: string): boolean => values.has(end) || (/^[1-9]\d{0,14}$/.test(end) && values.has(Number(end)));

/** Both ends of a key, where it can be parted into two of them. */
function endsOf(key: string, isEnd: (end: string) => boolean): Ends | null {
	for (const { 0: sign, index } of [...key.matchAll(SEPARATOR)].slice(0, PLACES)) {
		const ends: Ends = [key.slice(0, index), key.slice(index + sign.length)];
		if (ends.every(isEnd) && ends[0] !== ends[1]) return ends;
	}
	return null;
}

/** The one who is in all keys that have two ends, where these are enough and each other one is in one of them; null where that is nobody. */
function inAll(values: readonly string[], isEnd: (end: string) => boolean): string | null {
	// What names all who take part, be they two or more, is a list as well.
	const listsMore = (value: string): boolean => value.split(SEPARATOR).length > 2 && value.split(SEPARATOR).every(isEnd);
	if (values.some(listsMore)) return null;
	const ofTwo = values.map((value) => endsOf(value, isEnd)).filter((ends) => ends !== null);
	const [first] = ofTwo;
	if (!first || ofTwo.length < LEAST || ofTwo.length < values.length * SHARE) return null;
	const owners = first.filter((end) => ofTwo.every((ends) => ends.includes(end)));
	const others = new Set(ofTwo.flat()).size - 1;
	return owners.length === 1 && others === ofTwo.length ? owners[0]! : null;
}

function addOther(sheet: Sheet, column: SheetColumn, owner: string, isEnd: (end: string) => boolean, tables: readonly Table[]): void {
	const known = new Map<string, string | null>();
	const otherOf = (key: string): string | null => {
		if (!known.has(key)) known.set(key, endsOf(key, isEnd)?.find((end) => end !== owner) ?? null);
		return known.get(key)!;
	};
	const read = (row: Row): Value | undefined => {
		const key = keyOf(cell(row, column, tables));
		return key === null ? undefined : (otherOf(String(key)) ?? undefined);
	};
	sheet.columns.push({
		name: `${column.name} (other end)`,
		column: column.column,
		path: ['other end'],
		made: { read, ofEnds: { owner, isOfTwo: (key) => otherOf(String(key)) !== null } },
		profile: profileOf(sheet.sure, read, sampleOf(sheet.sure))
	});
}

/** Conversations are called by both of their ends, of which one is the owner. */
export function talkOfEnds(
	reading: MessageReading,
	ends: SheetColumn,
	refs: readonly Reference[],
	persons: ReadonlySet<Sheet>,
	{ keys }: Pick<Context, 'keys'>
): void {
	const { sheet } = reading;
	const value = sheet.columns.find((c) => c.column === ends.column && c.path.length === 0 && !c.made);
	if (!value) return;
	// A list of rooms alone has the few other keys.
	const rooms = [...value.profile.distinct.keys()].filter((of) => !ends.made!.ofEnds!.isOfTwo(of));
	const ofRooms = keys.find(
		(key) => key.sheet !== sheet && !persons.has(key.sheet) && rooms.length > 0 && rooms.every((of) => key.values.has(of))
	);
	const key = refs.find((r) => r.from === value && !persons.has(r.key.sheet))?.key ?? ofRooms ?? null;
	const evidence = [`it names both ends, of which ${ends.made!.ofEnds!.owner} is the owner`];
	reading.thread = { value, key, confidence: 0.9, evidence };
	const writers = [reading.participant, reading.sender, reading.peer];
	reading.participant = writers.find((w) => w && w.value.column !== ends.column) ?? null;
	reading.peer = {
		value: ends,
		key: refs.find((r) => r.from === ends && persons.has(r.key.sheet))?.key ?? null,
		confidence: 0.9,
		evidence
	};
	reading.sender = reading.recipient = null;
}
