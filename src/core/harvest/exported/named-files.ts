/** Files that came with the messages of a conversation in text: told by the phrases around their names, and by the files that lie beside. */
import type { ExportedMessage } from './exported-message';
import { MARKS } from './stamps';

const ENDING = /\.(?:[a-z\d]*[a-z][a-z\d]*)(?![\p{L}\d])/giu;
const ONE_WORD_FILE = /[^\s<>:"|?*\\/[\](){}«»]{1,120}\.(?=[a-z\d]*[a-z])[a-z\d]{2,5}(?![\p{L}\d.])/iu;
/** Letters that stand in no name of a file that people are sent. */
const NO_NAME = /[<>:"|?*\\/[\]\n{}«»]/;
const signs = new RegExp(`[${MARKS}]`, 'gu');
const LONGEST_LINE = 300;
/** Words of a name, at most. */
const WORDS = 12;
/** Stands where a file's name was. */
const NAME = '\u0000';

/** A message's first line that names a file, apart from it: the file, and the phrase around it. */
interface Naming {
	file: string;
	/** The line without the file's name. */
	phrase: string;
	beside: boolean;
}

const namingOf = (line: string, from: number, to: number, beside: boolean): Naming => ({
	file: line.slice(from, to).trim(),
	phrase: `${line.slice(0, from)}${NAME}${line.slice(to)}`,
	beside
});

/** Between brackets, or nothing but the name. */
const isEnclosed = (phrase: string): boolean => phrase === NAME || /^[<[({«][^<>\n]{0,40}\u0000[^<>\n]{0,40}[>\])}»]$/.test(phrase);

/** The longest name of a file that lies beside, in a line. */
function besideIn(line: string, siblings: ReadonlySet<string>): Naming | null {
	let best: Naming | null = null;
	for (const m of line.matchAll(ENDING)) {
		const to = m.index + m[0].length;
		for (let from = 0; from < m.index; from++) {
			if (to - from <= (best?.file.length ?? 0)) break;
			if ((from === 0 || !/[\p{L}\d]/u.test(line[from - 1]!)) && siblings.has(line.slice(from, to))) best = namingOf(line, from, to, true);
		}
	}
	return best;
}

/** How a line can name a file that is not there: a name is a word, or several up to its ending. */
function namingsIn(line: string): Naming[] {
	const found: Naming[] = [];
	const word = ONE_WORD_FILE.exec(line);
	if (!word) return found;
	const to = word.index + word[0].length;
	let from = word.index;
	for (let n = 0; n < WORDS; n++) {
		found.push(namingOf(line, from, to, false));
		const before = /\S+\s$/.exec(line.slice(0, from))?.[0];
		if (before === undefined || NO_NAME.test(before)) {
			// A bracket or a label's colon can stand directly before its first word.
			const part = before && /[^<>:"|?*\\/[\]\n{}()«»]+\s$/.exec(before)?.[0];
			if (part) found.push(namingOf(line, from - part.length, to, false));
			break;
		}
		from -= before.length;
	}
	return found;
}

/** A name of several words whose first one looks like a part of it: it has a capital letter or a digit. */
const NAMELIKE = /^(?:\p{Lu}|\S*\d)\S*\s/u;
/** A word that labels a file, or a sign that stands for one. */
const LABEL = /^(?:\p{L}{3,20}\s?[:：]|\p{Extended_Pictographic}\ufe0f?)\s?\0$/u;

/** Takes files out of the texts: lines that name one in a phrase that comes back, or in brackets, or whose file lies beside. */
export function takeFiles(messages: ExportedMessage[], siblings: ReadonlySet<string>): void {
	const namings = messages.map((m) => {
		const line = (m.text ?? '').split('\n', 1)[0]!.replace(signs, '').trim();
		if (line === '' || line.length > LONGEST_LINE) return [];
		const beside = besideIn(line, siblings);
		return beside ? [beside] : namingsIn(line);
	});
	const phrases = new Map<string, Set<string>>();
	for (const n of namings.flat()) {
		if (n.phrase === NAME) continue;
		const files = phrases.get(n.phrase);
		if (files) files.add(n.file);
		else phrases.set(n.phrase, new Set([n.file]));
	}
	const times = (n: Naming): number => phrases.get(n.phrase)?.size ?? 0;
	messages.forEach((m, i) => {
		// The phrase around most files is the program's; of two that stand around as many in brackets, the one that looks like a name.
		const naming = namings[i]!.reduce<Naming | null>(
			(best, n) =>
				!best || times(n) > times(best) || (times(n) === times(best) && isEnclosed(n.phrase) && NAMELIKE.test(n.file)) ? n : best,
			null
		);
		if (!naming || !isOfProgram(naming, times(naming))) return;
		m.file = naming.file;
		const rest = m.text!.split('\n').slice(1).join('\n');
		m.text = rest.trim() === '' ? null : rest;
	});
}

/** A sentence that happens to name a file stays a sentence; a phrase around different files is the program's. */
function isOfProgram(naming: Naming, times: number): boolean {
	// A path to it is no sentence.
	const around = naming.phrase
		.replace(NAME, '')
		.trim()
		.replace(/^[^\s/]+(?:\/[^\s/]+)*\/$/, '');
	const bracketed = /^[<[(].*[>\])]$/.test(around);
	const oneWord = !/\s/.test(naming.file);
	return (
		(isEnclosed(naming.phrase) && (naming.beside || oneWord || naming.phrase !== NAME)) ||
		times > 1 ||
		(naming.beside && (around === '' || bracketed || LABEL.test(naming.phrase)))
	);
}

/** A note of the program's own in brackets, or behind a mark of direction, that stands for a file left out, or behind a text. */
export function takeMarkers(messages: ExportedMessage[]): void {
	const whole = new Map<string, number>();
	/** The texts that each note stands behind. */
	const behind = new Map<string, Set<string>>();
	const note = /(?:\s|^)([<[](?=[^<>[\]\n]*\p{L})[^<>[\]\n\d]{3,60}[>\]])$/u;
	for (const m of messages) {
		if (m.text === null) continue;
		const clean = m.text.replace(signs, '').trim();
		whole.set(clean, (whole.get(clean) ?? 0) + 1);
		const found = note.exec(m.text.replace(signs, ''));
		if (found && found.index > 0) behind.set(found[1]!, (behind.get(found[1]!) ?? new Set()).add(m.text));
	}
	const marked = new RegExp(`^[${MARKS}]`, 'u');
	// Where every text has a mark in front, it says nothing.
	const telling = messages.filter((m) => m.text !== null && marked.test(m.text)).length < messages.length / 2;
	for (const m of messages) {
		if (m.text === null || m.file !== null) continue;
		const clean = m.text.replace(signs, '').trim();
		const bracketed = /^<[^<>\n\d]{3,60}>$/.test(clean);
		if (bracketed || (telling && marked.test(m.text) && whole.get(clean)! > 1 && clean.length < 60 && !clean.includes('\n'))) {
			m.file = '';
			m.text = null;
			continue;
		}
		const found = note.exec(m.text.replace(signs, ''));
		if (found && (behind.get(found[1]!)?.size ?? 0) > 1)
			m.text = m.text.slice(0, m.text.lastIndexOf(found[1]!)).replace(new RegExp(`[${MARKS}\\s]+$`, 'u'), '');
	}
}
