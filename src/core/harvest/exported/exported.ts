/**
 * Harvest of exported files: conversations as text, records as JSON, XML, CSV or HTML, and mail. They have one reach,
 * what is in them; each entry is a row with its place in the file.
 */
import type { ByteSource, CodePage, Encoding } from '../../bytes';
import type { Column, Note, Reach, Row, Table, Value } from '../../model';
import type { AccountLine, Harvested, Progress, Rows } from '../harvested';
import { plainColumn, plainTable } from '../plain-table';
import { joinAlternatives } from './alternatives';
import { readConversation, type Conversation } from './conversation';
import { inColumns, itemsOfRows, readCsv, type CellRow } from './csv';
import { conversationName, isCalledConversation } from './conversation-name';
import { dayInName } from './day-of-log';
import { embeddedFiles, stateEmbedded, type EmbeddedFile } from './embedded';
import type { Item } from './items';
import { isJsonLog, readJson, readJsonEntry, readJsonLog } from './json';
import { isLetter, readLetter } from './letter';
import { isPackedValues, readPackedValues } from './packed-values';
import { withoutMarks } from './marked-text';
import { putMisreadRight } from './misread';
import { isBinaryPlist, readBinaryPlist, readPlistText } from './plist';
import { isRichText, richText } from './rich-text';
import { brokenRows } from './breakage';
import { openResources } from './linked-data';
import { liftAnswers } from './replies';
import { byteOffsets, decode, isUnicode, linesOf, textEncodingOf, wholeText, type TextEncoding } from './lines';
import { headingOfPage, readHtml } from './html';
import { dataOfPage, dataOfScript } from './scripted';
import type { Sides } from './page-sides';
import { readSinglePage } from './single-page';
import { readBracketed } from './bracketed';
import { textOfHtml } from './markup';
import { readXml } from './xml';
import { isYaml, readYaml } from './yaml';
import { takePartsOut } from './parts';
import { breaksOff, isSql, readSql } from './sql';
import { plainLine, type DateOrder, type DateReading } from './stamps';
import { tablesOf } from './tables';
import { isVmessage, readVmessages } from './vmessage';
import { baseOf } from '../../paths';

/** A mail as parsed; where it lies in its file. */
export interface Mail {
	/** ms UTC; null where it states no time. */
	at: number | null;
	from: { address: string; name: string };
	to: { address: string; name: string }[];
	subject: string;
	text: string;
	id: string;
	answers: string;
	files: string[];
	/** Whether its end is missing. */
	isCut: boolean;
	offset: number;
	length: number;
}

/** Something written like a time of day, a date or a count of seconds. */
const TIMELIKE = /\d{4}-\d\d?-\d\d?|\d\d?[:.hH]\d\d|\b\d{9,19}\b|\d\d?[./]\d\d?[./]\d{2,4}/;

/** What is known of an export beside its values: a conversation's and a mail's columns need no guess; a store is a database written out. */
export type ExportForm = 'conversation' | 'records' | 'mail' | 'store';

export interface ExportedFile {
	/** File name. */
	name: string;
	/** Where it lies: a log of one day is called after the day, and its folder after whom it is with. */
	path?: string;
	source: ByteSource;
	mails?: readonly Mail[];
	/** Which class stands for which way on other pages of its export. */
	sides?: Sides;
	/** How other files of its export write dates, where it leaves that open itself. */
	usual?: DateOrder;
	/** Whether the files beside it are logs of one day each. */
	isLog?: boolean;
	/** Whether it belongs to other files of an export, as a page or a list of theirs: a row is enough, and it needs no times. */
	isPart?: boolean;
	/** Whether it holds one entry of those that others like it hold: a message, with lists of what came with it. */
	isEntry?: boolean;
}

/** An export larger than this is not read. */
const LARGEST = 256 << 20;
/** So many bytes say whether a text can be an export at all. */
const HEAD = 1 << 16;

interface Entry {
	values: (Value | undefined)[];
	/** Where it has one of its own. */
	rowid?: number;
	offset: number;
	length: number;
	/** Whether its text is cut or damaged, so that it may be a part. */
	isPart?: boolean;
}

/** Columns of a conversation read from text, in order. */
export const CONVERSATION = ['conversation', 'sent', 'as written', 'writer', 'text', 'file', 'called'] as const;
/** Column of records that says which file they are from: a conversation where nothing else tells them apart. */
export const FILE_COLUMN = '(file)';
/** Columns of mail, in order. */
export const MAIL = ['between', 'sent', 'from', 'from name', 'to', 'to name', 'subject', 'text', 'files', 'id', 'answers'] as const;

/** Rows in the order of the text they are read from. */
class EntryRows implements Rows {
	readonly rows: Row[] = [];
	readonly perTable: Row[][] = [[]];

	get size(): number {
		return this.rows.length;
	}

	rowsOf(table: number): readonly Row[] {
		return this.perTable[table] ?? [];
	}
}

export class ExportHarvest implements Harvested {
	readonly tables: Table[] = [plainTable(0, '(none)', [])];
	readonly sequences = new Map<string, number>();
	readonly account: AccountLine[] = [];
	readonly notes: Note[] = [];
	readonly encoding: Encoding;
	/** How its letters are written, where that was told from them alone. */
	readonly codePage: CodePage | null;
	readonly changeCounter = 0;
	readonly engineVersion = 0;
	readonly book = new EntryRows();
	/** How dates were read that could be read in more than one way, for the screen. */
	readonly dates: (Omit<DateReading, 'months'> & { column: string })[] = [];
	/** What a page is called and headed by; '' where nothing says it. */
	heading = '';
	/** Of a page the ways that its classes stand for. */
	sides: Sides | undefined = undefined;
	/** Whether the times of a conversation state their zone. */
	zoned = false;
	systemLines = 0;
	/** Bytes of the file at which it is not what it should be, or ends too early. */
	readonly broken: number[] = [];
	/** Whether it is a log of one day, which its file is called after. */
	isOfDay = false;
	/** Whether it is all of a folder in which a program keeps a file for each conversation. */
	isFolderOfTalks = false;
	private readonly waiting: { table: Table; entries: Entry[] }[] = [];

	constructor(
		readonly form: ExportForm,
		private readonly file: number,
		private size: number,
		encoding: TextEncoding
	) {
		this.encoding = isUnicode(encoding) ? encoding : 'utf8';
		this.codePage = isUnicode(encoding) ? null : encoding;
	}

	/** Entries that no run has made rows of yet. */
	get waitingRows(): number {
		return this.waiting.reduce((sum, { entries }) => sum + entries.length, 0);
	}

	add(table: Table, entries: Entry[]): void {
		this.waiting.push({ table, entries });
	}

	/**
	 * Takes in a further page of the same export, where its tables are of the same kind; its entries keep their own place.
	 * Both were run. `isOther`: it is a conversation of its own, and keeps what it is called.
	 */
	takeIn(page: ExportHarvest, isOther = false): boolean {
		const own = page.tables.slice(1).map((t) => this.tables.findIndex((known, i) => i > 0 && isOfOneKind(known, t)));
		if (own.length === 0 || own[0]! < 1 || (!isOther && own.some((i) => i < 1))) return false;
		// What this one had none of: files that came with a message.
		for (const [k, index] of own.entries()) if (index < 1) own[k] = this.addLike(page.tables[k + 1]!);
		const before = new Map(this.tables.map((t, i) => [`in ${t.name}`, this.book.rowsOf(i).length]));
		for (const [k, index] of own.entries()) {
			const rows = this.book.perTable[index]!;
			const title = rows[0]?.values.at(-1);
			const places = page.tables[k + 1]!.columns.slice(0, -1).map((column) => this.columnOf(index, column));
			for (const row of page.book.rowsOf(k + 1)) {
				const values: Row['values'] = this.tables[index]!.columns.map(() => null);
				for (const [from, to] of places.entries()) {
					const value = row.values[from];
					// What a row stands in is counted from the first page's first.
					values[to] = typeof value === 'number' ? value + (before.get(page.tables[k + 1]!.columns[from]!.name) ?? 0) : value;
				}
				values[values.length - 1] = isOther ? row.values.at(-1) : title;
				const taken = { ...row, table: index, rowid: rows.length + 1, values };
				rows.push(taken);
				this.book.rows.push(taken);
			}
		}
		this.accountFor(page);
		return true;
	}

	/** Adds a table declared as another file's is, without rows; returns its place. */
	private addLike(table: Table): number {
		const index = this.tables.length;
		this.tables.push({ ...table, index });
		this.book.perTable[index] = [];
		return index;
	}

	/**
	 * Takes in the tables of a file of the same export that holds no messages: its persons, its conversations. Both were run.
	 * `own`: what this file is called, as its only table is then. `file`: what the column is called that says of each row
	 * which file it is from; without it there is none.
	 */
	takeTables(list: ExportHarvest, which: readonly number[], title: string, own: string, file: string | null = null): void {
		const [, only] = this.tables;
		if (only && this.tables.length === 2 && UNNAMED.test(only.name)) this.tables[1] = { ...only, name: own };
		for (const from of which) {
			const { name, columns } = list.tables[from]!;
			const index = this.tables.length;
			const named = file !== null || UNNAMED.test(name) ? title : name;
			const kept = [...columns.slice(0, -1), ...(file === null ? [] : [{ ...columns.at(-1)!, name: file }])];
			this.tables.push({ ...list.tables[from]!, index, name: named, columns: kept });
			const rows = list.book.rowsOf(from).map((row) => ({ ...row, table: index, values: row.values.slice(0, kept.length) }));
			this.book.perTable[index] = rows;
			for (const row of rows) this.book.rows.push(row);
		}
		this.accountFor(list);
	}

	/** What its one conversation is called, where its file's name does not say it. */
	callBy(title: string): void {
		for (const [i, { columns }] of this.tables.entries())
			if (columns.at(-1)?.name === FILE_COLUMN) for (const row of this.book.rowsOf(i)) row.values[columns.length - 1] = title;
	}

	private accountFor({ size }: ExportHarvest): void {
		this.size += size;
		const files = (this.account[0]?.files ?? 1) + 1;
		this.account.splice(0, 1, { space: 'exported entries', bytes: this.size, rows: this.book.size, files });
	}

	/** Takes in the log of another day of the same conversation; its entries keep their own place. Both were run. */
	goOnWith(day: ExportHarvest): void {
		const rows = this.book.perTable[1]!;
		for (const row of day.book.rowsOf(1)) {
			const taken = { ...row, rowid: rows.length + 1 };
			rows.push(taken);
			this.book.rows.push(taken);
		}
		this.systemLines += day.systemLines;
		this.zoned &&= day.zoned;
		this.accountFor(day);
	}

	/** The place of a column in a table; one that it lacks is put in before the last, which is the file's. */
	private columnOf(table: number, column: Column): number {
		const { columns } = this.tables[table]!;
		const known = columns.findIndex((c) => c.name === column.name);
		if (known >= 0) return known;
		columns.splice(-1, 0, column);
		for (const row of this.book.perTable[table]!) row.values.splice(-1, 0, null);
		return columns.length - 2;
	}

	*run(reach: Reach): Generator<Progress, void, void> {
		for (const { table, entries } of this.waiting.splice(0)) {
			const index = this.tables.length;
			this.tables.push({ ...table, index });
			const rows = entries.map((e, i): Row => ({
				table: index,
				tableKnown: true,
				rowid: e.rowid ?? i + 1,
				values: e.values,
				cut: -1,
				standing: 'kept',
				grade: e.isPart ? 'fragment' : 'whole',
				sightings: [
					{
						file: this.file,
						offset: e.offset,
						length: e.length,
						method: 'exported',
						standing: 'kept',
						grade: e.isPart ? 'fragment' : 'whole'
					}
				]
			}));
			this.book.perTable[index] = rows;
			for (const row of rows) this.book.rows.push(row);
		}
		if (this.account.length === 0) this.account.push({ space: 'exported entries', bytes: this.size, rows: this.book.size });
		yield { reach, done: this.size, total: this.size };
	}
}

/** What lists are called that no name stands with. */
const UNNAMED = /^(?:records|rows)$/;

/** Whether two tables have one name, and most columns of either stand in the other: a picture may be on one page only. */
function isOfOneKind(a: Table, b: Table): boolean {
	const names = new Set(a.columns.map((c) => c.name));
	const shared = b.columns.filter((c) => names.has(c.name)).length;
	return a.name === b.name && shared * 2 > Math.max(a.columns.length, b.columns.length);
}

/** The files within the text of an export, where it is one of records or a page. `head`: its first bytes. */
export function filesWithin(source: ByteSource, head: Uint8Array): EmbeddedFile[] {
	if (source.size > LARGEST || !OPENS.test(new TextDecoder('latin1').decode(head.subarray(0, 64)))) return [];
	const encoding = textEncodingOf(source.read(0, HEAD));
	return encoding ? embeddedFiles(wholeText(source.read(0, source.size), encoding)) : [];
}

/** A brace, a bracket or a tag, behind a byte order mark and blanks; in UTF-16 each with a zero beside it. */
const OPENS = /^(?:\xef\xbb\xbf|\xff\xfe|\xfe\xff)?[\s\0]*[<{[]/;

/** Opens a file as an export, or null where it is none. `siblings`: names of the files that lie beside it. */
export function openExport(file: ExportedFile, index: number, siblings: ReadonlySet<string>): ExportHarvest | null {
	const { source } = file;
	if (file.mails) return openMail(file.mails, index, source.size);
	if (source.size < 8 || source.size > LARGEST) return null;
	const head = source.read(0, HEAD);
	if (isBinaryPlist(head)) return openBinary(readBinaryPlist, file, index);
	if (isPackedValues(file.name, head)) return openBinary(readPackedValues, file, index);
	const encoding = textEncodingOf(head);
	if (!encoding) return null;
	const start = decode(head, 0, head.length, encoding)
		.replace(/^\ufeff/, '')
		.trimStart();
	const whole = (): { bytes: Uint8Array; text: string } => {
		const bytes = source.read(0, source.size);
		return { bytes, text: wholeText(bytes, encoding) };
	};
	// Records of messages have times near their beginning: most files of a profile's settings have none.
	const timed = TIMELIKE.test(plainLine(start));
	const records = (read: (text: string) => Item | null): ExportHarvest | null => {
		if (!timed && !file.isPart) return null;
		const { bytes, text } = whole();
		return openRecords(read(text), titleOf(file.name), text, bytes, index, encoding, 0, file);
	};
	const page = (): ExportHarvest | null => {
		let sides: Sides | undefined;
		let heading = '';
		const harvest = records((text) => {
			const root = readHtml(text, Infinity, file.sides);
			sides = root?.sides;
			heading = headingOfPage(text);
			return root;
		});
		return harvest && Object.assign(harvest, { heading, sides });
	};
	if (isRichText(start)) return openText(richText(whole().text) ?? '', file, index, siblings);
	if (isVmessage(start)) return records(readVmessages);
	if (isSql(start)) return openSql(whole(), index, encoding);
	if (/^(\{|\[\s*[{["\]])/.test(start)) return records(file.isEntry ? readJsonEntry : readJson);
	if (ASSIGNED.test(start)) return records((text) => readJson(withoutName(text)));
	if (/\.(?:m?js|jsonp)$/i.test(file.name)) return records(ofScript(dataOfScript));
	if (/^<(!doctype\s+html|html|body|div|table|head)\b/i.test(start) || /<html[\s>]/i.test(start.slice(0, 2000))) {
		// A page called after a day is headed by the day, and by whom it is with, which its folder says as well.
		const asText = (): string => textOfHtml(whole().text, dayInName(titleOf(file.name)) === null);
		return (
			page() ??
			(file.isPart ? records(readSinglePage) : null) ??
			records(ofScript(dataOfPage)) ??
			openConversation(new TextEncoder().encode(asText()), 'utf8', file, index, siblings, true)
		);
	}
	if (IS_PLIST.test(start.slice(0, 1000))) return records(readPlistText);
	if (start.startsWith('<')) return records(readXml);
	if (SECTION.test(start)) {
		const sections = records(readBracketed);
		if (sections) return sections;
	}
	const conversation = (): ExportHarvest | null => openConversation(source.read(0, source.size), encoding, file, index, siblings);
	if (/\.(csv|tsv|tab)$/i.test(file.name)) return records(readCsv) ?? conversation();
	if (isYaml(start, file.name)) return records(readYaml) ?? conversation();
	if (/\.(?:md|markdown)$/i.test(file.name)) {
		const marked = conversation();
		const plain = openConversation(new TextEncoder().encode(withoutMarks(whole().text)), 'utf8', file, index, siblings, true);
		return plain && (!marked || plain.waitingRows > marked.waitingRows) ? plain : marked;
	}
	if (file.isPart && isLetter(start)) return records(readLetter);
	const logged = isJsonLog(start) ? records(readJsonLog) : null;
	return logged ?? conversation() ?? (inColumns(start) ? records(readCsv) : null);
}

/** JSON that a page loads as a script: the value of a name. */
const ASSIGNED = /^\s*(?:(?:var|let|const)\s+)?[A-Za-z_$][\w$.[\]"']{0,80}\s*=\s*(?=[[{])/;

/** A heading in brackets, and a name with its value below. */
const SECTION = /^\[{1,2}[^[\]\r\n]{1,80}\]{1,2}[ \t]*\r?\n(?:[;#].*\r?\n)*[\p{L}_][\p{L}\p{N}_.-]{0,40}[ \t]*=/mu;

/** What a script has as its data. */
const ofScript =
	(dataOf: (text: string) => string | null) =>
	(text: string): Item | null => {
		const data = dataOf(text);
		return data === null ? null : readJson(data);
	};

/** The value alone, at its place in the text. */
const withoutName = (text: string): string =>
	text.replace(ASSIGNED, (name) => ' '.repeat(name.length)).replace(/;\s*$/, (end) => ' '.repeat(end.length));

/** A conversation in the text of a document, whose file is the place of each message. */
export const openText = (
	text: string,
	file: ExportedFile,
	index: number,
	siblings: ReadonlySet<string> = new Set()
): ExportHarvest | null => openConversation(new TextEncoder().encode(text), 'utf8', file, index, siblings, true);

/** A database that was written out as statements. */
function openSql({ bytes, text }: { bytes: Uint8Array; text: string }, index: number, encoding: TextEncoding): ExportHarvest | null {
	const tables = readSql(text);
	if (tables.length === 0) return null;
	const harvest = new ExportHarvest('store', index, bytes.length, encoding);
	const places = tables.flatMap((t) => t.rows.flatMap((r) => [r.from, r.to]));
	const at = byteOffsets(text, places, bytes, encoding);
	harvest.broken.push(...tables.flatMap((t) => t.rows.flatMap((r) => (r.isPart ? [at.get(r.to)!] : []))));
	if (harvest.broken.length === 0 && breaksOff(text)) harvest.broken.push(bytes.length);
	for (const { table, rows } of tables)
		harvest.add(
			table,
			rows.map(({ values, rowid, from, to, isPart }) => ({
				values,
				rowid,
				isPart,
				offset: at.get(from)!,
				length: Math.max(0, at.get(to)! - at.get(from)!)
			}))
		);
	return harvest;
}

/** A sheet of a spreadsheet: its rows stand in this text, of a file of its own or of one with others. */
export function openSheet(rows: CellRow[], title: string, text: string, source: ByteSource, index: number): ExportHarvest | null {
	const bytes = source.read(0, source.size);
	return openRecords(itemsOfRows(rows, text.length), title, text, bytes, index, textEncodingOf(bytes.subarray(0, HEAD)) ?? 'utf8', 0, {
		isPart: true
	});
}

/** The element, or the type of document, of a property list. */
const IS_PLIST = /<(?:!DOCTYPE\s+)?plist\b/;

/** What is no text is a file of settings unless it lists things with times. */
function openBinary(read: (bytes: Uint8Array) => Item | null, file: ExportedFile, index: number): ExportHarvest | null {
	const { name, source } = file;
	if (source.size > LARGEST_BINARY) return null;
	const bytes = source.read(0, source.size);
	return openRecords(read(bytes), titleOf(name), null, bytes, index, 'utf8', 0, file);
}
const LARGEST_BINARY = 64 << 20;

/**
 * A page of an export that says too little by itself (a last one with a message or two), read as a continuation of the
 * first one; null where it has nothing of what that one has.
 */
export function openFurtherPage(first: ExportedFile, page: ExportedFile, index: number): ExportHarvest | null {
	if (first.source.size + page.source.size > LARGEST) return null;
	const [before, after] = [first, page].map(({ source }) => {
		const bytes = source.read(0, source.size);
		const encoding = textEncodingOf(bytes.subarray(0, HEAD));
		return encoding && { bytes, encoding, text: wholeText(bytes, encoding) };
	});
	if (!before || !after) return null;
	const root = readHtml(before.text + after.text, before.text.length);
	const harvest = openRecords(root, titleOf(page.name), after.text, after.bytes, index, after.encoding, before.text.length);
	if (harvest) harvest.heading = headingOfPage(after.text);
	return harvest;
}

/** A file's name without its ending and the folders it is in. */
export const titleOf = (name: string): string => baseOf(name).replace(ENDING, '');
const ENDING = /\.(?:[a-z]{2,4}|jsonl|ndjson|plist|markdown)$/i;

/** A text without a conversation is looked at no further than this before it is given up. */
const LINES_TRIED = 400;

/** `isMade`: the text was made of the file's, so that the whole file is the place of each message. */
function openConversation(
	bytes: Uint8Array,
	encoding: TextEncoding,
	file: ExportedFile,
	index: number,
	siblings: ReadonlySet<string>,
	isMade = false
): ExportHarvest | null {
	const name = titleOf(file.name);
	const named = dayInName(name);
	const known = { day: named?.day ?? null, isLog: file.isLog ?? false, isCalled: isCalledConversation(name, file.path) };
	const read = (most: number, beside: ReadonlySet<string>, usual?: DateOrder): Conversation | null =>
		readConversation(linesOf(bytes, encoding, most), beside, usual, known);
	const found = read(LINES_TRIED, new Set()) && read(Infinity, siblings, file.usual);
	if (!found) return null;
	const harvest = new ExportHarvest('conversation', index, file.source.size, encoding);
	harvest.zoned = found.zoned;
	harvest.systemLines = found.systemLines;
	harvest.dates.push({ column: 'as written', ...withoutMonths(found.dates) });
	const folder = (file.path ?? '').split('/').at(-2) ?? '';
	const title = found.isOfDay ? named!.rest || folder || name : conversationName(name, file.path);
	harvest.isOfDay = found.isOfDay;
	const isRoom = found.room !== undefined && found.room.toLowerCase() === title.toLowerCase();
	harvest.add(
		plainTable(0, 'conversation', CONVERSATION),
		found.messages.map((m) => ({
			values: [
				(isRoom ? null : m.with) ?? title,
				m.at,
				m.written,
				m.writer,
				isMade && m.text ? m.text.trimEnd() : m.text,
				m.file,
				m.called
			],
			offset: isMade ? 0 : m.offset,
			length: isMade ? file.source.size : m.length
		}))
	);
	return harvest;
}

/**
 * `text`: what `root` was read from; null where its places are those of bytes. `from`: where what is asked for begins in
 * it; what comes before is another file's.
 */
function openRecords(
	root: Item | null,
	title: string,
	text: string | null,
	bytes: Uint8Array,
	index: number,
	encoding: TextEncoding,
	from = 0,
	{ usual, isPart }: Pick<ExportedFile, 'usual' | 'isPart'> = {}
): ExportHarvest | null {
	if (root) {
		openResources(root);
		liftAnswers(root);
		putMisreadRight(root);
		stateEmbedded(root);
		takePartsOut(root);
		joinAlternatives(root);
	}
	const all = root ? tablesOf(root, usual) : [];
	if (!isPart && !all.some((t) => t.rows.length > 1)) return null;
	const tables = all
		.map((t) => ({ ...t, rows: t.rows.filter((r) => r.from >= from).map((r) => ({ ...r, from: r.from - from, to: r.to - from })) }))
		.filter((t) => t.rows.length > 0);
	if (tables.length === 0) return null;
	const harvest = new ExportHarvest('records', index, bytes.length, encoding);
	const broken = (root?.broken ?? []).map((place) => place - from).filter((place) => place > 0);
	const parts = brokenRows(
		tables.flatMap((t) => t.rows),
		broken,
		text?.slice(from) ?? ''
	);
	const places = [...tables.flatMap((t) => t.rows.flatMap((r) => [r.from, r.to])), ...broken];
	const at = text === null ? new Map(places.map((place) => [place, place])) : byteOffsets(text, places, bytes, encoding);
	for (const { table, rows, dates } of tables) {
		const columns = [...table.columns, plainColumn(FILE_COLUMN)];
		harvest.add(
			{ ...table, columns },
			rows.map((r) => ({
				values: [...r.values, title],
				offset: at.get(r.from)!,
				length: Math.max(0, at.get(r.to)! - at.get(r.from)!),
				isPart: parts.has(r)
			}))
		);
		for (const d of dates) harvest.dates.push({ column: `${table.name}: ${d.column}`, ...withoutMonths(d.reading) });
	}
	harvest.broken.push(...broken.map((place) => at.get(place)!));
	return harvest;
}

const withoutMonths = ({ order, why, runnerUp, form, open }: DateReading): Omit<DateReading, 'months'> => ({
	order,
	why,
	runnerUp,
	form,
	open
});

function openMail(mails: readonly Mail[], index: number, size: number): ExportHarvest {
	const harvest = new ExportHarvest('mail', index, size, 'utf8');
	harvest.zoned = true;
	const of = (list: readonly { address: string }[]): string => list.map((p) => p.address).join(', ');
	harvest.add(
		plainTable(0, 'mail', MAIL),
		mails.map((m) => ({
			values: [
				[...new Set([m.from.address, ...m.to.map((t) => t.address)].map((a) => a.toLowerCase()))].sort().join(' '),
				m.at,
				m.from.address,
				m.from.name,
				of(m.to),
				m.to.map((t) => t.name).join(', '),
				m.subject,
				m.text === '' ? m.subject : m.text,
				m.files.join('\n') || null,
				m.id || null,
				m.answers || null
			],
			offset: m.offset,
			length: m.length,
			isPart: m.isCut
		}))
	);
	harvest.broken.push(...mails.flatMap((m) => (m.isCut ? [m.offset + m.length] : [])));
	return harvest;
}
