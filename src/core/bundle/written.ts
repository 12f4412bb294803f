/** A message's text as the record has it. */
import type { RecordMessage } from './record';

/** Where the middle of a text is gone, its two parts with what lies between them said in brackets, which are the record's. */
export function writtenText({ text, textRest }: Pick<RecordMessage, 'text' | 'textRest'>): string | null {
	if (text === null || !textRest) return text;
	return `${text} [… ${lostBytes(textRest.lost)} overwritten …] ${textRest.text}`;
}

export const lostBytes = (count: number): string => (count === 1 ? '1 byte' : `${count.toLocaleString('en-GB')} bytes`);
