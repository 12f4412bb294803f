/** Messages of an export that stand under the one person each conversation is with: who that is, is said there for all of them. */
import type { Row, Table } from '../model';
import type { MessageReading, PersonReading } from './reading';
import { keyOf } from './refs';
import { cell, type Sheet } from './sheet';

/** Share of the received messages whose writer must be the person whose conversation they stand in. */
const MOSTLY = 0.9;

/** Makes the persons that hold the messages' lists the other side of each, where those who write are those persons. */
export function partnersOfLists(m: MessageReading, persons: readonly PersonReading[], tables: readonly Table[]): void {
	if (m.peer || m.recipient || m.direction.value.kind !== 'flag' || !m.thread || m.thread.key) return;
	const { value } = m.thread;
	const person = persons.find(({ sheet, via }) => via === null && sheet !== m.sheet && value.references === sheet.name);
	const address = person?.addresses[0];
	if (!person || !address) return;
	const rows = numbered(person.sheet);
	const writers = m.sheet.sure.flatMap((row) => {
		const by = m.sender ? keyOf(cell(row, m.sender.value, tables)) : null;
		const of = rows.get(String(keyOf(cell(row, value, tables))));
		return by === null || !of ? [] : [String(keyOf(cell(of, address, tables))) === String(by)];
	});
	if (writers.length === 0 || writers.filter((is) => is).length < writers.length * MOSTLY) return;
	m.peer = {
		value,
		key: { sheet: person.sheet, column: null, values: new Set(person.sheet.rows.flatMap((row) => keyOf(row.rowid) ?? [])) },
		confidence: 0.9,
		evidence: ['each list of messages is one person’s, who writes in it']
	};
	m.thread = null;
}

const numbered = ({ rows }: Sheet): Map<string, Row> => new Map(rows.map((row) => [String(row.rowid), row]));
