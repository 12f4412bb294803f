/** Which way a row's message went, as the rule of its table says it; null where it says nothing of that row. */
import type { Direction, Row, Value } from '../model';
import type { DirectionRule } from './reading';
import { keyOf } from './refs';
import type { SheetColumn } from './sheet';

export function wayOf(rule: DirectionRule, row: Row, get: (column: SheetColumn) => Value | undefined): Direction | null {
	switch (rule.kind) {
		case 'table':
		case 'flag': {
			if (rule.kind === 'table' && !row.tableKnown) return null;
			const value = keyOf(get(rule.column));
			if (value === null) return null;
			if (rule.kind === 'flag' && rule.bit && typeof value === 'number')
				return ((value & rule.bit.mask) !== 0) === rule.bit.out ? 'out' : 'in';
			if (rule.out.includes(value)) return 'out';
			return rule.in.includes(value) ? 'in' : null;
		}
		case 'sender': {
			const raw = get(rule.column);
			if (raw === undefined) return null;
			const value = keyOf(raw);
			return value !== null && rule.owner.some((o) => String(o) === String(value)) ? 'out' : value === null ? null : 'in';
		}
		case 'sender-empty': {
			const raw = get(rule.column);
			// An export leaves out what is not there.
			if (raw === undefined && row.sightings[0]?.method !== 'exported') return null;
			const value = keyOf(raw);
			return value === null || value === 0 ? 'out' : 'in';
		}
		case 'sign': {
			const value = Number(get(rule.column) ?? NaN);
			return Number.isNaN(value) || value === 0 ? null : value < 0 === rule.outNegative ? 'out' : 'in';
		}
		case 'sheet':
			// Of two boxes that look alike nothing says which one it was in.
			return row.tableByLooks ? null : rule.direction;
		default:
			return null;
	}
}
