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

/** A line that names a file, apart from it: the file, and the phrase around it. */
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

/** Lines of one message that can name files, at its head and at its end each. */
const LINES_NAMING = 30;

/** A line with what it could name. */
interface NamingLine {
	line: number;
	namings: Naming[];
}

/** The lines at the head and at the end of a text that can name files, from its edges inwards. */
function namingLines(text: string, siblings: ReadonlySet<string>): { head: NamingLine[]; end: NamingLine[] } {
	const lines = text.split('\n');
	const along = (from: number, step: 1 | -1, until: number): NamingLine[] => {
		const found: NamingLine[] = [];
		for (let line = from; line !== until && found.length < LINES_NAMING; line += step) {
			const own = lines[line]!.replace(signs, '').trim();
			if (own === '' || own.length > LONGEST_LINE) break;
			const beside = besideIn(own, siblings);
			const namings = beside ? [beside] : namingsIn(own);
			if (namings.length === 0) break;
			found.push({ line, namings });
		}
		return found;
	};
	return { head: along(0, 1, lines.length), end: along(lines.length - 1, -1, -1) };
}

/** Takes files out of the texts: lines that name one in a phrase that comes back, or in brackets, or whose file lies beside. */
export function takeFiles(messages: ExportedMessage[], siblings: ReadonlySet<string>): void {
	const naming = messages.map((m) => (m.text === null ? { head: [], end: [] } : namingLines(m.text, siblings)));
	const phrases = new Map<string, Set<string>>();
	for (const n of naming.flatMap(({ head, end }) => [...head, ...end].flatMap((l) => l.namings))) {
		if (n.phrase === NAME) continue;
		const files = phrases.get(n.phrase);
		if (files) files.add(n.file);
		else phrases.set(n.phrase, new Set([n.file]));
	}
	const times = (n: Naming): number => phrases.get(n.phrase)?.size ?? 0;
	// The phrase around most files is the program's; of two that stand around as many in brackets, the one that looks like a name.
	const best = (namings: readonly Naming[]): Naming =>
		namings.reduce((a, n) => (times(n) > times(a) || (times(n) === times(a) && isEnclosed(n.phrase) && NAMELIKE.test(n.file)) ? n : a));
	messages.forEach((m, i) => {
		const taken = new Map<number, string>();
		const take = (lines: readonly NamingLine[], behind: boolean): void => {
			for (const { line, namings } of lines) {
				const one = best(namings);
				if (!isOfProgram(one, times(one), behind)) return;
				taken.set(line, one.file);
			}
		};
		take(naming[i]!.head, false);
		take(naming[i]!.end, true);
		if (taken.size === 0) return;
		const files = [...taken].sort(([a], [b]) => a - b).map(([, file]) => file);
		m.file = [...(m.file ? [m.file] : []), ...files].join('\n');
		m.text = withoutLines(m.text!, taken);
	});
}

/** What is left without some lines at its head and its end; null where nothing is. */
function withoutLines(text: string, taken: ReadonlyMap<number, string>): string | null {
	const lines = text.split('\n');
	const left = lines.filter((_, line) => !taken.has(line));
	while (taken.has(lines.length - 1) && left.at(-1)?.trim() === '') left.pop();
	return left.every((line) => line.trim() === '') ? null : left.join('\n');
}

/** Words for what is attached, or a file, in many languages: in brackets beside a name they are the program's, met once or often. */
const ATTACHED =
	/attach|angehäng|anhang|datei|joint|pièce|fichier|adjunt|archivo|allegat|anex|ficheiro|arquivo|bijgevoegd|bijlage|bestand|bifoga|vedhæft|vedlagt|liite|załąc|plik|přilož|příloh|csatol|ataşat|прикреп|добавлен|файл|вкладен|συνημμ|\bek(?:li|i)?\b|dosya|مرفق|קובץ|添付|附件|첨부|แนบ|đính kèm/iu;

/** A label of few words, one of which says that it is a file's. */
const isCalledAttached = (around: string): boolean => /^(?:\p{L}+\s){0,3}\p{L}+\s?[:：]$/u.test(around) && ATTACHED.test(around);

/**
 * A sentence that happens to name a file stays a sentence; a phrase around different files is the program's. A name alone
 * `behind` what was said is somebody's own word, where no such file lies beside.
 */
function isOfProgram(naming: Naming, times: number, behind: boolean): boolean {
	// A path to it is no sentence.
	const around = naming.phrase
		.replace(NAME, '')
		.trim()
		.replace(/^[^\s/]+(?:\/[^\s/]+)*\/$/, '');
	const bracketed = /^[<[(（【].*[>\])）】]$/.test(around);
	const oneWord = !/\s/.test(naming.file);
	const alone = naming.phrase === NAME;
	return (
		(bracketed && ATTACHED.test(around)) ||
		(isEnclosed(naming.phrase) && (naming.beside || (oneWord && !behind) || !alone)) ||
		times > 1 ||
		// Left out of the export, it is told by its label alone.
		(oneWord && !behind && isCalledAttached(around)) ||
		(naming.beside && (around === '' || bracketed || LABEL.test(naming.phrase) || isCalledAttached(around)))
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
		// On a line of its own it is somebody's as well.
		if (found && found.index > 0 && !found[0].startsWith('\n')) behind.set(found[1]!, (behind.get(found[1]!) ?? new Set()).add(m.text));
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
		if (found && !found[0].startsWith('\n') && (behind.get(found[1]!)?.size ?? 0) > 1)
			m.text = m.text.slice(0, m.text.lastIndexOf(found[1]!)).replace(new RegExp(`[${MARKS}\\s]+$`, 'u'), '');
	}
}
