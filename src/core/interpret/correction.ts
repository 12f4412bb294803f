/**
 * What a user puts right in the reading of a store, as a small open file: the roles of tables and columns by their
 * names. It fits every capture of the same store, and every other store declared alike.
 */
import { z } from 'zod';
import type { Table } from '../model';
import type { DirectionRule, MessageReading, SheetRole } from './reading';
import { keyOf, type Key, type Reference } from './refs';
import type { Sheet, SheetColumn } from './sheet';
import { timeReading } from './time';

export const columnRoleSchema = z.enum(['text', 'time', 'writer', 'recipient', 'correspondent', 'thread', 'direction', 'deleted', 'none']);
export type ColumnRole = z.infer<typeof columnRoleSchema>;

export const tableRoleSchema = z.enum(['messages', 'persons', 'other']);

const valueSchema = z.union([z.string().max(200), z.number()]);

export const correctionSchema = z.object({
	format: z.literal('ombudsman-reading'),
	version: z.literal(1),
	tables: z
		.array(
			z.object({
				table: z.string().max(300),
				/** Names of the declared columns, in order: by them a table is known again. */
				declared: z.array(z.string().max(300)).max(2000),
				role: tableRoleSchema.optional(),
				columns: z
					.array(
						z.object({
							column: z.string().max(400),
							role: columnRoleSchema,
							/** For a time: epoch and unit, as named on the screen. */
							time: z.string().max(60).optional(),
							/** For the direction: the values that mean sent. For a deletion mark: those that mean deleted. */
							values: z.array(valueSchema).max(100).optional()
						})
					)
					.max(2000)
			})
		)
		.max(2000)
});
export type Correction = z.infer<typeof correctionSchema>;
export type TableCorrection = Correction['tables'][number];

/** The correction of a sheet: the one for a table of its name and columns, else for one of its columns alone. */
export function correctionFor(sheet: Sheet, tables: readonly Table[], correction: Correction | null): TableCorrection | null {
	if (!correction) return null;
	const first = tables[sheet.tables[0]!]!;
	const declared = JSON.stringify(first.columns.map((c) => c.name));
	const fitting = correction.tables.filter((t) => JSON.stringify(t.declared) === declared);
	return fitting.find((t) => sheet.tables.some((i) => tables[i]!.name === t.table)) ?? (sheet.family ? (fitting[0] ?? null) : null);
}

export const roleWanted = (entry: TableCorrection | null): SheetRole | null => entry?.role ?? null;

const columnOf = (sheet: Sheet, name: string): SheetColumn | null => sheet.columns.findLast((c) => c.name === name) ?? null;

/** The text column a correction names. */
export function correctedText(sheet: Sheet, entry: TableCorrection): SheetColumn | null {
	const named = entry.columns.find((c) => c.role === 'text');
	return named ? columnOf(sheet, named.column) : null;
}

/** Puts the corrected columns in place of those inferred. */
export function correctColumns(m: MessageReading, entry: TableCorrection, references: readonly Reference[]): void {
	const why = { confidence: 1, evidence: ['put right by the user'] };
	const keyFor = (column: SheetColumn): Key | null => references.find((r) => r.from === column && r.confidence > 0.2)?.key ?? null;
	for (const { column: name, role, time, values } of entry.columns) {
		const column = columnOf(m.sheet, name);
		if (!column) continue;
		release(m, column);
		const party = { value: column, key: keyFor(column), ...why };
		if (role === 'text') m.text = { value: column, ...why };
		else if (role === 'time') {
			const inferred = column.profile.time;
			const stated = time ? timeReading(time) : null;
			// What the numbers count from is stated; how they are stored is as it was found.
			const reading = stated
				? { ...stated, bytes: inferred?.bytes, hexadecimal: inferred?.hexadecimal, negative: inferred?.negative }
				: inferred;
			if (reading) m.time = { value: column, reading, ...why };
		} else if (role === 'writer') m.sender = party;
		else if (role === 'recipient') m.recipient = party;
		else if (role === 'correspondent') m.peer = party;
		else if (role === 'thread') m.thread = party;
		else if (role === 'direction') m.direction = { value: directionBy(column, values ?? []), ...why };
		else if (role === 'deleted')
			m.deleted = { value: { column, values: values ?? [1], ...(values?.length === 0 ? { isAny: true as const } : {}) }, ...why };
	}
}

function directionBy(column: SheetColumn, out: (string | number)[]): DirectionRule {
	const all = [...column.profile.distinct.keys()];
	return { kind: 'flag', column, out, in: all.filter((v) => keyOf(v) !== null && !out.includes(v)) };
}

/** Takes a column out of every role but that of the text, which is only ever replaced. */
function release(m: MessageReading, column: SheetColumn): void {
	if (m.time?.value === column) m.time = null;
	if (m.peer?.value === column) m.peer = null;
	if (m.sender?.value === column) m.sender = null;
	if (m.recipient?.value === column) m.recipient = null;
	if (m.participant?.value === column) m.participant = null;
	if (m.thread?.value === column) m.thread = null;
	if (m.deleted?.value.column === column) m.deleted = null;
	if (m.otherKinds?.value.column === column) m.otherKinds = null;
	if ('column' in m.direction.value && m.direction.value.column === column)
		m.direction = { value: { kind: 'unknown' }, confidence: 1, evidence: ['put right by the user'] };
}
