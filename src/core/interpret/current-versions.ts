/**
 * Messages whose texts stand in a table of versions, each with its time: a message names the version that counts, and each
 * version its message. The messages get its text, and the time of their first one; the others are earlier wordings.
 */
import type { Row, Value } from '../model';
import { bestText, bestTime } from './columns';
import type { Context } from './context';
import { profileOf } from './profile';
import { keyOf, type Reference } from './refs';
import { addColumn, rowsByMessage, type RowsOfMessages } from './rows-of-messages';
import { cell, isOwnNumber, sampleOf, type Made, type Sheet } from './sheet';

const SURE = 0.6;
const NEARLY_ALL = 0.95;
const PROSE = 0.3;
const LEAST = 6;
/** Versions that a message has on average, at most: a conversation has more messages than that, and names the last of them. */
const VERSIONS = 1.6;
const LAST_NAMED = /last|latest|newest|recent|preview|snippet|top/i;

/** Adds the columns; the tables of versions. */
export function openCurrentVersions(context: Context): Set<Sheet> {
	const { sheets, tables, references } = context;
	const found = new Set<Sheet>();
	for (const messages of sheets) {
		if (messages.family || messages.sure.length < LEAST || bestTime(messages, tables) || isWritten(messages)) continue;
		const current = (references.get(messages) ?? []).find((r) => isCurrent(r, messages, context));
		const versions = current?.key.sheet;
		const [text, time] = versions ? [bestText(versions), bestTime(versions, tables)] : [null, null];
		const back = versions && (references.get(versions) ?? []).find((r) => namesMessage(r, versions, messages, context));
		if (!current || !versions || !text || text.value.profile.prose < PROSE || !time || !back) continue;
		const byKey = new Map(versions.rows.map((row) => [keyOf(current.key.column ? cell(row, current.key.column, tables) : row.rowid), row]));
		const made: Made = {
			read: (row): Value | undefined => {
				const version = byKey.get(keyOf(cell(row, current.from, tables)));
				return version && cell(version, text.value, tables);
			}
		};
		const name = `${versions.name}.${text.value.name}`;
		messages.columns.push({
			name,
			column: current.from.column,
			path: [name],
			made,
			profile: profileOf(messages.sure, made.read, sampleOf(messages.sure))
		});
		const rows: RowsOfMessages = { list: versions, messages, key: back.from, own: back.key.column };
		const of = rowsByMessage(rows, tables);
		const first = (row: Row): Value | undefined => {
			const times = of(row)
				.map((one) => keyOf(cell(one, time.value, tables)))
				.filter((at) => at !== null);
			return times.length === 0 ? undefined : times.reduce((low, at) => (at < low ? at : low));
		};
		addColumn(rows, `${versions.name}.${time.value.name}`, { read: first }, tables);
		found.add(versions);
	}
	return found;
}

/** Whether a version's column names its message, by the message's own number or key: a list of pairs has none. */
function namesMessage({ from, key, confidence }: Reference, versions: Sheet, messages: Sheet, { tables }: Context): boolean {
	const { rowidColumn, primaryKey } = tables[messages.tables[0]!]!;
	const isOwnKey = key.column === null ? rowidColumn >= 0 : primaryKey.length === 1 && primaryKey[0] === key.column.column;
	return key.sheet === messages && isOwnKey && confidence > SURE && from.profile.time === null && !isOwnNumber(from, versions, tables);
}

const isWritten = (sheet: Sheet): boolean => sheet.columns.some((c) => c.profile.prose > PROSE);

/** Whether nearly each row names another one there, of its own. */
const isCurrent = ({ from, key, confidence, inclusion }: Reference, messages: Sheet, { tables }: Context): boolean =>
	key.sheet !== messages &&
	confidence > SURE &&
	inclusion >= NEARLY_ALL &&
	from.profile.filled >= messages.sure.length * NEARLY_ALL &&
	from.profile.distinct.size >= from.profile.filled * NEARLY_ALL &&
	!LAST_NAMED.test(from.name) &&
	key.sheet.sure.length <= messages.sure.length * VERSIONS &&
	!isOwnNumber(from, messages, tables);
