/**
 * vMessage (IrMC 1.1, section 10.3): messages in the manner of cards, one or more to a file. Outside the envelope stands
 * who wrote, in it to whom; the body has a date and the text, as it is or as a property.
 */
import { readVcards, unquote } from '../../people/vcard';
import { addTo, item, MOST_ITEMS, type Item } from './items';

export const isVmessage = (text: string): boolean => /^\s*BEGIN:VMSG\b/i.test(text);

const BEGIN = /^BEGIN:VMSG[ \t]*$/gim;
const PROPERTY = /^([A-Za-z][\w-]*)((?:;[^:\n]*)?):(.*)$/;
/** Properties of the body whose value is the text. */
const TEXT = ['text', 'body', 'content'];

/** Every message of a text, as a list. One that does not end is taken as far as it goes. */
export function readVmessages(text: string): Item | null {
	const root = item(0, text.length);
	const starts = [...text.matchAll(BEGIN)].slice(0, MOST_ITEMS);
	for (const [i, { index }] of starts.entries()) {
		const next = starts[i + 1]?.index ?? text.length;
		const end = text.slice(index, next).search(/^END:VMSG[ \t]*$/im);
		const one = item(index, end < 0 ? next : index + end + 'END:VMSG'.length);
		if (end < 0) (root.broken ??= []).push(one.to);
		one.fields = fieldsOf(text.slice(one.from, one.to));
		addTo(root.lists, 'messages', one);
	}
	return starts.length > 0 ? root : null;
}

function fieldsOf(message: string): Item['fields'] {
	const fields: Item['fields'] = new Map();
	const [head, body] = parted(message, /^BEGIN:VBODY[ \t]*$/im);
	const [outside, envelope] = parted(head, /^BEGIN:VENV[ \t]*$/im);
	for (const [role, cards] of [
		['from', readVcards(outside)],
		['to', readVcards(envelope)]
	] as const) {
		const numbers = cards.flatMap((card) => [...card.numbers, ...card.emails]);
		if (numbers.length > 0) fields.set(role, numbers.join('; '));
		const name = cards.find((card) => card.name)?.name;
		if (name) fields.set(`${role} name`, name);
	}
	for (const line of outside.replace(/^BEGIN:VCARD[\s\S]*?^END:VCARD/gim, '').split(/\r?\n/)) {
		const property = PROPERTY.exec(line);
		if (property && /^x-/i.test(property[1]!)) fields.set(plainName(property[1]!), property[3]!.trim());
	}
	takeBody(body.replace(/^END:(?:VBODY|VENV|VMSG)[\s\S]*$/im, ''), fields);
	return fields;
}

/** A text before and behind the line that parts it. */
function parted(text: string, by: RegExp): [string, string] {
	const m = by.exec(text);
	return m ? [text.slice(0, m.index), text.slice(m.index + m[0].length)] : [text, ''];
}

/** `X-IRMC-BOX` says which box, whoever devised the property. */
const plainName = (property: string): string => property.toLowerCase().replace(/^x-(?:irmc-)?/, '');

function takeBody(body: string, fields: Item['fields']): void {
	const lines = body.replace(/^\r?\n/, '').split(/\r?\n/);
	let at = 0;
	for (; at < lines.length; at++) {
		const property = PROPERTY.exec(lines[at]!);
		if (!property || !/^(?:x-|date$|from$|to$|subject$|text$|body$|content$)/i.test(property[1]!)) break;
		const [, name, parameters, raw] = property as unknown as [string, string, string, string];
		let value = raw;
		const isQuoted = /QUOTED-PRINTABLE/i.test(parameters);
		// A line that ends in "=" goes on in the next one.
		while (isQuoted && value.endsWith('=') && at + 1 < lines.length) value = value.slice(0, -1) + lines[++at]!;
		const key = plainName(name);
		fields.set(TEXT.includes(key) ? 'text' : key, isQuoted ? unquote(value, parameters) : value.trim());
	}
	const rest = lines.slice(at).join('\n').trim();
	if (rest !== '') fields.set('text', rest);
	// Some have their text for a subject.
	const subject = fields.get('subject');
	if (subject !== undefined && !fields.has('text')) {
		fields.set('text', subject);
		fields.delete('subject');
	}
}
