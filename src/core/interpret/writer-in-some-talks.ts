/**
 * Who wrote in rooms, where each message says which way it went and a column has names only in what was received in some of
 * the conversations: those are rooms, and in the others there is but one who can have written.
 */
import type { Row } from '../model';
import type { Context } from './context';
import { wayOf } from './way-by-rule';
import type { MessageReading } from './reading';
import { keyOf } from './refs';
import { cell, type SheetColumn } from './sheet';

const ROWS = 4000;
const FEWEST = 3;
const NEARLY_ALL = 0.95;
const NAMES = 0.8;
const SURE = 0.7;

/** The column of names; null where another one says who wrote, or none does. */
export function writerInSomeTalks(m: MessageReading, context: Context): MessageReading['participant'] {
	const talk = m.thread?.value ?? m.peer?.value;
	if (!talk || m.participant || m.sender || m.recipient || m.direction.value.kind === 'unknown' || m.direction.confidence < SURE)
		return null;
	const rows = m.sheet.sure.filter((row) => row.standing === 'kept').slice(0, ROWS);
	const canName = (c: SheetColumn): boolean => {
		const { profile: p } = c;
		const isTaken = [m.text.value, m.time?.value, talk, m.peer?.value].includes(c);
		return (
			!isTaken && c.column >= 0 && !p.time && p.texts === p.filled && p.filled >= FEWEST && p.name > NAMES && p.mime + p.path + p.uuid === 0
		);
	};
	const found = m.sheet.columns.find((c) => canName(c) && namesInRooms(c, talk, m, rows, context));
	if (!found) return null;
	const key = (context.references.get(m.sheet) ?? []).find((r) => r.from === found && r.inclusion >= NEARLY_ALL)?.key ?? null;
	return { value: found, key, confidence: 0.7, evidence: ['it is filled in what was received in some conversations, and in all of that'] };
}

function namesInRooms(c: SheetColumn, talk: SheetColumn, m: MessageReading, rows: readonly Row[], { tables }: Context): boolean {
	const talks = new Map<string | number, { named: Set<string | number>; filled: number; received: number }>();
	let outside = 0;
	for (const row of rows) {
		const [of, name] = [keyOf(cell(row, talk, tables)), keyOf(cell(row, c, tables))];
		const way = wayOf(m.direction.value, row, (column) => cell(row, column, tables));
		const isNamed = name !== null && name !== '';
		if (way !== 'in' || of === null) {
			if (isNamed) outside++;
			continue;
		}
		const one = talks.get(of) ?? { named: new Set(), filled: 0, received: 0 };
		talks.set(of, one);
		one.received++;
		if (isNamed) one.filled++;
		if (isNamed) one.named.add(name);
	}
	const all = [...talks.values()];
	const rooms = all.filter(({ filled }) => filled > 0);
	const named = rooms.reduce((sum, { filled }) => sum + filled, 0);
	return (
		named >= FEWEST &&
		outside <= named * (1 - NEARLY_ALL) &&
		rooms.length < all.length &&
		rooms.every(({ filled, received }) => filled >= received * NEARLY_ALL) &&
		rooms.some((room) => room.named.size > 1)
	);
}
