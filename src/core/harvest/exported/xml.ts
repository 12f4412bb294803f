/**
 * XML as items: an element with attributes or elements in it is one. Entities of a document type are not expanded, so
 * none can grow.
 */
import type { Element } from 'domhandler';
import { DomUtils } from 'htmlparser2';
import { addTo, DEEPEST, item, MOST_ITEMS, type Item } from './items';
import { elements, parseMarkup, stretch } from './markup';

const local = (name: string): string => name.slice(name.indexOf(':') + 1);

export function readXml(text: string): Item | null {
	const root = item(0, text.length);
	let count = 0;
	const fill = (into: Item, el: Element, prefix: string, depth: number): void => {
		for (const [name, value] of Object.entries(el.attribs)) into.fields.set(prefix + local(name), value);
		const inner = elements(el);
		const names = new Map<string, number>();
		for (const child of inner) names.set(child.name, (names.get(child.name) ?? 0) + 1);
		if (depth > DEEPEST || count > MOST_ITEMS) return;
		for (const child of inner) {
			const name = prefix + local(child.name);
			const plain = elements(child).length === 0 && Object.keys(child.attribs).length === 0;
			const many = names.get(child.name)! > 1;
			if (plain && !many) into.fields.set(name, written(child));
			else if (!many && into !== root && elements(child).length === 0) {
				if (written(child) !== '') into.fields.set(name, written(child));
				fill(into, child, `${name}.`, depth + 1);
			} else {
				count++;
				const one = stretch(child);
				if (elements(child).length === 0 && written(child) !== '') one.fields.set('text', written(child));
				fill(one, child, '', depth + 1);
				addTo(into.lists, name, one);
			}
		}
	};
	for (const el of elements(parseMarkup(text, true))) fill(root, el, '', 0);
	return root.fields.size + root.lists.size > 0 ? root : null;
}

/** The text of an element of XML, as it stands. */
const written = (el: Element): string => DomUtils.textContent(el).trim();
