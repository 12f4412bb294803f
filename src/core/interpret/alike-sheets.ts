/** Of several tables of messages one with few rows is read as the others are: the same program wrote them. */
import type { MessageReading } from './reading';
import type { SheetColumn } from './sheet';

/** Rows up to which a table says little by itself. */
const FEW = 20;

/** Takes the way of a table of few messages from a larger one that has a column called alike, with the same values. */
export function readFewAlike(messages: readonly MessageReading[]): void {
	for (const m of messages) {
		if (m.sheet.sure.length > FEW && m.direction.value.kind !== 'unknown') continue;
		for (const other of messages) {
			const rule = other.direction.value;
			if (other === m || rule.kind !== 'flag' || other.sheet.sure.length <= m.sheet.sure.length) continue;
			const column = m.sheet.columns.find((c) => isCalledAs(c, rule.column) && holdsOnly(c, [...rule.out, ...rule.in]));
			if (!column) continue;
			m.direction = {
				value: { ...rule, column },
				confidence: other.direction.confidence,
				evidence: [`${other.sheet.name} tells it by a column called alike`]
			};
			for (const part of ['sender', 'peer', 'thread'] as const) if (m[part]?.value === column) m[part] = null;
			break;
		}
	}
}

const isCalledAs = (c: SheetColumn, other: SheetColumn): boolean => c.name === other.name && !c.made && !c.aside && c.profile.filled > 0;

const holdsOnly = ({ profile: p }: SheetColumn, values: readonly (string | number)[]): boolean =>
	!p.many && [...p.distinct.keys()].every((v) => values.includes(v));
