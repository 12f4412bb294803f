/** Of several tables of messages one with few rows is read as the others are: the same program wrote them. */
import type { DirectionRule, MessageReading } from './reading';
import { areOneTable, type Sheet, type SheetColumn } from './sheet';

/** Rows up to which a table says little by itself, and how surely it must say the way to be believed. */
const FEW = 20;
const SURE = 0.8;

/** Rows of one table that came apart by what they hold say by the same columns who wrote, where and which way: as the most of them do. */
export function readOneTableAlike(messages: readonly MessageReading[]): void {
	for (const m of messages)
		for (const like of messages) {
			if (like === m || !areOneTable(m.sheet, like.sheet) || like.sheet.sure.length < m.sheet.sure.length * MOST) continue;
			const roles = rolesIn(m.sheet, like);
			if (roles) Object.assign(m, roles, like.membersTold ? { membersTold: { ...like.membersTold, of: m } } : {});
		}
}
const MOST = 1.5;

type Roles = Pick<MessageReading, 'peer' | 'sender' | 'recipient' | 'thread' | 'participant' | 'direction'>;

/** The roles of another sheet's columns by those of this one; null where one is not there, or nothing says the way. */
function rolesIn(sheet: Sheet, like: MessageReading): (Roles & Partial<MessageReading>) | null {
	const own = (c: SheetColumn): SheetColumn | undefined =>
		c.made
			? undefined
			: sheet.columns.find((o) => !o.made && o.column === c.column && o.path.join() === c.path.join() && o.profile.filled > 0);
	const rule = like.direction.value;
	const ruled: DirectionRule | null = 'column' in rule ? withColumn(rule, own(rule.column)) : rule;
	if (rule.kind === 'unknown' || rule.kind === 'sheet' || !ruled || like.threadJoin) return null;
	let isWhole = true;
	const of = <T extends { value: SheetColumn }>(role: T | null): T | null => {
		const value = role && own(role.value);
		if (role && !value) isWhole = false;
		return role && value ? { ...role, value } : null;
	};
	const { ownParticipant, threadPeer, isGroup, takingPart, rooms } = like;
	const roles = {
		peer: of(like.peer),
		sender: of(like.sender),
		recipient: of(like.recipient),
		thread: of(like.thread),
		participant: of(like.participant),
		direction: { ...like.direction, value: ruled },
		...{ ownParticipant, threadPeer, isGroup, takingPart, rooms }
	};
	return isWhole ? (roles as Roles & Partial<MessageReading>) : null;
}

const withColumn = (rule: DirectionRule & { column: SheetColumn }, column: SheetColumn | undefined): DirectionRule | null =>
	column ? ({ ...rule, column } as DirectionRule) : null;

/** Takes the way of a table of few messages from a larger one that has a column called alike, with the same values. */
export function readFewAlike(messages: readonly MessageReading[]): void {
	for (const m of messages) {
		if (m.sheet.sure.length > FEW && m.direction.value.kind !== 'unknown') continue;
		for (const other of messages) {
			const rule = other.direction.value;
			if (other === m || rule.kind !== 'flag' || other.sheet.sure.length <= m.sheet.sure.length) continue;
			const fit = m.sheet.columns.filter((c) => !c.made && !c.aside && c.profile.filled > 0 && holdsOnly(c, [...rule.out, ...rule.in]));
			const isOpen = m.direction.value.kind !== 'flag' && m.direction.confidence < SURE && m.sheet.sure.length <= FEW;
			const column =
				fit.find((c) => c.name === rule.column.name) ??
				(isOpen ? fit.find((c) => c.profile.distinct.size > 1 && isCalledWay(c)) : undefined);
			if (!column) continue;
			m.direction = {
				value: { ...rule, column },
				confidence: other.direction.confidence,
				evidence: [`${other.sheet.name} tells it by such a column`]
			};
			for (const part of ['sender', 'peer', 'thread'] as const) if (m[part]?.value === column) m[part] = null;
			break;
		}
	}
}

/** Of two tables, one of what was sent and one of what was received, few rows of the one are of rooms: the other says which column names them. */
export function readHalvesAlike(messages: readonly MessageReading[]): void {
	const wayOf = ({ direction: { value } }: MessageReading): string | null => (value.kind === 'sheet' ? value.direction : null);
	for (const m of messages) {
		const other = messages.find((o) => (o.thread ?? o.group) && wayOf(o) !== null && wayOf(o) !== wayOf(m));
		if (!other || wayOf(m) === null || m.thread || m.threadJoin || m.group) continue;
		const { name } = other.thread?.value ?? other.group!;
		const column = m.sheet.columns.find((c) => !c.made && c.name === name && c.profile.filled > 0);
		if (!column || [m.text, m.time, m.peer, m.sender].some((p) => p?.value === column)) continue;
		if (other.thread) m.thread = { ...other.thread, value: column, evidence: [`${other.sheet.name} has such a column for it`] };
		else m.group = column;
	}
}

/** Whether a column is called for which way messages went. */
export const isCalledWay = ({ name }: SheetColumn): boolean => /box|dir|folder|way|from_?me|mine|sent|outgoing/i.test(name);

const holdsOnly = ({ profile: p }: SheetColumn, values: readonly (string | number)[]): boolean =>
	!p.many && [...p.distinct.keys()].every((v) => values.includes(v));
