/** Rules by which the direction of messages is told: made, and in words. */
import type { DirectionRule, Guess } from './reading';
import type { SheetColumn } from './sheet';

export type Flag = string | number;

/** The rule by which one and the same writer is the owner; `found` is what else would say it. */
export const bySender = (
	column: SheetColumn,
	owner: Flag,
	why: string,
	found: Guess<DirectionRule>,
	confidence = 0.9
): Guess<DirectionRule> => ({
	value: { kind: 'sender', column, owner: [owner] },
	confidence,
	evidence: [why],
	...(found.value.kind === 'unknown' || ('column' in found.value && found.value.column === column)
		? {}
		: { runnerUp: inWords(found.value) })
});

/** A rule as the runner-up is shown: what else could tell the way. */
export function inWords(rule: DirectionRule): string {
	switch (rule.kind) {
		case 'flag':
			return rule.column.name;
		case 'sender':
			return `who wrote (${rule.column.name})`;
		case 'sender-empty':
			return `whether ${rule.column.name} names anybody`;
		case 'sign':
			return `the sign of ${rule.column.name}`;
		case 'table':
		case 'sheet':
			return 'the table it stands in';
		case 'unknown':
			return 'not known';
	}
}

export const columnOf = (rule: DirectionRule): string => ('column' in rule ? rule.column.name : rule.kind);

export const flag = (column: SheetColumn, out: Flag[], incoming: Flag[]): Extract<DirectionRule, { kind: 'flag' }> => ({
	kind: 'flag',
	column,
	out,
	in: incoming
});
