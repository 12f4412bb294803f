/**
 * Where each message says which way it went and with whom, and a column beside names each conversation as that person, but
 * for some in which several write: those are rooms, and what stands beside says who wrote there.
 */
import { FILE_COLUMN } from '../harvest';
import type { Direction, Row, Table, Value } from '../model';
import { profileOf } from './profile';
import type { MessageReading } from './reading';
import { keyOf } from './refs';
import { cell, sampleOf, type SheetColumn } from './sheet';
import { wayOf } from './way-by-rule';

const NEARLY_ALL = 0.95;
/** Conversations that must be called as who writes in them. */
const TALKS_LEAST = 2;

type Role = NonNullable<MessageReading['sender']>;

/** What names the conversations, and who wrote what was received in them; null where no column names them so. */
export function talksBesideParty(m: MessageReading, rows: readonly Row[], tables: readonly Table[]): { thread: Role; sender: Role } | null {
	const peer = m.peer?.value;
	if (!peer || m.thread || m.participant || m.direction.value.kind !== 'flag') return null;
	const wayIn = (row: Row): Direction | null => wayOf(m.direction.value, row, (column) => cell(row, column, tables));
	const names = m.sheet.columns.filter((c) => c !== peer && c !== m.text.value && !c.made && areNames(c));
	for (const party of [peer, ...names]) {
		const thread = m.sheet.columns.find((c) => c !== party && canCall(c) && callsTalks(c, party));
		if (!thread) continue;
		const read = (row: Row): Value | undefined => (wayIn(row) === 'out' ? null : cell(row, party, tables));
		const value = { ...party, made: { read }, profile: profileOf(m.sheet.sure, read, sampleOf(m.sheet.sure)) };
		return {
			thread: { value: thread, key: null, confidence: 0.8, evidence: ['it is called as the one who writes in it, or as a room'] },
			sender: { value, key: null, confidence: 0.8, evidence: ['it names who wrote what was received'] }
		};
	}
	return null;

	/** Whether several conversations are called as the one who writes in them, and in the others some of these do. */
	function callsTalks(talk: SheetColumn, party: SheetColumn): boolean {
		const writers = new Map<string | number, Set<string | number>>();
		for (const row of rows) {
			const [of, who] = [keyOf(cell(row, talk, tables)), keyOf(cell(row, party, tables))];
			if (of !== null && who !== null && wayIn(row) === 'in') writers.set(of, (writers.get(of) ?? new Set()).add(who));
		}
		const rooms = [...writers].filter(([of, who]) => !who.has(of));
		return writers.size - rooms.length >= TALKS_LEAST && rooms.some(([, who]) => who.size > 1 && [...who].some((w) => writers.has(w)));
	}

	function canCall({ column, made, name, profile: p }: SheetColumn): boolean {
		return (
			column >= 0 && !made && name !== FILE_COLUMN && !p.time && !p.many && p.texts === p.filled && p.filled >= rows.length * NEARLY_ALL
		);
	}
}

const NAME = /(?:^|\s)[\p{Lu}\p{Lo}]|^\+?\d[\d\s()./-]{5,}$|@/u;
const NAMES = 0.6;
/** Whether most of its values are written like names, numbers or addresses. */
export const areNames = ({ profile }: SheetColumn): boolean => {
	const values = [...profile.distinct.keys()].map(String);
	return values.filter((v) => NAME.test(v)).length > values.length * NAMES;
};
