/** A program's log in the layout of a conversation: `[stamp] part: what happened`. */
import { isLevel } from '../../kind-words';
import type { ExportedMessage } from './exported-message';

const LEAST = 8;
/** Share of the lines that differ by more than their numbers, at most. */
const REPEATED = 0.4;
/** Letters of a line on average: what people repeat is short ("ok"). */
const SHORT = 10;
/** Parts of a program are called in small letters, without a blank. */
const PART = /^[a-z][a-z\d_.:/-]*$/;
const NUMBERS = /0x[\da-f]+|\b[\da-f]{6,}\b|\d+/gi;

/** Whether "messages" are a program's lines: written by its parts, and the same few but for the numbers in them. */
export function areProgramLines(messages: readonly ExportedMessage[]): boolean {
	if (messages.length > 0 && messages.every((m) => m.writer !== null && isLevel(m.writer))) return true;
	if (messages.length < LEAST || !messages.every((m) => m.writer !== null && PART.test(m.writer))) return false;
	const texts = messages.map((m) => m.text ?? '');
	const lines = new Set(texts.map((t) => t.replace(NUMBERS, '0')));
	return lines.size <= texts.length * REPEATED && texts.reduce((sum, t) => sum + t.length, 0) > texts.length * SHORT;
}
