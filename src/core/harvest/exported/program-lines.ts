/** What a program says itself in the layout of a conversation: its log (`[stamp] part: what happened`), and its own lines among what people said. */
import { isLevel } from '../../kind-words';
import type { ExportedMessage } from './exported-message';
import { MARKS } from './stamps';

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

const MARKED = new RegExp(`^[${MARKS}]`, 'u');
const ALL_MARKS = new RegExp(`[${MARKS}]`, 'gu');
/** Words of a note that stands for a file left out, at most. */
const NOTE_WORDS = 3;

/**
 * Takes out what the exporting program says in a person's or the conversation's name: it stands behind a mark of direction,
 * which few other texts do, and names one who takes part, begins the file, or is a sentence in the same letters where another
 * such is certain: who writes from right to left can have typed such a mark.
 * Files must have been taken from the texts before. Returns how many there were.
 */
export function takeProgramsOwn(messages: ExportedMessage[]): number {
	const isMarked = ({ text, file }: ExportedMessage): boolean =>
		text !== null && file === null && MARKED.test(text) && !text.includes('\n');
	const marked = messages.filter(isMarked);
	if (marked.length === 0 || marked.length >= messages.length / 2) return 0;
	const names = [...new Set(messages.map((m) => m.writer ?? ''))].filter((name) => name !== '');
	const isSentence = ({ text }: ExportedMessage): boolean => text!.replace(ALL_MARKS, '').trim().split(/\s+/).length > NOTE_WORDS;
	const isSure = (m: ExportedMessage): boolean => (m === messages[0] && isSentence(m)) || names.some((name) => m.text!.includes(name));
	if (!marked.some(isSure)) return 0;
	const scripts = new Set(marked.filter(isSure).map((m) => scriptOf(m.text!)));
	const own = new Set(marked.filter((m) => isSure(m) || (isSentence(m) && scripts.has(scriptOf(m.text!)))));
	messages.splice(0, messages.length, ...messages.filter((m) => !own.has(m)));
	return own.size;
}

const SCRIPTS = [
	'Latin',
	'Cyrillic',
	'Greek',
	'Arabic',
	'Hebrew',
	'Devanagari',
	'Bengali',
	'Thai',
	'Hangul',
	'Han',
	'Hiragana',
	'Katakana'
].map((name) => new RegExp(`^\\p{Script=${name}}`, 'u'));
/** In which letters a text is written, by its last one: names of persons stand in front. */
const scriptOf = (text: string): number =>
	SCRIPTS.findIndex((script) => script.test([...text].findLast((letter) => /\p{L}/u.test(letter)) ?? ''));
