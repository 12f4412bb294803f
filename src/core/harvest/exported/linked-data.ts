/**
 * JSON:API (1.1, section 7): messages and what they have to do with in lists of resources, each with a type, a key, its
 * attributes and its relationships. They become lists by type, whose items name others by key.
 */
import { addTo, type Item } from './items';

const LISTS = ['data', 'included'];
const ATTRIBUTES = 'attributes.';
const RELATION = /^relationships\.(.+)\.data(?:\.(type|id))?$/;

/** Whether the root is such a document. */
const isDocument = ({ lists }: Item): boolean => {
	const data = lists.get('data');
	return (
		data !== undefined &&
		data.length > 0 &&
		data.every((one) => one.fields.has('type') && one.fields.has('id') && [...one.fields.keys()].some((f) => f.startsWith(ATTRIBUTES)))
	);
};

export function openResources(root: Item): void {
	if (!isDocument(root)) return;
	const all = LISTS.flatMap((name) => root.lists.get(name) ?? []);
	for (const name of LISTS) root.lists.delete(name);
	for (const one of all) {
		const type = String(one.fields.get('type'));
		const fields: Item['fields'] = new Map();
		for (const [name, value] of one.fields) {
			const [, relation, part] = RELATION.exec(name) ?? [];
			if (name === 'type' || part === 'type') continue;
			fields.set(relation ?? (name.startsWith(ATTRIBUTES) ? name.slice(ATTRIBUTES.length) : name), value);
		}
		for (const [name, list] of [...one.lists]) {
			const [, relation] = RELATION.exec(name) ?? [];
			if (relation === undefined) continue;
			one.lists.delete(name);
			fields.set(relation, JSON.stringify(list.map((l) => l.fields.get('id')).filter((id) => id !== undefined)));
		}
		one.fields = fields;
		addTo(root.lists, type, one);
	}
}
