/**
 * A conversation as people get it by mail: a text file with a date and time at the head of each message, its writer,
 * and the text, which may go on over several lines. No program's wording is known; heads are told by their stamps
 * looking alike, writers by coming back, attachment lines by the files they name and the phrase around them.
 */
import { MARKS, dateHeading, findStamp, findTime, plainLine, readDates, stampTime, type DateReading, type Stamp } from './stamps';
import { labelledBlocks, type Block } from './labelled';
import type { TextLine } from './lines';

export interface ExportedMessage {
	/** Stretch of the file, in bytes. */
	offset: number;
	length: number;
	/** ms UTC where `zoned`, else the written clock as if it were UTC. */
	at: number;
	written: string;
	/** Null for a line of the program itself. */
	writer: string | null;
	/** Null where there is only a file. */
	text: string | null;
	/** Name of the file that came with it; '' where one is said to have been left out. */
	file: string | null;
}

export interface Conversation {
	messages: ExportedMessage[];
	/** Lines of the program itself: who joined, what was changed. */
	systemLines: number;
	dates: DateReading;
	zoned: boolean;
}

interface Head {
	line: number;
	stamp: Stamp;
	/** Before the stamp: a name, where it stands in front. */
	before: string;
	/** Behind the stamp. */
	rest: string;
	/** Under headings of days: the line of the next heading. */
	until?: number;
}

/** A file is a conversation where so many heads are found, and their share of the lines is no less than this. */
const HEADS = 2;
const SHARE = 0.02;
/** So many of the lines, and no other layout need be tried. */
const PLAINLY = 0.4;
const NAME_LONGEST = 80;

/** The messages of a text, or null where it is no conversation. `siblings`: names of the files that lie beside it. */
export function readConversation(lines: readonly TextLine[], siblings: ReadonlySet<string>): Conversation | null {
	const plain = lines.map((l) => plainLine(l.text));
	const written = lines.filter((l) => l.text !== '').length;
	let heads = alikeOnly(stampFirst(plain));
	if (heads.length < written * PLAINLY)
		heads = [heads, ...[nameFirst(plain), underHeadings(plain)].map(alikeOnly)].reduce((a, b) => (b.length > a.length ? b : a));
	if (heads.length < written * PLAINLY) {
		const blocks = labelledBlocks(plain);
		if (blocks.length > heads.length) return fromBlocks(lines, blocks, siblings);
	}
	if (heads.length < HEADS || heads.length < written * SHARE) return null;
	const dates = readDates(heads.map((h) => h.stamp));
	if (!dates) return null;
	const inFront = heads.filter((h) => h.before !== '').length > heads.length / 2;
	const writers = inFront ? null : new Writers(heads, lines);
	if (writers && writers.count === 0) return null;
	const messages: ExportedMessage[] = [];
	let systemLines = 0;
	heads.forEach((head, i) => {
		const at = stampTime(head.stamp, dates);
		if (at === null) return;
		const next = endOf(head, heads[i + 1]?.line ?? lines.length);
		const own = lines[head.line]!.text;
		const split = writers
			? writers.split(own, own.length - head.rest.length)
			: { writer: trimName(own.slice(0, head.before.length)), text: restOf(own, head) };
		const following = lines.slice(head.line + 1, next).map((l) => l.text);
		if (!split) {
			systemLines++;
			return;
		}
		const parts = split.text === '' && inFront ? following : [split.text, ...following];
		while (parts.length > 1 && parts.at(-1)!.trim() === '' && (inFront || head.until !== undefined || i === heads.length - 1)) parts.pop();
		const last = lines[next - 1]!;
		const { offset } = lines[head.line]!;
		messages.push({
			offset,
			length: last.offset + last.length - offset,
			at,
			written: head.stamp.written,
			writer: split.writer,
			text: parts.join('\n'),
			file: null
		});
	});
	if (messages.length === 0) return null;
	dropCommonWords(messages);
	takeFiles(messages, siblings);
	takeMarkers(messages);
	// Marks that the exporting program put in front of a text are none of it.
	for (const m of messages) if (m.text !== null) m.text = m.text.replace(LEADING_MARKS, '');
	return { messages, systemLines, dates, zoned: heads.every((h) => h.stamp.zone !== null) };
}

/** A word that says who wrote ("Ada wrote"). */
const SAYS = /\s(\p{Ll}{3,12})$/u;

/** Takes a word off the names that the export puts behind every one of them. */
function dropCommonWords(messages: ExportedMessage[]): void {
	const names = new Set(messages.map((m) => m.writer).filter((w) => w !== null));
	const last = new Set([...names].map((n) => SAYS.exec(n)?.[1]));
	if (names.size < 2 || last.size > 1 || last.has(undefined)) return;
	for (const m of messages) if (m.writer !== null) m.writer = m.writer.replace(SAYS, '');
}

/** The messages of blocks of labelled lines. */
function fromBlocks(lines: readonly TextLine[], blocks: readonly Block[], siblings: ReadonlySet<string>): Conversation | null {
	const dates = readDates(blocks.map((b) => b.stamp));
	if (!dates) return null;
	const messages: ExportedMessage[] = [];
	for (const { start, end, stamp, writer, text, label } of blocks) {
		const at = stampTime(stamp, dates);
		if (at === null) continue;
		const parts = lines.slice(text, end).map((l, i) => (i === 0 ? l.text.slice(label) : l.text));
		while (parts.length > 0 && /^\s*([-=_*])?\1*\s*$/.test(parts.at(-1)!)) parts.pop();
		while (parts.length > 0 && parts[0]!.trim() === '') parts.shift();
		const { offset } = lines[start]!;
		const last = lines[end - 1]!;
		messages.push({
			offset,
			length: last.offset + last.length - offset,
			at,
			written: stamp.written,
			writer: trimName(writer),
			text: parts.join('\n'),
			file: null
		});
	}
	takeFiles(messages, siblings);
	return { messages, systemLines: 0, dates, zoned: blocks.every((b) => b.stamp.zone !== null) };
}

const endOf = (head: Head, next: number): number => Math.min(head.until ?? next, next);

const LEADING_MARKS = new RegExp(`^[${MARKS}]+`, 'u');
const EDGES = new RegExp(`^[${MARKS}\\s]+|[${MARKS}\\s]+$`, 'gu');
export const trimName = (name: string): string => {
	const bare = name.replace(EDGES, '').replace(/^[~"'<[(*]+\s?/, '');
	// What is closed within the name is part of it: "Ada (work)".
	const isClosed = /^[^()]+\([^()]+\)$/.test(bare);
	return (isClosed ? bare : bare.replace(/["'>\])*:,]+$/, '')).replace(EDGES, '');
};
const LEADING_SIGNS = new RegExp(`^[${MARKS}\\s\\[(<*#-]*$`, 'u');

/** A word for the hour, as it stands behind a time. */
const HOUR = '(?:uhr|hrs?|hs|h|ч)\\.?';
const CLOSED = new RegExp(`^(?:\\s${HOUR})?\\s?[\\])>]`, 'iu');

/** Heads whose stamp stands first: `[stamp] name: text`, `stamp - name: text`. */
function stampFirst(plain: readonly string[]): Head[] {
	const heads: Head[] = [];
	plain.forEach((line, i) => {
		const stamp = findStamp(line, true);
		if (!stamp || !LEADING_SIGNS.test(line.slice(0, stamp.from))) return;
		const closed = CLOSED.exec(line.slice(stamp.to))?.[0].length ?? 0;
		const to = stamp.to + closed;
		heads.push({
			line: i,
			stamp: { ...stamp, form: `${line.slice(0, stamp.from).replace(EDGES, '')}${stamp.form}${line.slice(stamp.to, to)}` },
			before: '',
			rest: line.slice(to)
		});
	});
	return heads;
}

/** Heads whose name stands first: `name (stamp): text`, `name, stamp` with the text below. */
function nameFirst(plain: readonly string[]): Head[] {
	const heads: Head[] = [];
	plain.forEach((line, i) => {
		const stamp = findStamp(line);
		if (!stamp || stamp.from < 2 || stamp.from > NAME_LONGEST) return;
		const before = line.slice(0, stamp.from);
		if (!/[\p{L}\d]/u.test(before) || /[.!?:;]\s*$/.test(before.replace(/\p{L}\./gu, ''))) return;
		const closed = /^\s?[\])>]?\s?[:：-]?/.exec(line.slice(stamp.to))![0];
		const rest = line.slice(stamp.to + closed.length);
		if (rest.trim() !== '' && !/[:\])>-]/.test(closed)) return;
		const edge = /[\s,([<|·–-]*$/.exec(before)![0];
		heads.push({
			line: i,
			stamp: { ...stamp, form: `${edge}${stamp.form}${closed}` },
			before: before.slice(0, before.length - edge.length),
			rest
		});
	});
	// A head stands at the beginning of its block: nobody's name comes only once, unless few write at all.
	const names = new Set(heads.map((h) => h.before));
	return heads.length > 4 && names.size > heads.length * 0.6 ? [] : heads;
}

/** Heads of times alone, under headings of days. */
function underHeadings(plain: readonly string[]): Head[] {
	const heads: Head[] = [];
	let day: Stamp | null = null;
	plain.forEach((line, i) => {
		const heading = dateHeading(line);
		if (heading) {
			day = heading;
			// All of the day before: what somebody wrote can look like a head as well.
			for (let k = heads.length - 1; k >= 0 && heads[k]!.until === undefined; k--) heads[k]!.until = i;
			return;
		}
		const time = day && findTime(line.slice(0, NAME_LONGEST + 20));
		if (!day || !time) return;
		const before = line.slice(0, time.from);
		const first = LEADING_SIGNS.test(before);
		const closed = /^\s?[\])>]?\s?:?/.exec(line.slice(time.to))![0];
		const rest = line.slice(time.to + (first ? closed.replace(/:$/, '').length : closed.length));
		if (!first && rest.trim() !== '' && !/[:\])>]/.test(closed)) return;
		const edge = /[\s,([<|·–-]*$/.exec(before)![0];
		const stamp: Stamp = {
			...day,
			from: time.from,
			to: time.to,
			written: `${day.written} ${time.written}`,
			time: time.time,
			form: `${edge}t${closed}`
		};
		heads.push({ line: i, stamp, before: first ? '' : before.slice(0, before.length - edge.length), rest });
	});
	return heads;
}

/** Those whose stamps look like most: an export writes all its stamps alike, one that somebody wrote into a message looks otherwise. */
function alikeOnly(heads: Head[]): Head[] {
	const forms = new Map<string, number>();
	for (const h of heads) forms.set(h.stamp.form, (forms.get(h.stamp.form) ?? 0) + 1);
	const most = Math.max(0, ...forms.values());
	const form = [...forms].find(([, n]) => n === most)?.[0];
	return heads.filter((h) => h.stamp.form === form);
}

/** What follows the stamp of a head whose name stands in front, as written. */
const restOf = (line: string, head: Head): string =>
	head.rest === '' ? '' : line.slice(line.length - head.rest.length).replace(/^\s+/, '');

/** Signs between a writer and the text, as they are found at heads. */
const DIVIDERS = [/:\s|:$/, /\t/, /\s[-–—|]\s/, />\s/];
/** What stands between a stamp and the writer, a word for the hour included. */
const BETWEEN = `[\\s\\-–—:|,·•/${MARKS}]*`;
const TO_NAME = new RegExp(`^${BETWEEN}(?:${HOUR}(?=\\s*[-–—:|,]\\s)${BETWEEN})?`, 'iu');

/** Two words or more, the first and the last with a capital letter. */
const FULL_NAME = /^\p{Lu}[\p{L}.'’-]*(?:\s[\p{L}.'’-]+)*\s\p{Lu}[\p{L}'’-]+$/u;

/** Tells the writer from the text behind a stamp: who writes comes back, or is short and no sentence. */
class Writers {
	private readonly names = new Map<string, number>();
	private readonly divider: RegExp;

	constructor(heads: readonly Head[], lines: readonly TextLine[]) {
		const rests = heads.map((h) => lines[h.line]!.text.slice(lines[h.line]!.text.length - h.rest.length).replace(TO_NAME, ''));
		let best = { divider: DIVIDERS[0]!, fits: -1 };
		for (const divider of DIVIDERS) {
			const found = rests.map((r) => this.cut(r, divider)?.name).filter((n) => n !== undefined);
			// Names come back; what stands before a sign by chance does not.
			const fits = found.length - new Set(found).size + (found.length > 0 ? 0.5 : 0);
			if (fits > best.fits + heads.length * 0.05) best = { divider, fits };
		}
		this.divider = best.divider;
		for (const rest of rests) {
			const name = this.cut(rest, this.divider)?.name;
			if (name !== undefined) this.names.set(name, (this.names.get(name) ?? 0) + 1);
		}
		const often = [...this.names].filter(([, n]) => n > 1).map(([name]) => name);
		for (const [name, n] of this.names) {
			// Met once: a person who wrote once, or the program telling of one ("Bram changed the subject: …").
			const told = often.some((o) => name !== o && name.toLowerCase().includes(o.toLowerCase()));
			if (n === 1 && (told || name.length > 40 || name.split(/\s+/).length > 5)) this.names.delete(name);
		}
	}

	/** None where hardly a name comes back, unless they look like full names: then what stands there are no names. */
	get count(): number {
		const names = [...this.names.keys()];
		const heads = [...this.names.values()].reduce((sum, n) => sum + n, 0);
		const full = heads > names.length && names.filter((n) => FULL_NAME.test(n)).length > names.length / 2;
		return heads > 4 && names.length > heads * 0.6 && !full ? 0 : names.length;
	}

	private cut(rest: string, divider: RegExp): { name: string; text: string } | null {
		const m = divider.exec(rest);
		if (!m || m.index === 0 || m.index > NAME_LONGEST) return null;
		const name = trimName(rest.slice(0, m.index));
		return name === '' ? null : { name, text: rest.slice(m.index + m[0].length) };
	}

	/** Writer and text of a head's line from `from` on; null for a line of the program itself. */
	split(line: string, from: number): { writer: string; text: string } | null {
		const rest = line.slice(from).replace(TO_NAME, '');
		const cut = this.cut(rest, this.divider);
		if (cut && this.names.has(cut.name)) return { writer: cut.name, text: cut.text };
		// A name can hold the dividing sign itself.
		for (const name of this.names.keys()) {
			if (!rest.startsWith(name)) continue;
			const m = this.divider.exec(rest.slice(name.length));
			if (m?.index === 0) return { writer: name, text: rest.slice(name.length + m[0].length) };
		}
		return null;
	}
}

const FILE_NAME = /[^\s<>:"|?*\\/[\](){}«»][^<>:"|?*\\/[\]\n{}«»]{0,120}?\.[\p{L}\d]{2,5}(?![\p{L}\d])/u;
const ONE_WORD_FILE = /[^\s<>:"|?*\\/[\](){}«»]{1,120}\.(?=[a-z\d]*[a-z])[a-z\d]{2,5}(?![\p{L}\d.])/iu;
const signs = new RegExp(`[${MARKS}]`, 'gu');

/** A message's first line that names a file, apart from it: the file, and the phrase around it. */
interface Naming {
	file: string;
	/** The line without the file's name. */
	phrase: string;
	/** Between brackets, or nothing but the name. */
	enclosed: boolean;
	beside: boolean;
}

function namingOf(line: string, siblings: readonly string[]): Naming | null {
	const clean = line.replace(signs, '').trim();
	if (clean === '' || clean.length > 300) return null;
	const beside = siblings.find((s) => clean.includes(s));
	const file = beside ?? ONE_WORD_FILE.exec(clean)?.[0] ?? FILE_NAME.exec(clean)?.[0];
	if (!file) return null;
	const phrase = clean.replace(file, '\u0000');
	const enclosed = phrase === '\u0000' || /^[<[({«][^<>\n]{0,40}\u0000[^<>\n]{0,40}[>\])}»]$/.test(phrase);
	return { file: file.trim(), phrase, enclosed, beside: beside !== undefined };
}

/** A word that labels a file, or a sign that stands for one. */
const LABEL = /^(?:\p{L}{3,20}\s?[:：]|\p{Extended_Pictographic}\ufe0f?)\s?\0$/u;

/** Takes files out of the texts: lines that name one in a phrase that comes back, or in brackets, or whose file lies beside. */
function takeFiles(messages: ExportedMessage[], siblings: ReadonlySet<string>): void {
	const names = [...siblings].filter((s) => s.length > 4).sort((a, b) => b.length - a.length);
	const near = names.length <= 4000 ? names : [];
	const firsts = messages.map((m) => (m.text ?? '').split('\n', 1)[0]!);
	const namings = firsts.map((line) =>
		namingOf(
			line,
			near.filter((n) => line.includes(n))
		)
	);
	const phrases = new Map<string, Set<string>>();
	for (const n of namings) {
		if (!n || n.phrase === '\u0000') continue;
		const files = phrases.get(n.phrase);
		if (files) files.add(n.file);
		else phrases.set(n.phrase, new Set([n.file]));
	}
	messages.forEach((m, i) => {
		const naming = namings[i];
		if (!naming) return;
		// A sentence that happens to name a file stays a sentence; a phrase around different files is the program's.
		const again = (phrases.get(naming.phrase)?.size ?? 0) > 1;
		const around = naming.phrase.replace('\u0000', '').trim();
		const bracketed = /^[<[(].*[>\])]$/.test(around);
		if (!(naming.enclosed || again || (naming.beside && (around === '' || bracketed || LABEL.test(naming.phrase))))) return;
		m.file = naming.file;
		const rest = m.text!.split('\n').slice(1).join('\n');
		m.text = rest.trim() === '' ? null : rest;
	});
}

/** A note of the program's own in brackets, or behind a mark of direction, that stands for a file left out, or behind a text. */
function takeMarkers(messages: ExportedMessage[]): void {
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
