/**
 * The record as pages. What the typesetter gets is data (JSON), never markup: texts from evidence cannot become
 * commands. The template is fixed; see `template.ts`.
 */
import { GRADE_WORDS, METHOD_WORDS, STANDING_LETTER, STANDING_WORDS } from '../wording';
import type { Method } from '../model';
import type { BundleRecord, RecordMessage, RecordThread } from './record';
import { offsetsBetween, writtenTime } from './times';
import { writerOf } from './writer';
import { lostBytes, writtenText } from './written';

interface PageLine {
	kind: 'message' | 'gap' | 'earlier';
	date: string;
	time: string;
	letter: string;
	standing: string;
	writer: string;
	text: string;
	lang: string;
	note: string;
}

export interface PageData {
	caseName: string;
	made: string;
	/** Year, month, day, hour, minute, second, UTC: the document's date. */
	madeAt: number[];
	zone: string;
	sources: { name: string; size: string; sha256: string }[];
	standings: { letter: string; name: string; words: string }[];
	method: string[];
	limits: string[];
	threads: { title: string; under: string; excerpt: string; lines: PageLine[] }[];
}

const RTL = /[\u0590-\u05ff]/;
const ARABIC = /[\u0600-\u06ff\u0750-\u077f\u08a0-\u08ff\ufb50-\ufdff\ufe70-\ufeff]/;

/** The language a text is typeset in, from its first strong letter: decides direction and line breaking. */
function languageOf(text: string): string {
	for (const c of text) {
		if (ARABIC.test(c)) return 'ar';
		if (RTL.test(c)) return 'he';
		if (/[\u3040-\u30ff]/.test(c)) return 'ja';
		if (/[\uac00-\ud7af]/.test(c)) return 'ko';
		if (/[\u3400-\u9fff]/.test(c)) return 'zh';
		if (/\p{L}/u.test(c)) return 'en';
	}
	return 'en';
}

function seen(m: RecordMessage): string {
	const where = m.sightings.map(
		(s) =>
			`${METHOD_WORDS[s.method as Method] ?? s.method}, ${s.source}${s.page ? `, page ${s.page}` : ''}${s.frame ? `, ${s.method === 'journal-page' ? 'record' : 'frame'} ${s.frame}` : ''}, offset ${s.offset}, ${s.length} bytes`
	);
	const most = m.standing === 'kept' ? 1 : 3;
	return where.length > most
		? `${where.slice(0, most).join('; ')}; and in ${where.length - most} more ${where.length - most === 1 ? 'place' : 'places'}`
		: where.join('; ');
}

/** Characters no font has and no reader sees, which a typesetter would show as boxes. */
const tidy = (text: string): string =>
	text
		.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f]/g, '\ufffd')
		.replace(/\r\n?/g, '\n')
		.replace(/[\ufe0e\ufe0f\u200b\u2060\ufeff]/g, '');

function lineOf(m: RecordMessage, record: BundleRecord): PageLine {
	const at = m.sentAt === null ? null : writtenTime(m.sentAt, record.zone);
	const notes: string[] = [];
	if (m.standing !== 'kept') notes.push(STANDING_WORDS[m.standing]);
	if (m.grade !== 'whole') notes.push(GRADE_WORDS[m.grade]);
	if (m.textRest) notes.push(`${lostBytes(m.textRest.lost)} in the middle of the text are overwritten`);
	else if (m.textCut) notes.push('the text goes on where its bytes are overwritten');
	if (at && !m.zoned) notes.push(`the source states no time zone; read in ${record.zone}`);
	if (record.showSightings) notes.push(`seen: ${seen(m)}`);
	return {
		kind: m.earlierWordingOf ? 'earlier' : 'message',
		date: at?.date ?? 'date not known',
		time: at?.time ?? '',
		letter: STANDING_LETTER[m.standing],
		standing: m.standing,
		writer: m.earlierWordingOf ? `${writerOf(m, record.owner)}, earlier wording` : writerOf(m, record.owner),
		text: tidy(writtenText(m) ?? '(no text)'),
		lang: languageOf(m.text ?? ''),
		note: notes.join('. ')
	};
}

function gapLine(gap: RecordThread['gaps'][number]): PageLine {
	const number = gap.beside ? 'number' : 'record number';
	const counted = gap.beside ? ' of the messages’ own count' : '';
	const range =
		gap.from === 0
			? `${gap.count} more, by the store’s own count or lists, ${gap.count === 1 ? 'is' : 'are'}`
			: gap.from === gap.to
				? `${number} ${gap.from}${counted} is`
				: gap.count === gap.to - gap.from + 1
					? `${number}s ${gap.from} to ${gap.to}${counted} are`
					: `${gap.count} of the ${number}s ${gap.from} to ${gap.to}${counted} are`;
	return {
		kind: 'gap',
		date: '',
		time: '',
		letter: '',
		standing: '',
		writer: '',
		text: `${range[0]!.toUpperCase()}${range.slice(1)} accounted for nowhere (table ${gap.table})${gap.certain ? '' : '; of this thread or another'}.`,
		lang: 'en',
		note: ''
	};
}

function threadPages(thread: RecordThread, record: BundleRecord): PageData['threads'][number] {
	const times = thread.messages.map((m) => m.sentAt).filter((t) => t !== null);
	const from = Math.min(...times);
	const to = Math.max(...times);
	const lines: PageLine[] = [];
	const gaps = record.showGaps ? [...thread.gaps].sort((a, b) => (a.after ?? 0) - (b.after ?? 0)) : [];
	for (const m of thread.messages) {
		while (gaps[0] && m.sentAt !== null && (gaps[0].after ?? -Infinity) < m.sentAt) {
			const gap = gaps.shift()!;
			if ((gap.before ?? gap.after ?? 0) >= from) lines.push(gapLine(gap));
		}
		lines.push(lineOf(m, record));
	}
	for (const gap of gaps) if ((gap.after ?? 0) <= to) lines.push(gapLine(gap));
	const main = thread.messages.filter((m) => !m.earlierWordingOf).length;
	const span = times.length ? `${writtenTime(from, record.zone).date} to ${writtenTime(to, record.zone).date}` : 'dates not known';
	const offsets = times.length ? offsetsBetween(from, to, record.zone).join(' and ') : '';
	return {
		title: tidy(thread.group ? thread.title : `${record.owner} and ${thread.title}`),
		under: [
			thread.group ? `Group: ${thread.members.map((p) => p.name ?? p.address).join(', ')}` : thread.address,
			`all times in ${record.zone}${offsets ? ` (${offsets})` : ''}`
		]
			.filter(Boolean)
			.join(' · '),
		excerpt:
			main < thread.total
				? `Excerpt: ${main} of ${thread.total} messages, ${span}. ${thread.total - main} messages of this thread were left out.`
				: `Whole thread: ${main} messages, ${span}.`,
		lines
	};
}

/** Everything the template prints. */
export function pageData(record: BundleRecord): PageData {
	const made = writtenTime(record.madeAt, record.zone);
	return {
		caseName: tidy(record.caseName),
		made: `${made.date}, ${made.time} ${made.offset}`,
		madeAt: new Date(record.madeAt).toISOString().slice(0, 19).split(/[-T:]/).map(Number),
		zone: record.zone,
		sources: record.sources.map((s) => ({
			name: tidy(s.path || s.name),
			size: `${s.size.toLocaleString('en-GB')} bytes`,
			sha256: s.sha256 ?? 'not computed'
		})),
		standings: (['kept', 'binned', 'dropped', 'remnant'] as const).map((s) => ({
			letter: STANDING_LETTER[s],
			name: s,
			words: STANDING_WORDS[s]
		})),
		method: METHOD,
		limits: [...LIMITS, ...record.remarks.map(tidy)],
		threads: record.threads.map((t) => threadPages(t, record))
	};
}

const METHOD = [
	'The source files were opened for reading only. Nothing was written to them, and nothing was sent from the computer they were read on.',
	'The rows that the database holds in use were read from its own structures, its log laid over it or an unfinished change undone in memory, as the program that wrote it would see them.',
	'Rows that were deleted were then sought in the log, in the journal, in freed cells, on freed pages and in bytes beyond the end. Bytes were taken for a row only where its header, its lengths and its values agree with each other and with the shape of the table.',
	'Which table holds messages, and which column is the text, the time, the writer and the thread, was inferred from the values. The reading of each value can be checked in the case.',
	'The same row seen in several places is one message; each place is one of its sightings, named by file, offset and length in bytes.'
];
const LIMITS = [
	'Bytes that were overwritten cannot be read. A message that is not in this record can have existed.',
	'A rebuilt row has lost its record number; its text and time are its own. A fragment shows exactly the bytes that are left; how many are gone between two parts of a text is said in brackets, which are the record’s.',
	'Times are those the device wrote. Whether its clock was right is not known.'
];
