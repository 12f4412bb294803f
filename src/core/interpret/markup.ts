/** Markup as the text that people saw. Nothing in it is run. */
import { decodeHTMLStrict } from 'entities';

/** A text with its character references resolved (the HTML standard, section 13.5); those of no letter stay. */
export const entitiesIn = (text: string): string => (text.includes('&') ? decodeHTMLStrict(text) : text);

const ATTRIBUTE = '\\s+[\\w-]+="[^"<>]*"';
/** The end of a tag, where the value begins within one: with its sign, its attributes, or a name that is no word of somebody's. */
const TAG_END = new RegExp(
	`^(?:/|/[a-z]\\w*|[a-z]\\w*(?:${ATTRIBUTE})+\\s*/?|(?:html|body|div|span|br|li|tr|td|ul|ol|em|strong|font)\\s*/?)>`,
	'i'
);

/** Text of markup: tags dropped, line breaks kept, entities resolved. Nothing in it is run. */
export function stripMarkup(text: string): string {
	return entitiesIn(
		text
			.replace(TAG_END, '')
			.replace(/<!--[\s\S]*?-->|<(script|style)\b[\s\S]*?<\/\1>/gi, '')
			.replace(/<(?:br|\/p|\/div|\/li|\/tr)\b[^>]*>/gi, '\n')
			.replace(/<!\[CDATA\[([\s\S]*?)\]\]>/g, (_, inner: string) => inner.replaceAll('&', '&amp;').replaceAll('<', '&lt;'))
			.replace(/<[a-z/!?][^>]*>/gi, '')
			// The beginning of a tag, where the value was cut.
			.replace(/<(?:\/?[a-z][^<>]*|\/)?$/i, '')
	).replace(/^\n+|\n+$/g, '');
}
