/** Where a text of records ends too early or is not what it should be, and which rows that leaves in part. */

/** What opens an element, and what closes it. */
const OPENS = /^<([\p{L}_][\p{L}\d_:.-]*)/u;

/** Characters at its end in which a text is closed; remarks may stand behind that. */
const LAST = 4096;

/** The end of a text of elements whose outermost one does not end; none where it does. */
export function unclosed(text: string): number[] {
	const begin = text.replace(/^(?:\ufeff|\s|<\?[\s\S]*?\?>|<!--[\s\S]*?-->|<![^>[]*(?:\[[^\]]*\])?[^>]*>)*/, '');
	const name = OPENS.exec(begin)?.[1];
	const end = text
		.slice(-LAST)
		.trimEnd()
		.replace(/(?:<!--[\s\S]*?-->\s*)+$/, '');
	if (name === undefined || closes(end, name) || (begin.trimEnd().endsWith('/>') && begin.indexOf('>') === begin.trimEnd().length - 1))
		return [];
	return [text.length];
}

const closes = (text: string, name: string): boolean => new RegExp(`</${name.replace(/[.]/g, '\\.')}\\s*>$`).test(text);

interface Stretch {
	from: number;
	to: number;
}

/** The innermost of the rows in which each of the places lies. A row that ends there counts where it is not closed. */
export function brokenRows<T extends Stretch>(rows: readonly T[], places: readonly number[], text: string): Set<T> {
	const out = new Set<T>();
	for (const place of places) {
		let innermost: T | null = null;
		for (const row of rows) {
			const isIn = row.from < place && (place < row.to || (place >= row.to && isOpen(row, place, text)));
			if (isIn && (innermost === null || row.from >= innermost.from)) innermost = row;
		}
		if (innermost) out.add(innermost);
	}
	return out;
}

/** Blanks at the end of a text, at most. */
const BLANKS = 100;
const BRACKETS: Record<string, string> = { '{': '}', '[': ']' };

/** Whether a row reaches up to where its text is broken, and nothing closes it before. */
function isOpen({ from, to }: Stretch, place: number, text: string): boolean {
	if (place - to > BLANKS || text.slice(to, place).trim() !== '') return false;
	const row = text.slice(from, to).trimEnd();
	const name = OPENS.exec(row)?.[1];
	if (name !== undefined) return !closes(row, name) && !/^<[^<>]*\/>$/.test(row);
	const bracket = BRACKETS[row[0] ?? ''];
	return bracket === undefined || !row.endsWith(bracket);
}
