/** The one room of all messages of a table, in which who wrote is named, and nobody to whom: one and the same row of another list. */
import type { Row } from '../model';
import { isConstant } from './columns';
import type { Context } from './context';
import type { MessageReading } from './reading';
import { keyOf } from './refs';
import { cell } from './sheet';

const ROWS = 2000;
const SENT_LEAST = 4;
const NEARLY_ALL = 0.95;
const SURE = 0.45;

/** What names the room in every row, or null where something else says whom a message is with. */
export function roomOfAll(
	{ sheet, peer, sender, participant, recipient, direction }: MessageReading,
	context: Context
): MessageReading['thread'] {
	const { tables } = context;
	const rule = direction.value;
	const writer = sender ?? peer;
	if (!writer || participant || recipient || sheet.family || writer.value.profile.distinct.size < 2) return null;
	const rows = sheet.sure.slice(0, ROWS);
	const writes = (row: Row): string | number | null => keyOf(cell(row, writer.value, tables));
	if (rule.kind === 'flag' && writer === peer) {
		const isSent = (row: Row): boolean => rule.out.includes(keyOf(cell(row, rule.column, tables)) ?? '');
		const odd = rows.filter((row) => isSent(row) !== (writes(row) === null));
		if (odd.length > rows.length * (1 - NEARLY_ALL) || rows.filter(isSent).length < SENT_LEAST) return null;
	} else if (rule.kind === 'sender' && rule.column === writer.value) {
		const own = rows.filter((row) => rule.owner.includes(writes(row) ?? ''));
		if (own.length < SENT_LEAST || writer.value.profile.distinct.size <= 2) return null;
	} else return null;
	const room = (context.references.get(sheet) ?? []).find(
		({ from, confidence }) =>
			from !== writer.value && confidence >= SURE && isConstant(from, sheet) && !from.made && from.profile.filled >= sheet.sure.length
	);
	if (!room) return null;
	const evidence = [`it names one and the same row of ${room.key.sheet.name}, and nothing names anybody beside what was sent`];
	return { value: room.from, key: room.key, confidence: room.confidence, evidence };
}
