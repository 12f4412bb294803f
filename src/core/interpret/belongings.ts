/** What belongs to each message by the companions of its sheet: files it states, receipts and reactions, copies of its text. */
import type { Row, Standing, Table, Value } from '../model';
import { bytesIn } from '../harvest';
import { enclosedIn } from './composed/enclosed';
import { contentBytes } from './content-bytes';
import { isTextPart } from './aside';
import { messageKeyOf } from './message-keys';
import { filesOfMessages, listedFiles, type ListedFiles } from './files';
import { reactionsIn, wordingsIn, type Wording } from './listed-within';
import { isReaction } from './kinds';
import type { Understood } from './messages';
import { entriesIn } from './lists';
import type { PeopleBook, Party } from './people';
import type { AttachmentReading, BinReading, CopyReading, MessageReading, StoreReading } from './reading';
import { keyOf } from './refs';
import { cell, type SheetColumn } from './sheet';
import { areLetters, unpacked } from './stored';
import { timeOf } from './time';
import { baseOf } from '../paths';

/** A file as a message states it; whether its bytes are anywhere is another question. */
export interface StatedFile {
	name: string | null;
	/** Media type. */
	type: string | null;
	/** In bytes. */
	size: number | null;
	/** As the store writes it, of whatever digest. */
	hash: string | null;
	/** As the store writes it. */
	path: string | null;
	/** Of a picture, in pixels. */
	width: number | null;
	height: number | null;
	/** What the file, or else the message, is known by in its store: programs call files so. */
	key: string | null;
	/** The numbers that its row has, and its message: programs call files so. */
	row?: number;
	message?: number;
	/** Its bytes, where they stand in the row that states it. */
	inside?: Uint8Array;
	/** What was written below it, where its message has no other text. */
	caption?: string;
	/** That is only the beginning of what was stored. */
	captionCut?: true;
	/** Stated in a row that is no longer in use. */
	lost?: true;
}

export const NO_FILE: StatedFile = { name: null, type: null, size: null, hash: null, path: null, width: null, height: null, key: null };

/** A receipt, a reaction or the like. */
export interface Attached {
	what: string;
	who: Party | null;
	/** ms UTC. */
	at: number | null;
	standing: Standing;
}

/** A row that holds a text of a message: a text index's, or a history's. */
export interface Copied {
	row: Row;
	reading: MessageReading;
	text: string;
	textCut: boolean;
	/** The message it names, by the column (null: the record number) and its value. */
	messageKey: SheetColumn | null;
	/** Null where a text that stands aside has lost its key. */
	key: string | null;
	kind: CopyReading['kind'];
	/** ms UTC. */
	at: number | null;
	/** What its row says besides, where it repeats a message with its time. */
	understood?: Understood;
}

/** A digest stored as bytes. */
const hexText = (value: Value | undefined): string | null =>
	value !== null && typeof value === 'object' && [16, 20, 32].includes(value.length)
		? Array.from(value, (b) => b.toString(16).padStart(2, '0')).join('')
		: null;

/** A file as an export names it; with the folder where its mail's files lie. */
function exportedFile(stated: string): StatedFile {
	const name = baseOf(stated);
	return { ...NO_FILE, name: name || null, path: name === stated ? null : stated };
}

/** Files in the letter whose body a message's text is. Of a letter that breaks off the last one is not whole. */
function enclosedFiles({ text: { value: text } }: MessageReading, row: Row): StatedFile[] {
	if (!text.stored || !areLetters(text.stored)) return [];
	const found = enclosedIn(unpacked(text.stored, row.values[text.column]));
	return found.map(({ name, type, bytes }, i) => ({
		...NO_FILE,
		name,
		type,
		...(row.cut === text.column && i === found.length - 1 ? {} : { size: bytesIn(bytes), inside: bytes })
	}));
}

const withMessage = (file: StatedFile, key: string | null): StatedFile =>
	key !== null && /^\d{1,15}$/.test(key) ? { ...file, message: Number(key) } : file;

/** Whether a row that can state a file does: the type of its own text is none. */
const statesFile = ({ path, name, hash, type, size, inside }: StatedFile): boolean =>
	inside !== undefined || path !== null || name !== null || hash !== null || (type !== null && (size !== null || !/^text\//i.test(type)));

/** How a message's parts are laid out (SMIL 3.0, registered in RFC 4536), or that it has some (RFC 2046, section 5.1), is no file that somebody sent. */
const isLayout = ({ type }: StatedFile): boolean =>
	type !== null && /^application\/smil(\+xml)?$|^multipart\/|^application\/[\w.-]*\bmultipart\b/i.test(type);

const isBeginning = (path: string | null, of: string | null): boolean => path !== null && of !== null && path !== of && of.startsWith(path);

/** Whether a file is what is left of a lost row that states another one: the beginning of its name or its path. */
function isPartOf(file: StatedFile, other: StatedFile): boolean {
	if (file.lost && isBeginning(file.path, other.path) && (['type', 'size', 'hash'] as const).every((field) => file[field] === null))
		return true;
	if (file.type !== other.type || file.name === null) return false;
	if (file.path !== null && other.path !== null && file.path !== other.path && other.path.startsWith(file.path) && file.size === other.size)
		return file.hash === null || file.hash === other.hash;
	const nothingMore = file.size === null && file.hash === null && (file.path === null || file.path === file.name);
	return nothingMore && (other.size !== null || other.hash !== null) && (other.name ?? '').startsWith(file.name);
}

/** Whether one of two says where a file is or how it is called, and the other what it is like; neither repeats the other. */
function completes(a: StatedFile, b: StatedFile): boolean {
	const isPlaced = (file: StatedFile): boolean => file.path !== null || file.name !== null;
	return isPlaced(a) !== isPlaced(b) && Object.keys(setIn(a)).every((field) => !(field in setIn(b)));
}
const setIn = (file: StatedFile): Partial<StatedFile> => Object.fromEntries(Object.entries(file).filter(([, value]) => value !== null));

/** One file stated twice: once in use, and once in what is left of an older row. */
const isSame = (a: StatedFile, b: StatedFile): boolean =>
	(a.path !== null || a.hash !== null) && a.path === b.path && a.hash === b.hash && a.name === b.name && a.size === b.size;

const YEAR = 366 * 86_400_000;
/** A key, or the end of one. */
const KEY = /^(?=.*\d)(?=.*[A-F])[\dA-F-]{8,}$|^(?=.*\d)(?=.*[a-f])[\da-f-]{8,}$/;

/** Whether what was read out of lost bytes can be a text somebody wrote, as far as its looks say, and its time, within `span` where it must have one. */
const isCredible = (text: string, at: number | null, span: { from: number; to: number } | null): boolean =>
	(span === null || (at !== null && at >= span.from && at <= span.to)) &&
	text.trim() !== '' &&
	!KEY.test(text) &&
	!RARE_LETTER.test(text) &&
	!MARK_ALONE.test(text);

/** Two bytes that are no text are a letter of UTF-16 all the same; one alone is seldom meant, but for signs and the commonest scripts. */
const RARE_LETTER = /^[^\x21-\x7e\p{Extended_Pictographic}\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Hangul}]$/u;

/** A single sign that nobody sends alone, or one letter between tabs. */
const MARK_ALONE = /^[^\p{L}\p{N}\p{Extended_Pictographic}?!.+]$|^\s.?\s?$/u;

/** Belongings of one message, at most. */
const MOST = 200;

export class Belongings {
	private readonly files = new Map<
		MessageReading,
		{ key: SheetColumn | null; byKey: Map<string, StatedFile[]>; from: SheetColumn | null }[]
	>();
	private readonly own = new Map<MessageReading, AttachmentReading['columns'] | null>();
	private readonly lists = new Map<MessageReading, ListedFiles[]>();
	/** By what the message is named by, when it was put into the bin: ms UTC, or null where nothing says. */
	private readonly bins = new Map<MessageReading, { key: SheetColumn | null; since: Map<string, number | null> }[]>();
	private readonly attached = new Map<MessageReading, { key: SheetColumn | null; byKey: Map<string, Attached[]> }[]>();

	constructor(
		private readonly reading: StoreReading,
		private readonly people: PeopleBook,
		private readonly tables: readonly Table[]
	) {
		for (const m of reading.messages) {
			this.own.set(m, filesOfMessages(m, tables));
			this.lists.set(m, m.files ? [] : listedFiles(m.sheet, tables));
		}
		for (const a of reading.attachments) this.addFiles(a);
		this.addAttached();
		for (const m of reading.messages) this.addReactions(m);
		for (const b of reading.bins) this.addBin(b);
	}

	/** `number`: the row's record number, where it was inferred. */
	filesOf(m: MessageReading, row: Row, number: number | null = null): StatedFile[] {
		const out: StatedFile[] = [];
		const own = this.own.get(m);
		if (m.files?.name) {
			const stated = cell(row, m.files.name, this.tables);
			// An empty name: the export says that there was a file, and left it out.
			if (typeof stated === 'string') for (const name of stated.split('\n')) out.push(exportedFile(name));
		} else if (own) {
			const file = this.fileOf(row, own);
			if (statesFile(file) && !isLayout(file)) out.push(withMessage(file, String(row.rowid ?? number)));
		}
		out.push(...enclosedFiles(m, row));
		for (const list of this.lists.get(m) ?? [])
			for (const entry of entriesIn(row, list, this.tables)) {
				const file = this.fileOf(entry, list.columns);
				if (statesFile(file)) out.push(file);
			}
		for (const { key, byKey, from } of this.files.get(m) ?? []) {
			const value = from ? messageKeyOf(row, from, this.tables) : this.keyOfMessage(row, key, number);
			if (value !== null) out.push(...(byKey.get(value) ?? []));
		}
		const [first, second] = out;
		if (out.length === 2 && completes(first!, second!)) return [{ ...first!, ...setIn(second!) }];
		return out.length < 2
			? out
			: out.filter((file, i) => !out.some((other, k) => (other !== file && isPartOf(file, other)) || (k < i && isSame(file, other))));
	}

	attachedTo(m: MessageReading, row: Row, number: number | null = null): Attached[] {
		const key = (m.sender ?? m.participant ?? m.peer)?.key ?? null;
		const party = (text: string): Party | null => (key ? this.people.byKey(key, text) : null) ?? this.people.byAddressText(text);
		return [
			...(this.attached.get(m) ?? []).flatMap(({ key, byKey }) => byKey.get(this.keyOfMessage(row, key, number) ?? '') ?? []),
			...m.listedReactions.flatMap((list) => reactionsIn(row, list, party, this.tables))
		];
	}

	/** Whether a sheet that lists what is in the bin names a message; `sentAt` in ms UTC: later than that its number was another's. */
	isBinned(m: MessageReading, row: Row, number: number | null, sentAt: number | null): boolean {
		return (this.bins.get(m) ?? []).some(({ key, since }) => {
			const at = since.get(this.keyOfMessage(row, key, number) ?? '');
			return at !== undefined && (at === null || sentAt === null || at >= sentAt);
		});
	}

	/** Rows of the messages' own sheet that are reactions to others of it. */
	private addReactions(m: MessageReading): void {
		if (!m.reactions) return;
		const { to } = m.reactions;
		const byKey = new Map<string, Attached[]>();
		const writer = m.sender ?? m.participant ?? m.peer;
		for (const row of m.sheet.rows) {
			if (!isReaction(row, m, this.tables)) continue;
			const what = cell(row, m.text.value, this.tables);
			if (typeof what !== 'string' || what === '') continue;
			const who = writer ? keyOf(cell(row, writer.value, this.tables)) : null;
			put(byKey, messageKeyOf(row, to, this.tables), {
				what,
				who: who === null ? null : writer!.key ? this.people.byKey(writer!.key, who) : this.people.byAddressText(String(who)),
				at: m.time ? timeOf(cell(row, m.time.value, this.tables), m.time.reading) : null,
				standing: row.standing
			});
		}
		const list = this.attached.get(m) ?? [];
		// They name a message by its number, or by its key.
		list.push({ key: to.profile.texts > 0 ? m.guid : null, byKey });
		this.attached.set(m, list);
	}

	private addBin({ sheet, of, key, messageKey, time }: BinReading): void {
		const since = new Map<string, number | null>();
		for (const row of sheet.rows) {
			const name = row.standing === 'kept' ? messageKeyOf(row, key, this.tables) : null;
			if (name !== null) since.set(name, time ? timeOf(cell(row, time.value, this.tables), time.reading) : null);
		}
		const list = this.bins.get(of) ?? [];
		list.push({ key: messageKey, since });
		this.bins.set(of, list);
	}

	/** The wordings that a message's own row lists. */
	wordingsOf(m: MessageReading, row: Row): Wording[] {
		return m.wordings.flatMap((list) => wordingsIn(row, list, this.tables));
	}

	private keyOfMessage(row: Row, key: SheetColumn | null, number: number | null): string | null {
		return messageKeyOf(row, key, this.tables) ?? (key === null && number !== null ? String(number) : null);
	}

	*copies(): Generator<Copied> {
		for (const c of this.reading.copies) {
			const span = this.spanOf(c);
			const aside = c.kind === 'aside' ? c.of.text.value.aside : undefined;
			for (const row of c.sheet.rows) {
				if (aside && !isTextPart(row, aside, this.tables)) continue;
				if (c.titles?.has(String(row.rowid))) continue;
				const key = c.asMessages && !c.key ? null : messageKeyOf(row, c.key, this.tables);
				const text = cell(row, c.text, this.tables);
				// Of a text index's row that lost its number the text says enough.
				const alone = key === null && c.kind === 'text-index' && row.tableKnown && row.grade !== 'fragment';
				if ((key === null && c.kind !== 'aside' && !alone) || typeof text !== 'string' || text === '') continue;
				const at = c.time ? timeOf(cell(row, c.time.value, this.tables), c.time.reading) : null;
				if (row.standing === 'remnant' && row.grade !== 'whole' && !isCredible(text, at, row.grade === 'rebuilt' ? span : null)) continue;
				yield {
					row,
					reading: c.of,
					text,
					textCut: (row.cut >= 0 && row.cut === c.text.column) || (c.cutAt !== undefined && text.length >= c.cutAt),
					messageKey: c.messageKey,
					key,
					kind: c.kind,
					at
				};
			}
		}
	}

	/** From when to when the rows in use of a sheet of copies are, ms UTC; null where they have no time. */
	private spanOf({ sheet, time }: CopyReading): { from: number; to: number } | null {
		if (!time) return null;
		const times = sheet.sure.flatMap((row) => timeOf(cell(row, time.value, this.tables), time.reading) ?? []).sort((a, b) => a - b);
		return times.length === 0 ? null : { from: times[0]! - YEAR, to: times.at(-1)! + YEAR };
	}

	private addFiles(a: AttachmentReading): void {
		const { link, sheet } = a;
		const byKey = new Map<string, StatedFile[]>();
		const list = this.files.get(a.of) ?? [];
		this.files.set(a.of, list);
		if (link.kind === 'direct') {
			const { aside } = a.of.text.value;
			for (const row of sheet.rows) {
				const message = messageKeyOf(row, link.key, this.tables);
				const file = withMessage(this.belonging(row, a.columns), message);
				// The part that has the message's text is no file of it, nor is one that has lost what it said.
				const isText = aside?.sheet === sheet && (cell(row, aside.text, this.tables) || /^text\//i.test(file.type ?? ''));
				const isFile = !isLayout(file) && !(isText && file.path === null && file.hash === null && file.size === null);
				if (isFile) put(byKey, message, file);
			}
			list.push({ key: link.messageKey, byKey, from: null });
		} else if (link.kind === 'stated') {
			for (const row of sheet.rows) put(byKey, messageKeyOf(row, link.key, this.tables), this.fileOf(row, a.columns));
			list.push({ key: null, byKey, from: link.from });
		} else {
			const files = new Map<string, StatedFile>();
			for (const row of sheet.rows) {
				const k = messageKeyOf(row, link.fileKey, this.tables);
				if (k !== null && !files.has(k)) files.set(k, this.fileOf(row, a.columns));
			}
			// Two numbers are easily read out of lost bytes: of a file that a message in use has they say nothing.
			const owned = new Set<string | number | null>();
			for (const row of [...link.join.rows].sort((a, b) => Number(b.standing === 'kept') - Number(a.standing === 'kept'))) {
				const key = keyOf(cell(row, link.file, this.tables));
				const file = files.get(String(key));
				if (!file || (row.standing !== 'kept' && owned.has(key))) continue;
				if (row.standing === 'kept') owned.add(key);
				put(byKey, messageKeyOf(row, link.message, this.tables), file);
			}
			list.push({ key: link.messageKey, byKey, from: null });
		}
	}

	private belonging(row: Row, columns: AttachmentReading['columns']): StatedFile {
		const file = this.fileOf(row, columns);
		return row.standing === 'kept' ? file : { ...file, lost: true };
	}

	private fileOf(row: Row, columns: AttachmentReading['columns']): StatedFile {
		const get = (c: SheetColumn | null): Value | undefined => (c ? cell(row, c, this.tables) : undefined);
		const text = (c: SheetColumn | null): string | null => {
			const value = get(c);
			return typeof value === 'string' && value !== '' ? value : null;
		};
		const number = (c: SheetColumn | null | undefined): number | null => {
			const value = get(c ?? null);
			const n = typeof value === 'string' && /^\d{1,15}$/.test(value) ? Number(value) : value;
			return typeof n === 'number' && n >= 0 ? n : null;
		};
		const path = text(columns.path);
		const inside = contentBytes(get(columns.content ?? null));
		const caption = text(columns.caption ?? null);
		return {
			...(caption === null ? {} : { caption }),
			...(caption !== null && row.cut >= 0 && row.cut === columns.caption!.column ? { captionCut: true as const } : {}),
			...(inside && (columns.content!.made || row.cut !== columns.content!.column) ? { inside } : {}),
			name: text(columns.name) ?? path?.split(/[\\/]/).at(-1) ?? null,
			type: text(columns.mime),
			size: number(columns.size),
			hash: text(columns.hash) ?? hexText(get(columns.hash)),
			path,
			width: number(columns.width),
			height: number(columns.height),
			key: text(columns.key ?? null),
			...(typeof row.rowid === 'number' ? { row: row.rowid } : {})
		};
	}

	private addAttached(): void {
		for (const a of this.reading.attached) {
			const byKey = new Map<string, Attached[]>();
			for (const row of a.sheet.rows) {
				const what = a.what ? cell(row, a.what, this.tables) : null;
				const who = a.who ? cell(row, a.who.value, this.tables) : null;
				const key = keyOf(who);
				put(byKey, messageKeyOf(row, a.key, this.tables), {
					what: typeof what === 'string' && what !== '' ? what : a.sheet.name,
					who: key === null ? null : a.who!.key ? this.people.byKey(a.who!.key, key) : this.people.byAddressText(String(key)),
					at: a.time ? timeOf(cell(row, a.time.value, this.tables), a.time.reading) : null,
					standing: row.standing
				});
			}
			const list = this.attached.get(a.of) ?? [];
			list.push({ key: a.messageKey, byKey });
			this.attached.set(a.of, list);
		}
	}
}

function put<T>(map: Map<string, T[]>, key: string | null, value: T): void {
	if (key === null) return;
	const list = map.get(key);
	if (!list) map.set(key, [value]);
	else if (list.length < MOST) list.push(value);
}
