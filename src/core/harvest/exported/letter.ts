/** A file of one message: lines that say who, to whom and when, and below an empty line the text. */
import { addTo, item, type Item } from './items';
import { nameAndAddress } from './name-and-address';
import { findStamp } from './stamps';

const LABELLED = /^(\p{L}[\p{L} .'-]{0,24}?)\s?[:：]\s*(.*)$/u;
const LABELS = 2;
const MOST_LABELS = 12;

interface Head {
	labels: [string, string][];
	/** Where the text begins. */
	text: number;
}

function headOf(text: string): Head | null {
	const labels: [string, string][] = [];
	let at = 0;
	for (;;) {
		const end = text.indexOf('\n', at);
		const line = (end < 0 ? text.slice(at) : text.slice(at, end)).trim();
		const [, label, value] = LABELLED.exec(line) ?? [];
		if (line === '' && end >= 0) return { labels, text: end + 1 };
		if (label === undefined || end < 0 || labels.length >= MOST_LABELS) return null;
		labels.push([label, value!]);
		at = end + 1;
	}
}

/** Whether the beginning of a text is such a head, with a time in it. */
export function isLetter(start: string): boolean {
	const labels = headOf(start)?.labels ?? [];
	return labels.length >= LABELS && labels.some(([, value]) => isStamp(value));
}

const isStamp = (value: string): boolean => {
	const stamp = findStamp(value, true);
	return stamp !== null && value.length - (stamp.to - stamp.from) < BESIDE;
};
/** Characters beside a time, as a zone or the name of a day takes. */
const BESIDE = 12;

export function readLetter(text: string): Item | null {
	const head = headOf(text);
	if (!head) return null;
	const root = item(0, text.length);
	const one = item(0, text.length);
	for (const [label, value] of head.labels) {
		const both = nameAndAddress(value);
		one.fields.set(label, both?.address ?? value);
		if (both) one.fields.set(`${label} name`, both.name);
	}
	one.fields.set('text', text.slice(head.text).trim());
	addTo(root.lists, 'letters', one);
	return root;
}
