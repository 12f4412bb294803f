/** Applies a store's reading to its rows: each row of a message sheet becomes what it says, in the store's own terms. */
import { put } from '../lists';
import type { Direction, Row, Table, Value } from '../model';
import { alwaysThere } from './always-there';
import { addressShare } from './columns';
import { asideOf, partsOf, textAside } from './aside';
import { isWholeInside } from './body';
import { Belongings, type Attached, type Copied, type StatedFile } from './belongings';
import { messageKeyOf } from './message-keys';
import { filesToTheirTexts } from './files-alone';
import { isReaction, NOT_A_MESSAGE } from './kinds';
import type { Wording } from './listed-within';
import { numberWithin } from '../people/number-at';
import { withoutPhrases } from './phrases-instead';
import { normalAddress, PeopleBook, type Party } from './people';
import type { MembersReading, MessageReading, RoomList, StoreReading, ThreadReading } from './reading';
import { addressesIn, EMAIL, FILE_NAME, PHONE } from './profile';
import { previewsOf, type Preview } from './previews';
import { partiesListed } from './listed-parties';
import { isMarkedDeleted } from './deleted-flag';
import { keyOf, keysIn, textsIn } from './refs';
import { cell, isCutIn, type SheetColumn } from './sheet';
import { wayOf } from './way-by-rule';
import { otherItems } from './kinds-of-items';
import { inferNumbers, numbersByPlace } from './numbers';
import { timeOf } from './time';

/** A row understood. */
export interface Understood {
	row: Row;
	reading: MessageReading;
	text: string | null;
	/** The text is only the beginning of what was stored. */
	textCut: boolean;
	/** What is left of it behind bytes that are gone. */
	textRest?: Row['rest'];
	/** Where the text stands in rows of another table: those. */
	textRows?: readonly Row[];
	sentAt: number | null;
	/** Whether the stored time states its zone (numbers count from a fixed epoch and do). */
	zoned: boolean;
	direction: Direction | null;
	/** The other side of a one-to-one thread, or the writer of a received group message. */
	correspondent: Party | null;
	/** Within the store: what its thread is told by. */
	threadKey: string;
	group: boolean;
	threadTitle: string | null;
	members: Party[];
	deletedFlag: boolean;
	guid: string | null;
	files: StatedFile[];
	attached: Attached[];
	/** The message it answers: its record number or key, as stored. */
	answers: string | null;
	/** Wordings it had before, which its row lists. */
	wordings: Wording[];
}

/** A store's rows understood. */
export interface UnderstoodStore {
	messages: Understood[];
	copies: Copied[];
	previews: Preview[];
}

interface ThreadInfo {
	title: string | null;
	peer: Party | null;
	members: Party[];
	senders: Map<string, Party>;
	group: boolean;
	/** Its row in a list that has numbers has none, and a title. */
	unnumbered?: boolean;
	/** In a group known by a remote address: that address, which is nobody's. */
	remote?: string;
}

/** A text as people saw it: some programs store the nought with which their texts end. */
const shown = (text: string | null): string | null => text?.replace(/\0+$/, '') || null;

/** The sign that stands for what is set into a text (Unicode, 23.8): a file that was sent. */
const OBJECT = '\ufffc';
/** Share of the messages with files in whose texts it must stand. */
const MARKED = 0.5;

/** All messages of a store, in the order of its rows. Rows of which neither text nor time is left are passed over. */
export function understand(reading: StoreReading, tables: readonly Table[]): UnderstoodStore {
	const people = new PeopleBook(reading, tables);
	const belongings = new Belongings(reading, people, tables);
	const sheets = new Map(reading.messages.map((m) => [m, new MessageSheet(m, reading, people, belongings, tables)]));
	for (const sheet of sheets.values()) sheet.read();
	shareGroups([...sheets.values()]);
	const understood = [...sheets].map(([m, sheet]) => ({ m, messages: sheet.settled(), others: sheet.others }));
	const repeated = new Map(
		reading.copies.flatMap(({ asMessages }) =>
			asMessages
				? new MessageSheet(asMessages, reading, people, belongings, tables)
						.read()
						.settled()
						.map((u) => [u.row, u] as const)
				: []
		)
	);
	const copies = [...belongings.copies()].map((copy) => ({
		...copy,
		...(repeated.has(copy.row) ? { understood: repeated.get(copy.row)! } : {})
	}));
	return {
		messages: filesToTheirTexts(
			understood.flatMap(({ messages }) => messages),
			tables
		),
		copies: copies.filter((copy) => !sheets.get(copy.reading)!.isOfOtherKind(copy)),
		previews: understood.flatMap(({ m, messages, others }) => previewsOf(m, messages, others, tables))
	};
}

/** A conversation that is a group's in one table of messages is so in the others that name it: the owner's own name nobody there. */
function shareGroups(sheets: readonly MessageSheet[]): void {
	const known = new Map<string, ThreadInfo>();
	for (const sheet of sheets) for (const [key, info] of sheet.groups()) if (info.group) known.set(key, known.get(key) ?? info);
	for (const sheet of sheets)
		for (const [key, info] of sheet.groups()) {
			const group = known.get(key);
			if (!group || info.group) continue;
			info.group = true;
			info.title ??= group.title;
			if (info.members.length === 0) info.members = group.members.length > 0 ? group.members : [...group.senders.values()];
		}
}

/** How a list calls those on it: texts (JSON), or numbers and addresses one after the other. */
function calledIn(value: Value | undefined): string[] {
	const texts = textsIn(value);
	if (texts.length > 0) return texts;
	const parts = keysIn(value);
	return parts.every((part) => PHONE.test(part) || EMAIL.test(part)) ? parts : [];
}

/** Messages without text, among those looked at, from which such are usual in a store. */
const SILENT_LEAST = 2;
const SILENT_SAMPLED = 2000;

/** Entries of an export that lack the text altogether are of another kind. */
const isExported = (row: Row): boolean => row.sightings[0]?.method === 'exported';

/**
 * What the one file sent with a text is called, where the text is that name, or where the file was fetched from: programs
 * put it there for those that show no files. Null where it is what somebody wrote.
 */
function nameOfFile(text: string, files: readonly StatedFile[]): string | null {
	const [file, ...more] = files;
	if (!file || more.length > 0) return null;
	const called = FETCHED.test(text) ? unescaped(text.split(/[|?#]/)[0]!.split('/').at(-1)!) : text;
	if (!FILE_NAME.test(called)) return null;
	const bare = called.replace(/\.[^.]*$/, '');
	const names = [file.name, file.path].flatMap((name) => name?.split(/[\\/]/).at(-1) ?? []);
	// A key where it was fetched from is no name.
	const isNameless = !names.some((name) => FILE_NAME.test(name));
	return isNameless || names.some((name) => name === called || name === bare) ? called : null;
}
/** RFC 3986, section 2.1. */
function unescaped(part: string): string {
	try {
		return decodeURIComponent(part);
	} catch {
		return part;
	}
}

const FETCHED = /^[a-z]{2,12}:\/\/\S+$/i;

class MessageSheet {
	private readonly threads = new Map<string, ThreadInfo>();
	private readonly joined: Map<string, string> | null;
	private readonly prefix: string;
	private readonly owners = new Set<string>();
	private numbers = new Map<Row, number>();
	private silent: boolean | null = null;
	private readonly messages: Understood[] = [];
	/** Rows that are no messages by their kind. */
	readonly others: Row[] = [];
	/** Their texts, by what copies name them by. */
	private readonly otherTexts = new Map<SheetColumn | null, Map<string, Value | undefined>>();
	/** Whether nothing names conversations, and the owner and one other write: what they wrote is one. */
	private readonly isOfTwo: boolean;

	constructor(
		private readonly m: MessageReading,
		private readonly reading: StoreReading,
		private readonly people: PeopleBook,
		private readonly belongings: Belongings,
		private readonly tables: readonly Table[]
	) {
		this.joined = m.threadJoin ? this.readJoin() : null;
		this.prefix = m.sheet.family
			? commonPrefix(m.sheet.tables.map((t) => tables[t]!.name))
			: m.sheet.tables.map((t) => /^.*?(?=[+\d]|[0-9a-f]{16})/i.exec(tables[t]!.name)?.[0] ?? '')[0]!;
		const rule = m.direction.value;
		if (rule.kind === 'sender') for (const o of rule.owner) this.owners.add(String(o));
		this.isOfTwo =
			rule.kind === 'sender' &&
			m.sender !== null &&
			rule.column === m.sender.value &&
			![m.peer, m.recipient, m.thread, m.threadJoin, m.participant, m.group].some((party) => party !== null) &&
			!m.sheet.family &&
			m.sender.value.profile.distinct.size === 2;
	}

	/** Entries of an export that are of another kind. */
	private items: ReadonlySet<Row> = new Set();

	/** Reads all rows; what they are in their conversations is told by `settled`. */
	read(): this {
		this.numbers = inferNumbers(this.m.sheet, this.m.time, this.tables);
		const { sheet, text } = this.m;
		if (sheet.tables.length === 1 && text.value.path.length === 0 && !text.value.made)
			this.items = otherItems(sheet.rows, text.value.column, this.tables[sheet.tables[0]!]!);
		if (this.m.text.value.aside && !this.m.text.value.aside.own)
			for (const [row, n] of numbersByPlace(this.m.sheet.rows, this.numbers)) this.numbers.set(row, n);
		for (const row of this.m.sheet.rows) {
			const one = this.one(row);
			if (one) this.messages.push(one);
		}
		for (const info of this.threads.values()) if (info.remote !== undefined) info.senders.delete(info.remote);
		for (const info of this.threads.values()) info.group ||= info.members.length > 1 || info.senders.size > 1 || this.m.isGroup === true;
		this.titledGroups();
		this.namedByThemselves();
		if (this.m.participant) this.silentRooms();
		return this;
	}

	settled(): Understood[] {
		for (const u of this.messages) this.settle(u);
		withoutPhrases(this.messages, this.m.sheet, this.tables);
		return this.messages;
	}

	/** Its groups, by the list of conversations that names them and their key there. */
	*groups(): Generator<[string, ThreadInfo]> {
		const list = (this.m.thread?.key ?? this.m.threadJoin?.threadKey)?.sheet;
		if (list) for (const [key, info] of this.threads) if (key.startsWith('t:')) yield [`${list.index} ${key}`, info];
	}

	/** Whether a copy is that of a row which is no message. Asked for after all rows were. */
	isOfOtherKind({ messageKey, key, text }: Copied): boolean {
		let texts = this.otherTexts.get(messageKey);
		if (!texts) {
			texts = new Map(this.others.map((row) => [messageKeyOf(row, messageKey, this.tables) ?? '', this.get(row, this.m.text.value)]));
			this.otherTexts.set(messageKey, texts);
		}
		return key !== null && texts.get(key) === text;
	}

	private get(row: Row, column: SheetColumn): ReturnType<typeof cell> {
		return cell(row, column, this.tables);
	}

	/** Sender and recipients but the owner, where the recipients are a list and those are several. */
	private severalParties(row: Row, sender: Party | null): Party[] | null {
		const { recipient } = this.m;
		const stored = recipient ? this.get(row, recipient.value) : null;
		// A key of somebody is no list; several addresses can stand in the place of one, where the conversation is told besides.
		const isOne = recipient?.key && (!this.m.thread || recipient.key.values.has(keyOf(stored) ?? ''));
		const value = isOne ? null : stored;
		const list = typeof value === 'string' ? addressesIn(value) : [];
		if (list.length < 2) return null;
		const all = [...(sender?.address ? [sender.address] : []), ...list].filter((a) => !this.owners.has(a));
		const distinct = [...new Map(all.map((a) => [normalAddress(a), a])).values()];
		return distinct.length > 1 ? distinct.map((a) => this.people.byAddressText(a)) : null;
	}

	/** The text of a message that stands in another table, with its rows there. */
	private aside(row: Row): { text: Value | undefined; rows: readonly Row[] } | null {
		const { aside } = this.m.text.value;
		if (!aside) return null;
		const rows = asideOf(row, aside, this.numbers.get(row) ?? null, this.tables);
		// Its other rows stay copies of their own: what they say must not be lost.
		return { text: textAside(rows, aside, this.tables), rows: partsOf(rows) };
	}

	private one(row: Row): Understood | null {
		const { m } = this;
		const number = this.numbers.get(row) ?? null;
		const files = this.belongings.filesOf(m, row, number);
		if (this.isOtherKind(row, files.length > 0) || this.items.has(row) || isReaction(row, m, this.tables)) {
			this.others.push(row);
			return null;
		}
		const aside = this.aside(row);
		const kept = aside ? aside.text : this.get(row, m.text.value);
		// A column of numbers as well keeps what was written in digits as a number (SQLite, "Datatypes", 3.1: STRING is NUMERIC).
		const stored = typeof kept === 'number' || typeof kept === 'bigint' ? String(kept) : kept;
		const called = typeof stored === 'string' ? nameOfFile(stored, files) : null;
		if (called !== null) files[0] = { ...files[0]!, name: called };
		const own = typeof stored === 'string' && stored !== '' && called === null ? stored : null;
		const written = own?.includes(OBJECT) && this.marksFiles() ? own.replaceAll(OBJECT, '') : own;
		const captioned = written === null ? files.find((file) => file.caption !== undefined) : undefined;
		const text = written ?? captioned?.caption ?? (stored === '' ? '' : null);
		// Of a time that is cut the rest is not known, and it is none.
		const sentAt = m.time && !isCutIn(row, m.time.value) ? timeOf(this.get(row, m.time.value), m.time.reading) : null;
		const lost = row.standing !== 'kept';
		const silent = text === null || text === '';
		if (lost && silent && (stored === undefined || (row.grade !== 'whole' && !(sentAt !== null && this.isSilent(row, files.length > 0)))))
			return null;
		if (text === null && files.length === 0 && (sentAt === null || (stored === undefined && m.otherKinds && isExported(row)))) return null;
		const direction = this.direction(row);
		const sender = this.party(row, m.sender);
		const room = this.roomOf(row);
		const others = this.severalParties(row, sender);
		const recipient = (room === null || m.group) && (!others || !m.recipient?.key) ? this.party(row, m.recipient) : null;
		const peer = this.party(row, m.peer);
		const isOwn = m.participant && m.ownParticipant !== null && keyOf(this.get(row, m.participant.value)) === m.ownParticipant;
		const participant = isOwn ? null : this.party(row, m.participant);
		const isListed = others !== null && !(m.thread && (m.recipient?.key || m.thread.key));
		const threadKey = isListed
			? `r:${others
					.map((p) => normalAddress(p.address ?? ''))
					.sort()
					.join(' ')}`
			: room !== null
				? `r:${room}`
				: this.threadKey(row, sender, recipient, peer, direction);
		const info = this.thread(threadKey, row);
		if (others) info.members = others;
		if (others || room !== null) info.group = true;
		if (room !== null) info.title = String(room);
		if (m.thread && direction === 'in' && this.isToNobody(row, recipient)) info.group = true;
		// A lost row can lie on a page of another conversation's table: one that is of two stays so.
		const other = m.recipient ? (direction === 'out' ? recipient : sender) : direction === 'out' ? null : (sender ?? peer);
		if (participant && !(lost && info.peer && !info.group && !peer)) this.takeParticipant(info, participant, peer ?? other);
		const writer = m.recipient ? other : (sender ?? peer);
		const fromOwner = direction === 'out' && m.sender !== null && !m.recipient;
		if (writer && !participant && !fromOwner && !(direction === 'out' && this.isOwnerParty(writer))) {
			const key = normalAddress(writer.address ?? writer.name ?? '');
			// A lost row may be misread: against what the store states of a conversation it makes it no group.
			const stated = lost && (info.peer !== null || info.members.length === 1);
			if (!stated && (direction === 'in' || m.peer !== null || m.recipient !== null || direction === null)) {
				if (info.peer && isWrittenShorter(info.peer, writer)) {
					info.senders.delete(normalAddress(info.peer.address!));
					info.peer = writer;
				}
				info.senders.set(key, writer);
			}
		}
		const flagged = isMarkedDeleted(m, row, this.tables);
		const guid = m.guid ? this.get(row, m.guid) : null;
		if (files.length === 1 && files[0]!.key === null && typeof guid === 'string') files[0] = { ...files[0]!, key: guid };
		return {
			row,
			reading: m,
			text: shown(text),
			textCut: captioned?.captionCut ?? (aside ? aside.rows.some((r) => r.cut >= 0) : this.isTextCut(row)),
			textRest: aside || m.text.value.body || row.cut !== m.text.value.column ? undefined : row.rest,
			textRows: aside?.rows ?? [],
			sentAt,
			zoned: m.time?.reading.zoned ?? true,
			direction,
			correspondent: direction === 'out' && m.sender && !m.recipient ? peer : (participant ?? other ?? peer),
			threadKey,
			group: false,
			threadTitle: info.title,
			members: info.members,
			deletedFlag: flagged || this.belongings.isBinned(m, row, number, sentAt),
			guid: typeof guid === 'string' ? guid : null,
			files,
			attached: this.belongings.attachedTo(m, row, number),
			answers: m.replyTo ? messageKeyOf(row, m.replyTo.column, this.tables) : null,
			wordings: this.belongings.wordingsOf(m, row)
		};
	}

	private marks: boolean | null = null;

	/** Whether texts have a sign in the place of each file that was sent with them. */
	private marksFiles(): boolean {
		if (this.marks !== null) return this.marks;
		const texts = this.m.sheet.sure.slice(0, SILENT_SAMPLED).flatMap((row) => {
			const text = this.get(row, this.m.text.value);
			return typeof text === 'string' && this.belongings.filesOf(this.m, row, this.numbers.get(row) ?? null).length > 0 ? [text] : [];
		});
		return (this.marks = texts.length > 0 && texts.filter((text) => text.includes(OBJECT)).length >= texts.length * MARKED);
	}

	/**
	 * Whether a row that was rebuilt, with nothing written in it, is a message: it states a file itself, or names a
	 * conversation and a person as others do, in a store that has messages of nothing but files.
	 */
	private isSilent(row: Row, statesFiles: boolean): boolean {
		if (row.grade !== 'rebuilt') return false;
		if (statesFiles) return true;
		const { m } = this;
		const columns = [m.sender, m.recipient, m.peer, m.thread].filter((c) => c !== null && c.value.column >= 0).map((c) => c!.value);
		const isKnown = (c: SheetColumn): boolean => {
			const key = keyOf(this.get(row, c));
			return key === null ? c.profile.nulls > 0 : c.profile.many || c.profile.distinct.has(key);
		};
		return columns.length > 0 && columns.every(isKnown) && this.hasSilent();
	}

	/** Whether messages in use without text, but with a file, are usual here. */
	private hasSilent(): boolean {
		if (this.silent === null) {
			const kept = this.m.sheet.sure.slice(0, SILENT_SAMPLED).filter((row) => {
				const text = this.get(row, this.m.text.value);
				return (text === null || text === '') && this.belongings.filesOf(this.m, row).length > 0;
			});
			this.silent = kept.length >= SILENT_LEAST;
		}
		return this.silent;
	}
	private isTextCut(row: Row): boolean {
		const text = this.m.text.value;
		return isCutIn(row, text) && !(text.body && isWholeInside(row.values[text.column], text.body));
	}

	/** Whether a row is no message by its kind. One without writing that states a file is a message, unless its kind has a name that says otherwise. */
	private isOtherKind(row: Row, hasFiles: boolean): boolean {
		const kinds = this.m.otherKinds?.value;
		const kind = kinds ? keyOf(this.get(row, kinds.column)) : null;
		if (kind === null || !kinds!.values.includes(kind)) return false;
		return !hasFiles || NOT_A_MESSAGE.test(String(kind));
	}

	/** A writer who is not the remote address itself makes it a group's. */
	/** Whether what came names as whom it was written to one who is not the owner, and has neither a number nor a name: a room. */
	private isToNobody(row: Row, recipient: Party | null): boolean {
		const rule = this.m.direction.value;
		if (!this.m.recipient?.key || rule.kind !== 'sender' || recipient?.address || recipient?.name) return false;
		const to = keyOf(this.get(row, this.m.recipient.value));
		return to !== null && this.m.recipient.key.values.has(to) && !rule.owner.includes(to);
	}

	private takeParticipant(info: ThreadInfo, participant: Party, peer: Party | null): void {
		const writer = normalAddress(participant.address ?? participant.name ?? '');
		const remote = normalAddress(peer?.address ?? peer?.name ?? '');
		if (peer && isWrittenShorter(peer, participant)) {
			info.peer = participant;
			return;
		}
		info.senders.set(writer, participant);
		if (writer === remote) return;
		info.group = true;
		info.title ??= peer?.name ?? peer?.address ?? null;
		info.remote = remote;
	}

	/** After all rows were seen: whether the thread is a group's, and who the other side is. */
	private settle(u: Understood): void {
		const info = this.threads.get(u.threadKey)!;
		u.group = info.group;
		const single =
			info.peer ?? (info.members.length === 1 ? info.members[0]! : info.senders.size === 1 ? [...info.senders.values()][0]! : null);
		u.members = info.members.length > 0 ? info.members : [...info.senders.values()];
		u.threadTitle = info.title;
		if (u.group) {
			if (u.direction === 'out' || (this.m.participant && !this.party(u.row, this.m.participant))) u.correspondent = null;
		} else {
			if (!u.correspondent || (u.direction === 'out' && (this.m.sender ?? this.m.participant) && single))
				u.correspondent = single ?? u.correspondent;
			if (u.members.length === 0 && u.correspondent) u.members = [u.correspondent];
		}
	}

	/** A thread with a title of its own, where those of two carry none or the person's name, is a group's. */
	private titledGroups(): void {
		// Where a list has the number of whom each conversation is with, one that has a title alone is a room.
		for (const info of this.threads.values())
			if (info.unnumbered && ![...info.senders.values()].some(({ name }) => name === info.title)) info.group = true;
		const partners = new Map<string, ThreadInfo[]>();
		for (const info of this.threads.values()) {
			if (info.group || info.senders.size !== 1) continue;
			const [key] = [...info.senders.keys()];
			const list = partners.get(key!);
			if (list) list.push(info);
			else partners.set(key!, [info]);
		}
		for (const list of partners.values()) {
			if (list.length < 2) continue;
			for (const info of list) {
				const party = [...info.senders.values()][0]!;
				const own = info.title && info.title !== party.name && normalAddress(info.title) !== normalAddress(party.address ?? '');
				if (own && !info.peer && info.members.length !== 1) info.group = true;
			}
		}
	}

	/**
	 * A conversation of which nothing says whom it is with, and that is called by an address, is with that one; unless others
	 * of its service are rooms.
	 */
	private namedByThemselves(): void {
		const { sizesTold } = this.m;
		const sizes = new Map<string, number>();
		for (const row of sizesTold?.sheet.rows ?? []) {
			const room = row.standing === 'kept' ? String(this.get(row, sizesTold!.room)) : null;
			if (room !== null) sizes.set(room, (sizes.get(room) ?? 0) + 1);
		}
		const named = [...this.threads].flatMap(([key, info]) => {
			const address = key.startsWith('t:') ? key.slice(2) : '';
			return EMAIL.test(address) || /^\+\d{7,15}$/.test(address) ? [{ address, info, service: address.split('@')[1] ?? null }] : [];
		});
		for (const { address, info } of named) info.group ||= (sizes.get(address) ?? 0) > 1;
		const ofRooms = new Set(named.filter(({ info }) => info.group).map(({ service }) => service));
		for (const { address, info, service } of named)
			if (!info.group && !info.peer && info.members.length === 0 && info.senders.size === 0 && !ofRooms.has(service))
				info.peer = this.people.byAddressText(address);
	}

	/** Where rooms stand beside numbers or addresses, one in which only the owner wrote is known by being none. */
	private silentRooms(): void {
		const isAddress = (key: string): boolean => PHONE.test(key) || EMAIL.test(key);
		const single = [...this.threads.values()].filter((info) => !info.group && info.senders.size === 1);
		const rooms = single.filter((info) => ![...info.senders.keys()].every(isAddress));
		if (rooms.length >= single.length * 0.5) return;
		for (const info of rooms) {
			const [room] = info.senders.values();
			info.group = true;
			info.title ??= room!.name ?? room!.address;
			info.senders.clear();
		}
	}

	private isOwnerParty(party: Party): boolean {
		return party.address !== null && this.owners.has(party.address);
	}

	private party(row: Row, role: MessageReading['peer']): Party | null {
		if (!role) return null;
		const value = this.get(row, role.value);
		const key = keyOf(value);
		if (key === null || key === 0) return null;
		if (role.key) {
			const rule = this.m.direction.value;
			const real = rule.kind === 'sign' && rule.column === role.value && typeof key === 'number' ? Math.abs(key) : key;
			const party = this.people.byKey(role.key, real);
			if (party) return party;
			const row2 = this.people.rowByKey(role.key, real);
			return row2 ? null : { address: typeof key === 'string' && key.length > 3 ? key : null, name: null };
		}
		if (typeof value !== 'string' && typeof value !== 'number' && typeof value !== 'bigint') return null;
		const party = role.value.made?.inRooms ? this.people.byNickname(String(value)) : this.people.byAddressText(String(value));
		const name = this.m.peerName && this.isOtherSide(row, role) ? this.get(row, this.m.peerName) : null;
		// In a column that has the writer as well the other side's name is its address.
		return typeof name === 'string' && name !== '' && name !== party.address && party.name === null ? { ...party, name } : party;
	}

	/** Whether whom a column names is the other side of a row: of two columns the one that does not have the owner. */
	private isOtherSide(row: Row, role: NonNullable<MessageReading['peer']>): boolean {
		const { peer, sender, recipient } = this.m;
		if (!recipient || peer) return role === (peer ?? sender);
		return role === (this.direction(row) === 'out' ? recipient : sender);
	}

	private direction(row: Row): Direction | null {
		const { direction, directionElse } = this.m;
		const get = (column: SheetColumn): Value | undefined => this.get(row, column);
		return wayOf(direction.value, row, get) ?? (directionElse ? wayOf(directionElse, row, get) : null);
	}

	/** The room that a message is of, where a column says so or it is what the message was written to. */
	private roomOf(row: Row): string | number | null {
		const { m } = this;
		if (m.group) return keyOf(this.get(row, m.group));
		const to = m.rooms && m.recipient ? keyOf(this.get(row, m.recipient.value)) : null;
		return to !== null && m.rooms!.has(to) ? to : null;
	}

	private threadKey(row: Row, sender: Party | null, recipient: Party | null, peer: Party | null, direction: Direction | null): string {
		const { m } = this;
		if (this.joined) {
			const column = m.threadJoin!.messageKey.column;
			const own = (column ? keyOf(this.get(row, column)) : keyOf(row.rowid)) ?? this.numbers.get(row) ?? null;
			const thread = own === null ? undefined : this.joined.get(String(own));
			if (thread !== undefined) return `t:${thread}`;
		}
		if (m.thread) {
			if (m.thread.value.column < 0 && !row.tableKnown) return 't:?';
			if (m.thread.value.column < 0 && !m.thread.key) return `t:${this.tables[row.table]!.name}`;
			const value = keyOf(this.get(row, m.thread.value));
			if (value !== null) return `t:${value}`;
		}
		if (this.isOfTwo) return 'p:two';
		// Who wrote says nothing of the conversation of the owner's own messages, which their lost row of a join said.
		const ownWriter = direction === 'out' && !m.recipient && (this.joined !== null || m.thread !== null);
		const other = m.recipient ? (direction === 'out' ? recipient : sender) : (peer ?? (ownWriter ? null : sender));
		const rule = m.direction.value;
		if (rule.kind === 'sign') return `k:${Math.abs(Number(this.get(row, rule.column) ?? 0))}`;
		const known = other && normalAddress(other.address ?? other.name ?? '');
		if (known) return `p:${known}`;
		const raw = m.peer ? keyOf(this.get(row, m.peer.value)) : null;
		return raw === null || (ownWriter && raw === 0) ? 'p:?' : `k:${raw}`;
	}

	private thread(key: string, row: Row): ThreadInfo {
		let info = this.threads.get(key);
		if (info) return info;
		info = { title: null, peer: null, members: [], senders: new Map(), group: false };
		this.threads.set(key, info);
		const { m } = this;
		const value = key.startsWith('t:') ? key.slice(2) : null;
		if (value === null || value === '?' || key.startsWith('r:')) return info;
		if (m.threadTitled) info.title = value;
		if (m.takingPart) {
			info.members = m.takingPart.filter((one) => !this.owners.has(one)).map((one) => this.people.byAddressText(one));
			if (m.takingPart.length <= 2 && info.members.length === 1) info.peer = info.members[0]!;
		}
		if (m.threadLists) {
			const isOwner = (one: string): boolean => this.owners.has(one) || one === m.threadLists!.owner;
			info.members = partiesListed(value)
				.filter((one) => !isOwner(one))
				.map((one) => this.people.byAddressText(one));
			if (info.members.length === 1) info.peer = info.members[0]!;
			return info;
		}
		if (m.thread && m.thread.value.column < 0 && !m.thread.key) {
			info.peer = this.peerByTable(row);
			if (info.peer) info.senders.set(normalAddress(info.peer.address ?? info.peer.name ?? ''), info.peer);
			else info.title = this.tables[row.table]!.name;
			return info;
		}
		const threadKey = m.thread?.key ?? m.threadJoin?.threadKey ?? null;
		if (threadKey) this.fromThreadSheet(info, threadKey, value);
		if (m.thread?.value.made?.ofTable && !info.peer && !info.unnumbered) info.peer = this.peerByTable(row);
		const members = this.reading.members.find((x) => (x.of ? x.of === m : x.threadKey.sheet === threadKey?.sheet));
		if (members && info.members.length === 0)
			info.members = this.membersOf(members, value)
				.filter((p) => !this.owners.has(String(p.key)))
				.map((p) => p.party);
		// What the conversation's list has of itself, a number of its own say, says less than one who is told to take part.
		const isItself = info.peer !== null && !m.threadPeer && (members?.of === m || info.peer.name === null);
		if (members && info.members.length === 1 && (!info.peer || (isItself && info.members[0]!.name !== null))) info.peer = info.members[0]!;
		if (members && info.members.length === 2) info.peer ??= info.members.find((one) => isCalledBy(value, one)) ?? null;
		// Of two, one of whom is the one that the conversation is said to be with, the other is the owner.
		if (members && info.peer && info.members.length === 2 && info.members.some((one) => isSameParty(one, info.peer!)))
			info.members = [info.peer];
		return info;
	}

	/** Whom the table that a row stands in is called by. */
	private peerByTable(row: Row): Party | null {
		const { name } = this.tables[row.table]!;
		// What all of them begin with can be the beginning of their keys.
		const key = name.slice(this.prefix.search(/[^_\W]*$/));
		const rest = name.slice(this.prefix.length);
		return (key === rest || key === name ? null : this.people.byTableName(key)) ?? this.people.byTableName(rest);
	}

	private fromThreadSheet(info: ThreadInfo, key: NonNullable<NonNullable<MessageReading['thread']>['key']>, value: string): void {
		const row = this.people.rowByKey(key, value);
		if (!row) return;
		const asPerson = this.people.byKey(key, value);
		const sheet = this.reading.threads.find((t) => t.sheet === key.sheet);
		if (sheet?.title) {
			const title = this.get(row, sheet.title);
			info.title = typeof title === 'string' && title !== '' ? title : null;
		}
		const stated = this.m.threadPeer ?? sheet?.peer;
		// Members called as the writers are say more than a title that could be one's name.
		if (sheet?.list && (!this.m.threadPeer || !sheet.list.key)) info.members = this.listedMembers(row, sheet, sheet.list);
		if (info.members.length > 0) {
			if (info.members.length === 1) info.peer = info.members[0]!;
		} else if (stated) {
			const peer = this.get(row, stated.column);
			const k = keyOf(peer);
			if (k !== null && sheet?.rooms && this.takeRoom(info, sheet.rooms, k)) return;
			if (k !== null && k !== 0) {
				// Not everybody whom a conversation is with need be on the list of persons.
				const isAddress = typeof peer === 'string' && (PHONE.test(peer) || EMAIL.test(peer));
				const listed = stated.key ? this.people.byKey(stated.key, k) : null;
				const party = listed ?? (isAddress || !stated.key ? this.people.byListedAddress(String(peer)) : null);
				if (party && !this.owners.has(String(k))) info.peer = party;
			} else if (k === null && this.m.thread?.value.made?.ofTable && info.title !== null && addressShare(stated.column) > 0.6)
				info.unnumbered = true;
		} else if (asPerson?.address && asPerson.address !== asPerson.name) info.peer = asPerson;
	}

	/** Whether a conversation is with a room that stands among the persons: what that is called, and who takes part. */
	private takeRoom(info: ThreadInfo, rooms: RoomList, key: string | number): boolean {
		this.roomRows ??= new Map(rooms.sheet.rows.map((row) => [keyOf(this.get(row, rooms.room)), row]));
		const row = this.roomRows.get(key);
		if (!row) return false;
		const title = this.get(row, rooms.title);
		info.title = typeof title === 'string' && title !== '' ? title : null;
		info.group = true;
		const id = rooms.members ? keyOf(this.get(row, rooms.members.id)) : null;
		if (id !== null)
			info.members = this.membersOf(rooms.members!.of, String(id))
				.filter((p) => !this.owners.has(String(p.key)))
				.map((p) => p.party);
		return true;
	}
	private roomRows: Map<string | number | null, Row> | null = null;

	private listsRead: ThreadReading | null = null;

	private listedMembers(row: Row, sheet: ThreadReading, list: NonNullable<ThreadReading['list']>): Party[] {
		const listed = list.key ? keysIn : calledIn;
		if (this.listsRead !== sheet) {
			this.listsRead = sheet;
			const owner = alwaysThere(sheet.sheet.rows.map((r) => listed(this.get(r, list.column))));
			const party = owner === null || !list.key ? owner : this.people.byKey(list.key, owner);
			if (owner !== null && !this.isReceivedFrom(typeof party === 'string' ? this.people.byAddressText(party) : party))
				this.owners.add(owner);
		}
		const keys = listed(this.get(row, list.column)).filter((k) => !this.owners.has(k));
		const parties = keys.map((k) => (list.key ? this.people.byKey(list.key, k) : this.people.byAddressText(k)));
		// The list can call the owner by another key than the messages do.
		return parties.filter((p) => p !== null && !(this.m.direction.value.kind === 'sender' && this.isOwnerParty(p))) as Party[];
	}

	private readonly membersRead = new Map<MembersReading, Map<string, { key: string | number; party: Party }[]>>();

	private membersOf(members: MembersReading, thread: string): { key: string | number; party: Party }[] {
		const cache = this.membersRead.get(members) ?? this.readMembers(members);
		this.membersRead.set(members, cache);
		const row = members.by ? this.people.rowByKey(members.threadKey, thread) : null;
		const called = row && members.by ? keyOf(members.by.column ? this.get(row, members.by.column) : row.rowid) : null;
		return cache.get(called === null ? thread : String(called)) ?? [];
	}

	private readMembers(members: MembersReading): Map<string, { key: string | number; party: Party }[]> {
		const cache = new Map<string, { key: string | number; party: Party }[]>();
		const keys = new Map<string, string[]>();
		const kept = members.sheet.rows.filter((row) => row.standing === 'kept');
		const inUse = new Set(kept.map((row) => keyOf(this.get(row, members.thread))));
		for (const row of [...kept, ...members.sheet.rows.filter((r) => r.standing !== 'kept')]) {
			const t = keyOf(this.get(row, members.thread));
			const p = keyOf(this.get(row, members.person));
			// What is left of older rows says who took part where none is in use any more.
			if (t === null || p === null || (row.standing !== 'kept' && inUse.has(t))) continue;
			if (row.standing === 'kept' || kept.length === 0) put(keys, String(t), String(p));
			const party = members.personKey ? this.people.byKey(members.personKey, p) : this.people.byAddressText(String(p));
			if (party && !cache.get(String(t))?.some((x) => x.key === p)) put(cache, String(t), { key: p, party });
		}
		const owner = alwaysThere([...keys.values()]);
		const party = [...cache.values()].flat().find((member) => String(member.key) === owner)?.party;
		if (owner !== null && !this.isReceivedFrom(party ?? null)) this.owners.add(owner);
		return cache;
	}

	private received: Set<string> | null = null;

	/** Whether messages came from one: then he is not the owner, though he takes part in all that is listed. */
	private isReceivedFrom(party: Party | null): boolean {
		const { m } = this;
		const role = m.participant ?? m.sender ?? m.peer;
		if (!party || !role || m.direction.value.kind === 'sender') return false;
		this.received ??= new Set(
			m.sheet.sure.slice(0, SILENT_SAMPLED).flatMap((row) => {
				const writer = this.direction(row) === 'in' ? this.party(row, role) : null;
				return writer ? [normalAddress(writer.address ?? writer.name ?? '')] : [];
			})
		);
		return this.received.has(normalAddress(party.address ?? party.name ?? ''));
	}

	private readJoin(): Map<string, string> {
		const join = this.m.threadJoin!;
		const map = new Map<string, string>();
		// Of what is left of lost rows a number can be misread.
		const isKey = (thread: string | number): boolean =>
			!join.threadKey || join.threadKey.values.has(thread) || join.thread.profile.distinct.has(thread);
		for (const row of join.sheet.rows) {
			const message = keyOf(this.get(row, join.message));
			const thread = keyOf(this.get(row, join.thread));
			if (row.standing !== 'kept' && thread !== null && !isKey(thread)) continue;
			if (message !== null && thread !== null && !map.has(String(message))) map.set(String(message), String(thread));
		}
		for (const { sheet, of, key, thread, messageKey } of this.reading.bins) {
			if (of !== this.m || !thread || messageKey !== join.messageKey.column) continue;
			for (const row of sheet.rows) {
				const [message, talk] = [keyOf(this.get(row, key)), keyOf(this.get(row, thread))];
				if (message !== null && talk !== null && !map.has(String(message))) map.set(String(message), String(talk));
			}
		}
		return map;
	}
}

const isSameParty = (a: Party, b: Party): boolean =>
	a.address !== null && b.address !== null && normalAddress(a.address) === normalAddress(b.address);

/** Whether a conversation's key is a person's address, or a service's handle of his number. */
const isCalledBy = (key: string, party: Party): boolean =>
	party.address !== null && (normalAddress(key) === normalAddress(party.address) || isWrittenShorter({ address: key, name: null }, party));

/** A number as a table's name has it, without its sign, or within a service's handle: the same as the writer's. */
const isWrittenShorter = ({ address }: Party, writer: Party): boolean => {
	if (address === null || writer.address === null || address === writer.address) return false;
	const digits = /^\d{7,}$/.test(address) ? address : numberWithin(address)?.slice(1);
	return digits === writer.address.replace(/\D/g, '') && !writer.address.includes('@');
};

function commonPrefix(names: string[]): string {
	let prefix = names[0] ?? '';
	for (const name of names) while (!name.startsWith(prefix)) prefix = prefix.slice(0, -1);
	return prefix.replace(/[0-9a-f+]+$/i, (tail) =>
		/^[a-z_]*$/i.test(tail) && !/^[a-f]+$/i.test(tail) ? tail : tail.replace(/[0-9+]+$/, '')
	);
}
