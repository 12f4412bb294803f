/** Messages put aside in a table of their own (a bin), that say by the name of the table they came from which way they went. */
import { areNames } from './keys-by-kind';
import type { MessageReading } from './reading';

/** Gives each table of messages the way that the names of others tell, where a column of it has those names alone. */
export function wayByTables(messages: readonly MessageReading[]): void {
	const ways = new Map<string, 'in' | 'out'>();
	for (const { sheet, direction } of messages)
		if (direction.value.kind === 'sheet') ways.set(sheet.name.toLowerCase(), direction.value.direction);
	if (ways.size === 0) return;
	for (const m of messages) {
		const column = m.sheet.columns.find((c) => !c.made && areNames(c, ways));
		if (!column || m.direction.value.kind === 'sheet') continue;
		const values = [...column.profile.distinct.keys()];
		const sent = (way: 'in' | 'out'): (string | number)[] => values.filter((v) => ways.get(String(v).toLowerCase()) === way);
		m.direction = {
			value: { kind: 'flag', column, out: sent('out'), in: sent('in') },
			confidence: 0.9,
			evidence: ['its rows name the table they came from']
		};
		for (const part of ['sender', 'peer', 'thread'] as const) if (m[part]?.value === column) m[part] = null;
		// The row's number there is no conversation.
		const isOfTable = messages.some(({ sheet }) => sheet === m.thread?.key?.sheet && ways.has(sheet.name.toLowerCase()));
		if (isOfTable) m.thread = null;
	}
}
