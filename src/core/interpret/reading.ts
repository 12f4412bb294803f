/** The reading of a store: which role each sheet and column was given, why, and what else it might have been. */
import type { ListedReactions, ListedWordings } from './listed-within';
import type { PersonEntries } from './person-entries';
import type { Sheet, SheetColumn } from './sheet';
import type { Numbered } from './numbers-beside-names';
import type { Key } from './refs';
import type { TimeReading } from './time';

export type SheetRole =
	| 'messages'
	| 'persons'
	| 'threads'
	| 'members'
	| 'message-thread'
	| 'attachments'
	| 'copies'
	| 'histories'
	| 'attached'
	| 'bin'
	| 'properties'
	| 'other';

export interface Guess<T> {
	value: T;
	/** 0–1. */
	confidence: number;
	/** Plain sentences. */
	evidence: string[];
	runnerUp?: string;
}

/** How the direction of a message is told. */
export type DirectionRule =
	/** `bit`: of a number one bit says it, and whether rows with it were sent. */
	| { kind: 'flag'; column: SheetColumn; out: (string | number)[]; in: (string | number)[]; bit?: { mask: number; out: boolean } }
	| { kind: 'sender'; column: SheetColumn; owner: (string | number)[] }
	| { kind: 'sender-empty'; column: SheetColumn }
	| { kind: 'sign'; column: SheetColumn; outNegative: boolean }
	| { kind: 'sheet'; direction: 'in' | 'out' }
	| { kind: 'table'; column: SheetColumn; out: (string | number)[]; in: (string | number)[] }
	| { kind: 'unknown' };

export interface MessageReading {
	sheet: Sheet;
	text: Guess<SheetColumn>;
	/** Further columns that hold the text where the first is empty. */
	time: (Guess<SheetColumn> & { reading: TimeReading }) | null;
	direction: Guess<DirectionRule>;
	/** What says it as well, of rows of which the first says nothing. */
	directionElse?: DirectionRule | null;
	/** The other party, the same whatever the direction. */
	peer: (Guess<SheetColumn> & { key: Key | null }) | null;
	sender: (Guess<SheetColumn> & { key: Key | null }) | null;
	recipient: (Guess<SheetColumn> & { key: Key | null }) | null;
	thread: (Guess<SheetColumn> & { key: Key | null }) | null;
	/** A sheet that joins messages to threads. */
	threadJoin: { sheet: Sheet; message: SheetColumn; thread: SheetColumn; messageKey: Key; threadKey: Key | null } | null;
	/** A flag by which the store itself marks a message deleted. */
	/** The sheet that has its messages now, under the same numbers: its table is gone. */
	movedTo?: Sheet;
	/** What marks a message deleted that the store keeps: one of the values, or any but nought (a time). */
	deleted: Guess<{ column: SheetColumn; values: (string | number)[]; isAny?: true }> | null;
	/** Rows of another kind (calls, system lines) that stand in the same table. */
	otherKinds: Guess<{ column: SheetColumn; values: (string | number)[] }> | null;
	/** Lists, within a message's row, of wordings it had before, and of reactions to it. */
	wordings: ListedWordings[];
	listedReactions: ListedReactions[];
	/** The column by which rows that are reactions name the message they are for, and what kind they are, if anything says it. */
	reactions?: { to: SheetColumn; kinds: { column: SheetColumn; values: (string | number)[] } | null } | undefined;
	/** The name of the other side, beside its address in the same row. */
	peerName: SheetColumn | null;
	/** Where who wrote is named, and numbered, in the rows themselves. */
	numbered?: Numbered;
	/** Stands only in messages of groups: the room. */
	group: SheetColumn | null;
	/** Those recipients that are rooms. */
	rooms?: ReadonlySet<string | number>;
	/** In groups: the writer, where `peer` is the group. */
	participant: (Guess<SheetColumn> & { key: Key | null }) | null;
	/** The owner, where he is a participant of every thread, and the other side of none. */
	ownParticipant: string | number | null;
	/** A text key that is each message's own. */
	guid: SheetColumn | null;
	/** Where it is known without being told from the values: the column that names a message's file, or null for none. */
	files?: AttachmentReading['columns'] | null;
	/** Where the list of conversations names each one's other side, and who wrote was told by that: its column there. */
	threadPeer?: ThreadReading['peer'];
	/** Where who wrote was told by a list of who takes part: that list. */
	membersTold?: MembersReading;
	/** Where that list calls them by keys that nothing else knows: how many take part in each conversation is all it says. */
	sizesTold?: { sheet: Sheet; room: SheetColumn; person: SheetColumn };
	/** The thread's value lists who takes part; `owner`: who is in all of the lists. */
	threadLists?: { owner: string | null };
	/** The thread's value is the title to show. */
	threadTitled?: boolean;
	/** The one conversation that the messages are is a group, though one other alone wrote. */
	isGroup?: boolean;
	/** Who takes part in the one conversation that the messages are, as a list beside them says. */
	takingPart?: string[];
	/** Its rows are files alone, made as the messages `of` are; the keys by which a file and a text are one message. */
	alone?: { of: MessageReading; key: SheetColumn | null; messageKey: SheetColumn | null };
	/** The column that names the message answered, by its record number (null) or by that column's value. */
	replyTo: { column: SheetColumn; key: SheetColumn | null } | null;
}

/** A reading of which only the text and the time are told yet. */
export const blankReading = (sheet: Sheet, text: MessageReading['text'], time: MessageReading['time']): MessageReading => ({
	sheet,
	text,
	time,
	direction: { value: { kind: 'unknown' }, confidence: 0, evidence: [] },
	peer: null,
	sender: null,
	recipient: null,
	thread: null,
	threadJoin: null,
	deleted: null,
	otherKinds: null,
	peerName: null,
	group: null,
	participant: null,
	ownParticipant: null,
	guid: null,
	replyTo: null,
	wordings: [],
	listedReactions: []
});

/** A time column and how it is read. */
export interface TimeColumn {
	value: SheetColumn;
	reading: TimeReading;
}

/** A sheet that repeats the texts of messages (a text index), or keeps their earlier wordings. */
export interface CopyReading {
	sheet: Sheet;
	of: MessageReading;
	text: SheetColumn;
	/** Column that names the message; null for the row's own number. */
	key: SheetColumn | null;
	/** What of the message it names: a column, or null for the record number. */
	messageKey: SheetColumn | null;
	/**
	 * `aside`: these are the messages' own texts, in a table of their own; `revision`: what they were changed into, one after
	 * the other; `preview`: how they begin, as a list of what was pinned or marked shows it.
	 */
	kind: 'text-index' | 'history' | 'aside' | 'revision' | 'preview';
	/** Letters from which a text is only the beginning of one. */
	cutAt?: number;
	time: TimeColumn | null;
	/** Of texts in a table of their own: the numbers of those that are a title of something else. */
	titles?: ReadonlySet<string>;
	/** Where it repeats messages with their time: its rows read as those. */
	asMessages?: MessageReading;
}

/** A sheet whose rows name messages that are in the store's bin. */
export interface BinReading {
	sheet: Sheet;
	of: MessageReading;
	key: SheetColumn;
	/** What of the message it names: a column, or null for the record number. */
	/** What says which conversation a message in the bin was in, where a join has it no more. */
	thread?: SheetColumn | null;
	messageKey: SheetColumn | null;
	/** When each was put there. */
	time: TimeColumn | null;
}

/** A sheet whose rows are receipts, reactions and the like of messages. */
export interface AttachedReading {
	sheet: Sheet;
	of: MessageReading;
	key: SheetColumn;
	messageKey: SheetColumn | null;
	what: SheetColumn | null;
	who: { value: SheetColumn; key: Key | null } | null;
	time: TimeColumn | null;
}

/** A sheet whose rows are files that messages state. */
export interface AttachmentReading {
	sheet: Sheet;
	of: MessageReading;
	columns: {
		path: SheetColumn | null;
		name: SheetColumn | null;
		mime: SheetColumn | null;
		size: SheetColumn | null;
		hash: SheetColumn | null;
		width?: SheetColumn | null;
		height?: SheetColumn | null;
		/** What each file is known by. */
		key?: SheetColumn | null;
		/** Its bytes, where they stand in the row. */
		content?: SheetColumn | null;
		/** What was written below it, by who sent it without another text. */
		caption?: SheetColumn | null;
	};
	link:
		| { kind: 'direct'; key: SheetColumn; messageKey: SheetColumn | null }
		| { kind: 'stated'; from: SheetColumn; key: SheetColumn | null }
		| {
				kind: 'join';
				join: Sheet;
				message: SheetColumn;
				messageKey: SheetColumn | null;
				file: SheetColumn;
				fileKey: SheetColumn | null;
		  };
}

export interface PersonReading {
	sheet: Sheet;
	/** Columns that make the name, in the order in which they are read. */
	names: SheetColumn[];
	/** Columns of other names, the likeliest first: who has none in `names` is called by the first of these. */
	otherNames?: SheetColumn[];
	/** The bytes that have the names as they are written, where `names` has them in small letters to be searched by. */
	cased?: SheetColumn | null;
	/** What it is called where it has no name: an organisation. */
	organisation?: SheetColumn | null;
	addresses: SheetColumn[];
	/** Columns whose values list several addresses, and one of whole cards. */
	lists?: SheetColumn[];
	cards?: SheetColumn | null;
	/** Another person sheet that this one's rows point into for their name. */
	via: { column: SheetColumn; key: Key } | null;
}

/** A flag by which an address book marks persons deleted, in their own rows or in those that a column of theirs names. */
export interface DeletedPersons {
	sheet: Sheet;
	via: { column: SheetColumn; key: Key } | null;
	column: SheetColumn;
	values: (string | number)[];
}

export interface ThreadReading {
	sheet: Sheet;
	title: SheetColumn | null;
	/** A column that lists a thread's members: by their keys, or as the messages' writers are called. */
	list: { column: SheetColumn; key: Key | null } | null;
	/** A column with the other party: a key into persons, or an address. */
	peer: { column: SheetColumn; key: Key | null } | null;
	/** Rooms that stand among the persons whom `peer` names. */
	rooms?: RoomList;
}

/** A list of rooms that have rows in a list of persons. */
export interface RoomList {
	sheet: Sheet;
	/** Names the room's row in the list of persons, by `key`. */
	room: SheetColumn;
	key: Key;
	title: SheetColumn;
	/** Who takes part, by another key of the rooms. */
	members: { of: MembersReading; id: SheetColumn } | null;
}

export interface MembersReading {
	sheet: Sheet;
	/** Whose conversations it names, where those have no list of their own. */
	of?: MessageReading;
	thread: SheetColumn;
	threadKey: Key;
	/** The key of the conversations' list that `thread` names them by, where it is another than `threadKey`. */
	by?: Key | null;
	person: SheetColumn;
	personKey: Key | null;
}

export interface StoreReading {
	sheets: { sheet: Sheet; role: Guess<SheetRole> }[];
	messages: MessageReading[];
	persons: PersonReading[];
	/** Address books kept as entries of several kinds. */
	personEntries: PersonEntries[];
	deletedPersons: DeletedPersons[];
	threads: ThreadReading[];
	members: MembersReading[];
	copies: CopyReading[];
	attached: AttachedReading[];
	attachments: AttachmentReading[];
	bins: BinReading[];
	/** Tables whose rows say one thing of a message each. */
	properties: { sheet: Sheet; key: SheetColumn; name: SheetColumn; value: SheetColumn }[];
	/** Sheets with texts that nobody wrote to anybody. */
	refused: ReadonlySet<Sheet>;
}
