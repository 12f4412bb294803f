/** Lists (JSON, RFC 8259) whose places have their meaning: `[1736507142000, "+44…", "The boiler is cold"]`. */
import { getNodeValue } from 'jsonc-parser';
import { treeOf } from '../json-tree';
import type { Opened } from './composed';
import { areOfMessages } from './fields';
import type { Value } from '../../model';

const LEAST = 3;
const MOST = 40;
const MOSTLY = 0.9;
const SAMPLE = 200;

/** Whether texts are lists as long as each other, in which some place is a time and another was written. */
export function areListed(texts: readonly string[]): boolean {
	if (!texts[0]!.trimStart().startsWith('[')) return false;
	const lists = texts.slice(0, SAMPLE).flatMap((text) => {
		const list = listOf(text);
		return list ? [list] : [];
	});
	const [first] = lists;
	if (!first || first.length < LEAST || first.length > MOST) return false;
	const alike = lists.filter((list) => list.length === first.length);
	if (alike.length < Math.min(texts.length, SAMPLE) * MOSTLY) return false;
	return areOfMessages(first.map((_, place) => alike.map((list) => plain(list[place]))));
}

const plain = (value: unknown): Value | undefined => (typeof value === 'string' || typeof value === 'number' ? value : undefined);

function listOf(text: string): unknown[] | null {
	try {
		const list: unknown = JSON.parse(text);
		return Array.isArray(list) ? list : null;
	} catch {
		return null;
	}
}

const byPlace = (list: readonly unknown[]): Record<string, unknown> => Object.fromEntries(list.map((value, i) => [String(i + 1), value]));

export function openListed(text: string, isCut: boolean): Opened | null {
	const list = listOf(text);
	if (list) return { fields: byPlace(list) };
	const root = isCut ? treeOf(text) : undefined;
	if (root?.type !== 'array') return null;
	const values = root.children!.map((node) => getNodeValue(node) as unknown);
	const last = root.children!.at(-1);
	if (!last || last.offset + last.length < text.trimEnd().length) return { fields: byPlace(values) };
	// Of a number that ends there nobody knows how it went on.
	if (last.type === 'string') return { fields: byPlace(values), ending: [String(values.length)] };
	return { fields: byPlace(values.slice(0, -1)) };
}
