/**
 * A conversation as people get it by mail: a text file with a date and time at the head of each message, its writer,
 * and the text, which may go on over several lines. No program's wording is known; heads are told by their stamps
 * looking alike, writers by coming back, attachment lines by the files they name and the phrase around them.
 */
import { tellEnds } from './both-ends';
import { withoutCounters } from './counted-lines';
import { dayAbove } from './day-of-log';
import { MARKS, plainLine, readDates, stampTime, type DateOrder, type DateReading, type Stamp } from './stamps';
import type { ExportedMessage } from './exported-message';
import { labelledBlocks, type Block } from './labelled';
import { nameAndAddress } from './name-and-address';
import {
	alikeOnly,
	endOf,
	nameAbove,
	nameBelow,
	nameFirst,
	pastMidnight,
	restOf,
	stampFirst,
	trimName,
	underHeadings,
	type Head
} from './heads';
import type { TextLine } from './lines';
import { takeLinkedFiles } from './linked-files';
import { takeFiles, takeMarkers } from './named-files';
import { areProgramLines, takeProgramsOwn } from './program-lines';
import { sectionsOf, type Section } from './sections';
import { tellWays } from './told-ways';
import { Writers } from './writers';

export interface Conversation {
	messages: ExportedMessage[];
	/** Lines of the program itself: who joined, what was changed. */
	systemLines: number;
	dates: DateReading;
	zoned: boolean;
	/** Whether its lines have times alone, and the file's name says the day. */
	isOfDay: boolean;
	/** To whom all was written who wrote nothing: a room, if the file is called so, and else the owner. */
	room?: string;
}

/** A file is a conversation where so many heads are found, and their share of the lines is no less than this. */
const HEADS = 2;
const SHARE = 0.02;
/** So many of the lines, and no other layout need be tried. */
const PLAINLY = 0.4;

/**
 * The messages of a text, or null where it is no conversation. `siblings`: names of the files that lie beside it or below;
 * `usual`: see `readDates`; `named`: the day that the file is called after, whether it
 * is known for a log, of which a message is enough, and whether it is called a conversation, of which one at its beginning is.
 */
export function readConversation(
	lines: readonly TextLine[],
	siblings: ReadonlySet<string>,
	usual?: DateOrder,
	named: { day: Stamp | null; isLog: boolean; isCalled: boolean } = { day: null, isLog: false, isCalled: false }
): Conversation | null {
	const plain = withoutCounters(lines.map((l) => plainLine(l.text)));
	const written = lines.filter((l) => l.text !== '').length;
	if (areAssignments(plain, written)) return null;
	const dated = headsOf(plain, written);
	const day = named.day ?? (dated.length < written * PLAINLY ? dayAbove(plain) : null);
	const ofDay = day ? alikeOnly(underHeadings(plain, day)) : [];
	// A head that states the day says when the log was begun, and may be as many lines as were written then.
	const isOfDay =
		ofDay.length >= written * PLAINLY && (ofDay.length > dated.length || (named.day !== null && ofDay.length === dated.length));
	const heads = isOfDay ? pastMidnight(ofDay) : dated;
	if (heads.length < written * PLAINLY) {
		const blocks = labelledBlocks(plain);
		if (blocks.length > heads.length) return fromBlocks(lines, blocks, siblings, usual);
	}
	const isEnough = (named.isLog && named.day !== null) || (named.isCalled && isFirst(heads[0], plain));
	if (heads.length < (isEnough ? 1 : HEADS) || heads.length < written * SHARE) return null;
	const dates = readDates(
		heads.map((h) => h.stamp),
		usual
	);
	if (!dates) return null;
	const inFront = heads.filter((h) => h.before !== '').length > heads.length / 2;
	const writers = inFront ? null : new Writers(heads, lines);
	if (writers && writers.count === 0) return null;
	const { messages, systemLines } = readMessages(lines, heads, dates, writers, sectionsOf(plain, heads));
	if (messages.length === 0 || areProgramLines(messages)) return null;
	dropCommonWords(messages);
	tellEnds(messages);
	if (inFront || writers!.areAlone) {
		tellWays(messages);
		dropRules(messages);
	}
	dropGap(messages);
	dropIndents(messages);
	dropQuotes(messages, writers?.areTabbed ? 1 : QUOTED_LEAST);
	openEscapes(messages);
	takeLinkedFiles(messages);
	takeFiles(messages, siblings);
	const ownLines = takeProgramsOwn(messages);
	takeMarkers(messages);
	// Marks that the exporting program put in front of a text are none of it.
	for (const m of messages) if (m.text !== null) m.text = m.text.replace(LEADING_MARKS, '');
	return {
		messages,
		systemLines: systemLines + ownLines,
		dates,
		zoned: heads.every((h) => h.stamp.zone !== null),
		isOfDay: isOfDay && named.day !== null
	};
}

/** Whether the file begins with a head: a day and a time of day, and who wrote behind it. */
const isFirst = (head: Head | undefined, plain: readonly string[]): boolean =>
	head !== undefined && head.line === plain.findIndex((line) => line !== '') && ONE_WRITER.test(head.rest);
const ONE_WRITER = /^[\s\-–—:]*[^:\s][^:]{0,40}:\s/;

/** Names with values behind an equals sign, under headings in brackets: settings, or records that are written so, and no text. */
function areAssignments(plain: readonly string[], written: number): boolean {
	const headings = plain.filter((line) => /^\[{1,2}[\w.\s"-]{1,60}\]{1,2}$/.test(line)).length;
	const assigned = headings > 1 ? plain.filter((line) => /^[\w."-]{1,60}\s?=\s?\S/.test(line)).length : 0;
	return assigned + headings >= written * ASSIGNED;
}
const ASSIGNED = 0.8;

/** The heads of the layout that has most of them; the plainest one, where it does for most lines. */
function headsOf(plain: readonly string[], written: number): Head[] {
	const first = alikeOnly(stampFirst(plain));
	if (first.length >= written * PLAINLY) return first;
	const says = (heads: readonly Head[]): boolean => heads.some((h) => h.before !== '' || h.rest !== '');
	return [nameFirst(plain), underHeadings(plain), nameAbove(plain), nameBelow(plain)]
		.map(alikeOnly)
		.reduce((best, heads) => (heads.length > best.length || (heads.length === best.length && !says(best)) ? heads : best), first);
}

/** The messages between the heads. `writers`: where their names stand behind the stamps. */
function readMessages(
	lines: readonly TextLine[],
	heads: readonly Head[],
	dates: DateReading,
	writers: Writers | null,
	sections: readonly Section[]
): { messages: ExportedMessage[]; systemLines: number } {
	const messages: ExportedMessage[] = [];
	let systemLines = 0;
	const isBelow = writers === null || writers.areAlone;
	const sectionAt = new Map(sections.map((s) => [s.head, s]));
	let section: Section | undefined;
	heads.forEach((head, i) => {
		section = sectionAt.get(i) ?? section;
		const at = stampTime(head.stamp, dates);
		if (at === null) return;
		const next = endOf(head, sectionAt.get(i + 1)?.line ?? heads[i + 1]?.line ?? lines.length);
		const own = lines[head.line]!.text;
		const split = writers
			? writers.split(own, own.length - head.rest.length)
			: { writer: trimName(lines[head.nameLine ?? head.line]!.text.slice(0, head.before.length)), text: restOf(own, head) };
		const following = lines.slice(head.stampLine + 1, next).map((l) => l.text);
		if (!split?.writer) {
			systemLines++;
			return;
		}
		const parts = split.text === '' && isBelow ? following : [split.text, ...following];
		while (
			parts.length > 1 &&
			parts.at(-1)!.trim() === '' &&
			(isBelow || head.until !== undefined || i === heads.length - 1 || sectionAt.has(i + 1))
		)
			parts.pop();
		const last = lines[next - 1]!;
		const { offset } = lines[head.line]!;
		messages.push({
			offset,
			length: last.offset + last.length - offset,
			at,
			written: head.stamp.written,
			writer: split.writer,
			text: parts.join('\n'),
			file: null,
			with: section?.name ?? null,
			called: null
		});
	});
	return { messages, systemLines };
}

/** A line drawn between messages. */
const RULE = /^\s*([-=_*~#─—])\1{2,}$/u;
const RULE_LONGEST = 200;

/** A text without the line drawn behind it; null where there is none. */
function withoutRule(text: string): string | null {
	const whole = text.trimEnd();
	const end = whole.lastIndexOf('\n');
	return end >= 0 && whole.length - end < RULE_LONGEST && RULE.test(whole.slice(end + 1)) ? whole.slice(0, end).trimEnd() : null;
}

/** Takes the line off that an export draws between its messages, or behind each. */
function dropRules(messages: readonly ExportedMessage[]): void {
	const without = messages.map((m) => withoutRule(m.text!));
	const ruled = without.filter((t) => t !== null).length;
	if (ruled >= 2 && ruled >= messages.length - 1) for (const [i, m] of messages.entries()) m.text = without[i] ?? m.text;
}

/** Takes off the empty line that an export leaves between its heads and what was said, and what is left behind that. */
function dropGap(messages: readonly ExportedMessage[]): void {
	const gaps = messages.filter((m) => m.text!.startsWith('\n')).length;
	if (gaps < GAPS_LEAST || gaps < messages.length * GAPS) return;
	for (const m of messages) if (m.text!.startsWith('\n')) m.text = m.text!.slice(1).trimEnd();
}
const GAPS_LEAST = 3;
const GAPS = 0.9;

/** Takes off by how much an export sets in what was said: all texts, or all lines of them but the first. */
function dropIndents(messages: readonly ExportedMessage[]): void {
	const firsts = messages.map((m) => m.text!.split('\n', 1)[0]!).filter((t) => t !== '');
	const further = messages.flatMap((m) => m.text!.split('\n').slice(1)).filter((t) => t.trim() !== '');
	const first = indentOf(firsts);
	const rest = first !== '' || further.length >= INDENTED ? indentOf(further) : '';
	if (first === '' && rest === '') return;
	for (const m of messages) {
		const lines = m.text!.split('\n').map((line, i) => outdented(line, i === 0 ? first : rest));
		m.text = rest === '' ? lines.join('\n') : lines.join('\n').trimEnd();
	}
}
/** So many further lines must be set in, that somebody's own list is not taken for it. */
const INDENTED = 3;

const outdented = (line: string, indent: string): string => (line.startsWith(indent) ? line.slice(indent.length) : line);

/** The blanks with which all lines begin. */
function indentOf(lines: readonly string[]): string {
	let indent = /^[ \t]*/.exec(lines[0] ?? '')![0];
	for (const line of lines) while (!line.startsWith(indent)) indent = indent.slice(0, -1);
	return indent;
}

/** Takes off the signs that an export puts around texts of several lines, and only those (RFC 4180, section 2). */
function dropQuotes(messages: readonly ExportedMessage[], least: number): void {
	const isQuoted = ({ text }: ExportedMessage): boolean => /^"[\s\S]*"\s*$/.test(text!);
	const several = messages.filter((m) => m.text!.trimEnd().includes('\n'));
	if (several.length < least || !several.every(isQuoted)) return;
	for (const m of several) m.text = m.text!.trimEnd().slice(1, -1).replaceAll('""', '"');
}
const QUOTED_LEAST = 2;

/** Opens the signs that a log has in the place of line breaks, where no text goes over several lines and no other is there. */
function openEscapes(messages: readonly ExportedMessage[]): void {
	const texts = messages.map((m) => m.text!.trimEnd());
	const escaped = texts.filter((text) => /\\n/.test(text)).length;
	if (escaped < ESCAPED_LEAST || texts.some((text) => text.includes('\n') || /\\(?![nrt\\"])/.test(text))) return;
	for (const m of messages) m.text = m.text!.replace(/\\([nrt\\"])/g, (_, c: string) => ({ n: '\n', r: '\r', t: '\t' })[c] ?? c);
}
const ESCAPED_LEAST = 3;

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
/** The one who wrote or was written to in every block, where all say both and the others are several. */
function inEach(blocks: readonly Block[]): string | null {
	const [first, ...others] = blocks;
	if (!first || blocks.some((b) => !b.recipient)) return null;
	const both = [first.writer, first.recipient!].filter((name) => others.every((b) => b.writer === name || b.recipient === name));
	return both.length === 1 ? both[0]! : null;
}

function fromBlocks(
	lines: readonly TextLine[],
	blocks: readonly Block[],
	siblings: ReadonlySet<string>,
	usual?: DateOrder
): Conversation | null {
	const dates = readDates(
		blocks.map((b) => b.stamp),
		usual
	);
	if (!dates) return null;
	const messages: ExportedMessage[] = [];
	const owner = inEach(blocks);
	for (const { start, end, stamp, writer, recipient, text, label } of blocks) {
		const at = stampTime(stamp, dates);
		if (at === null) continue;
		const parts = lines.slice(text, end).map((l, i) => (i === 0 ? l.text.slice(label) : l.text));
		while (parts.length > 0 && /^(?:([-=_*])\1*)?$/.test(parts.at(-1)!.trim())) parts.pop();
		while (parts.length > 0 && parts[0]!.trim() === '') parts.shift();
		const { offset } = lines[start]!;
		const last = lines[end - 1]!;
		messages.push({
			offset,
			length: last.offset + last.length - offset,
			at,
			written: stamp.written,
			writer: nameAndAddress(writer) ? writer : trimName(writer),
			text: parts.join('\n'),
			file: null,
			with: owner === null ? null : trimName(owner === writer ? recipient! : writer),
			called: null
		});
	}
	tellWays(messages);
	takeFiles(messages, siblings);
	const zoned = blocks.every((b) => b.stamp.zone !== null);
	const isRoom = owner !== null && blocks.every((b) => b.recipient === owner && b.writer !== owner);
	return { messages, systemLines: 0, dates, zoned, isOfDay: false, ...(isRoom ? { room: trimName(owner) } : {}) };
}

const LEADING_MARKS = new RegExp(`^[${MARKS}]+`, 'u');
