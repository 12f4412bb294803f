/** Rows that are of another kind than messages, and those that the store itself marks deleted. */
import type { Context } from './context';
import type { MessageReading } from './reading';
import { keyOf } from './refs';
import { cell } from './sheet';

export const NOT_A_MESSAGE =
	/^(call|calls|voip|missed|system|sys|notice|notification|info|event|join|leave|status|meta|service|control|receipt|reaction|typing)$/i;

/**
 * A column that says of what kind a row is: where rows with one of its values never hold writing while others do, or
 * the value itself names something that is no message.
 */
export function findOtherKinds(reading: MessageReading, context: Context): MessageReading['otherKinds'] {
	const direction = reading.direction.value;
	for (const column of reading.sheet.columns) {
		const p = column.profile;
		if (column === reading.text.value || column.column < 0 || p.time || p.many || p.distinct.size < 2 || p.distinct.size > 12) continue;
		if ('column' in direction && direction.column === column) continue;
		// What a message states of a file is no kind of row.
		if (p.mime > 0.3 || p.path > 0.3) continue;
		const stats = new Map<string | number, { rows: number; prose: number }>();
		for (const row of reading.sheet.sure.slice(0, 8000)) {
			const kind = keyOf(cell(row, column, context.tables));
			if (kind === null) continue;
			const text = cell(row, reading.text.value, context.tables);
			const s = stats.get(kind) ?? { rows: 0, prose: 0 };
			s.rows++;
			if (typeof text === 'string' && /\p{L}{2}|\p{Extended_Pictographic}|[\u3040-\u9fff]/u.test(text)) s.prose++;
			stats.set(kind, s);
		}
		const some = [...stats.values()].some((s) => s.rows >= 5 && s.prose > s.rows * 0.7);
		const others = [...stats]
			.filter(([kind, s]) => (s.rows >= 4 && s.prose < s.rows * 0.05) || (typeof kind === 'string' && NOT_A_MESSAGE.test(kind)))
			.map(([kind]) => kind);
		if (some && others.length > 0 && others.length < stats.size) {
			return { value: { column, values: others }, confidence: 0.7, evidence: [`rows with ${others.join(', ')} hold no writing`] };
		}
	}
	return null;
}

const DELETED_HINT = /delet|trash|recycl|remov|(^|_)bin(ned)?(_|$)|tomb|gone|hidden/i;

/** A flag by whose name the store marks messages deleted but kept. Only a name says so; values alone never do. */
export function findDeletedFlag(reading: MessageReading, context: Context): MessageReading['deleted'] {
	for (const column of reading.sheet.columns) {
		if (!DELETED_HINT.test(column.name) || column === reading.text.value || column === reading.time?.value) continue;
		const p = column.profile;
		const kept = reading.sheet.rows.filter((r) => r.standing === 'kept');
		if (p.time || (p.ints > 0 && p.distinct.size > 8)) {
			const values = [...p.distinct.keys()].filter((v) => v !== 0);
			return { value: { column, values }, confidence: 0.7, evidence: ['its name says deletion and its values are times'] };
		}
		if (p.ints === 0 || p.distinct.size > 4) continue;
		const marked = [...p.distinct.keys()].filter((v) => v !== 0 && v !== '0');
		const share = kept.filter((r) => marked.includes(keyOf(cell(r, column, context.tables)) ?? 0)).length / Math.max(1, kept.length);
		if (marked.length > 0 && share < 0.6)
			return {
				value: { column, values: marked },
				confidence: 0.7,
				evidence: ['its name says deletion', `${Math.round(share * 100)} % of the rows in use are so marked`]
			};
	}
	return null;
}
