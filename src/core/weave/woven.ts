/** A message woven from one or more rows of a store. */
import { addSighting, betterGrade, betterStanding } from '../harvest';
import type { Understood } from '../interpret';
import type { Row, Sighting, Standing } from '../model';

export class Woven {
	id = '';
	standing: Standing;
	grade: Row['grade'];
	earlierWordingOf: Woven | null = null;
	record: number | null;
	/** Table whose numbers `record` is one of. */
	recordTable: number;
	/** For an earlier wording: until when it stood, ms UTC, where a history says so. */
	until: number | null = null;
	/** The message it answers. */
	answers: Woven | null = null;
	/** Standing in each capture of its store in which it was seen, by the capture's index among the look's stores. */
	seenIn: Map<number, Standing> | null = null;
	/** The text as another copy of the conversation has it, where it differs. */
	otherWording: string | null = null;
	/** ms by which the clock that its time was read off ran ahead of that of the source it was put with. */
	clockAhead = 0;
	/** As another device has it: what went there says nothing of this one. */
	isElsewhere = false;
	private others: Row[] | null = null;
	private fromCaptures: Woven[] | null = null;
	private demoted = false;
	private seen: { sightings: Sighting[]; moreSightings?: number } | null = null;

	constructor(
		public first: Understood,
		public thread: string,
		readonly store: number
	) {
		const { row } = first;
		this.standing = row.standing === 'kept' && first.deletedFlag ? 'binned' : row.standing;
		this.grade = row.grade;
		const texts = first.textRows ?? [];
		// A message whose text is in no use any more is lost, whatever still points to it.
		if (texts.length > 0 && texts.every((r) => r.standing !== 'kept')) {
			const left = texts.map((r) => r.standing).reduce(betterStanding);
			if (betterStanding(left, this.standing) === this.standing) this.standing = left;
		}
		const isCaptionCut = first.textCut && first.files.some((file) => file.captionCut);
		if (texts.some((r) => r.cut >= 0) || isCaptionCut) this.grade = 'fragment';
		this.record = typeof row.rowid === 'number' ? row.rowid : null;
		this.recordTable = row.table;
	}

	/** Notes its standing in a capture: the nearest to being in use, where it was seen there in several. */
	noteIn(store: number, standing: Standing): void {
		const known = this.seenIn?.get(store) ?? standing;
		(this.seenIn ??= new Map()).set(store, betterStanding(known, standing));
	}

	/** Takes over where else its text was seen, and nothing more. */
	addSightings(row: Row): void {
		(this.others ??= []).push(row);
		this.seen = null;
	}

	/** Takes another row of the same message in, of the thread named: the better standing and grade, and every sighting. */
	absorb(u: Understood, thread: string): void {
		this.standing = betterStanding(this.standing, u.row.standing);
		this.grade = betterGrade(this.grade, u.row.grade);
		(this.others ??= []).push(u.row);
		this.seen = null;
		if (this.record === null && typeof u.row.rowid === 'number') this.record = u.row.rowid;
		if (this.standing !== 'kept') this.fill(u, thread);
		if (!this.first.textCut || u.textCut || u.text === null) return;
		this.others.push(this.first.row);
		this.first = { ...u, direction: u.direction ?? this.first.direction };
	}

	/** Its row is in use still, but the text is gone from it: what it said stands in what is left of it, or in another capture. */
	takeTextBack({ text, textCut }: Pick<Understood, 'text' | 'textCut'>): void {
		this.standing = standingOfBlank(this.first);
		this.first = { ...this.first, text, textCut };
		for (const [store, standing] of this.seenIn ?? []) if (standing === 'kept') this.seenIn!.set(store, this.standing);
	}

	/** Its capture is not the newest: what was in use there was dropped since. */
	inOlderCapture(): void {
		if (this.standing === 'kept' || this.standing === 'binned') this.standing = 'dropped';
		this.demoted = true;
		this.seen = null;
		for (const part of this.fromCaptures ?? []) part.inOlderCapture();
	}

	/** Takes in the same message as another capture has it. */
	takeIn(other: Woven): void {
		this.takeFirstTime(other);
		this.unite(other);
		if (
			this.isLessSure(other) ||
			(isByPage(this) && !isByPage(other)) ||
			(isThreadGuessed(this.first) && !isThreadGuessed(other.first) && !isOfNoThread(other.first))
		)
			this.belongWith(other);
		if (this.first.textCut && !other.first.textCut && other.first.text !== null) this.first = { ...other.first, row: this.first.row };
		// The text stands in another table than the file, and is left in another capture only.
		if (this.first.reading.alone && this.first.text === null && other.first.text !== null) {
			const { text, textCut, reading } = other.first;
			this.first = { ...this.first, text, textCut, reading, row: other.first.row };
			this.record = other.record;
		}
	}

	/** Of a row that is lost what told when it was sent first can be lost with it. */
	private takeFirstTime({ first: { row, sentAt } }: Woven): void {
		const isSurer = row.standing === 'kept' && this.first.row.standing !== 'kept';
		if (isSurer && sentAt !== null && this.first.sentAt !== null && sentAt < this.first.sentAt) this.first = { ...this.first, sentAt };
	}

	/** Of a freed row that has lost a part even what is left of it can be another row's. */
	private isLessSure({ first: { row, text } }: Woven): boolean {
		const { first } = this;
		return first.row.standing !== 'kept' && first.row.grade === 'fragment' && row.grade === 'whole' && first.text === text;
	}

	private unite(other: Woven): void {
		this.standing = betterStanding(this.standing, other.standing);
		this.grade = betterGrade(this.grade, other.grade);
		(this.fromCaptures ??= []).push(other);
		this.seen = null;
		this.record ??= other.record;
		this.fill(other.first, other.thread);
	}

	/** It is of the conversation that another capture knows. */
	private belongWith({ first, thread }: Woven): void {
		this.first = { ...first, row: this.first.row };
		this.thread = thread;
	}

	/** Its conversation is with whom another message of the same shows it to be. */
	isWith({ first, thread }: Woven): void {
		const { correspondent, members, threadTitle } = first;
		this.first = { ...this.first, correspondent: this.first.correspondent ?? correspondent, members, threadTitle };
		this.thread = thread;
	}

	/** Is in the room of another message, and with nobody who is called as that is: who wrote what came is not known. */
	isInRoom({ first, thread }: Woven): void {
		const { members, threadTitle } = first;
		this.first = { ...this.first, group: true, correspondent: null, members, threadTitle };
		this.thread = thread;
	}

	/** Takes over what is not known here. */
	private fill(u: Understood, thread: string): void {
		if (isOfNoThread(this.first) && !isOfNoThread(u)) {
			const { threadKey, threadTitle, group, members } = u;
			this.first = { ...this.first, threadKey, threadTitle, group, members };
			this.thread = thread;
		}
		const { first } = this;
		// The owner's own messages to a group are to nobody alone, whatever an older capture knew of it.
		const toAll = first.group && first.direction === 'out';
		const complete = first.sentAt !== null && first.direction !== null && (first.correspondent !== null || toAll);
		// Of a row that is not whole any more what it states of a file may be cut.
		const files =
			first.files.length === 0 || (first.row.grade !== 'whole' && u.row.grade === 'whole' && u.files.length > 0) ? u.files : first.files;
		if (complete && files === first.files) return;
		this.first = {
			...first,
			sentAt: first.sentAt ?? u.sentAt,
			direction: first.direction ?? u.direction,
			correspondent: toAll ? null : (first.correspondent ?? u.correspondent),
			files
		};
	}

	/**
	 * Takes in the same message as another source's copy has it: where else it was seen, and what is not known here.
	 * Its standing there counts only where it is a store of the same device: a message is no less deleted because the
	 * other party has it still.
	 */
	takeFromCopy(other: Woven, sameDevice: boolean): void {
		const { standing, grade, record } = this;
		this.unite(other);
		const { text, textCut } = other.first;
		if ((this.first.textCut || isBeginningOf(this, other)) && !textCut && text !== null) this.first = { ...this.first, text, textCut };
		this.record = record;
		if (!sameDevice) {
			this.standing = standing;
			other.isElsewhere = true;
		}
		this.grade = other.standing === 'kept' ? this.grade : grade;
		if (this.first.files.length === 0 && other.first.files.length > 0) this.first = { ...this.first, files: other.first.files };
	}

	/** What a message had that bore the same number before it is not its own. */
	leaveLostFilesTo(other: Understood): void {
		const files = this.first.files.filter((file) => !file.lost || !other.files.includes(file));
		if (isInUse(this) && files.length < this.first.files.length) this.first = { ...this.first, files };
	}

	/** The same message as older captures have it. */
	get copies(): readonly Woven[] {
		return this.fromCaptures ?? [];
	}

	/** Every place where it was seen; put together only when asked for. */
	get sightings(): Sighting[] {
		return this.gathered().sightings;
	}

	get moreSightings(): number {
		return this.gathered().moreSightings ?? 0;
	}

	private gathered(): { sightings: Sighting[]; moreSightings?: number } {
		if (this.seen) return this.seen;
		const { row } = this.first;
		const own = this.demoted ? row.sightings.map(demote) : row.sightings;
		this.seen = { sightings: [...own], moreSightings: row.moreSightings ?? 0 };
		for (const other of this.others ?? []) {
			for (const sighting of other.sightings) addSighting(this.seen, this.demoted ? demote(sighting) : sighting);
			this.seen.moreSightings = (this.seen.moreSightings ?? 0) + (other.moreSightings ?? 0);
		}
		for (const other of this.fromCaptures ?? []) {
			for (const sighting of other.sightings) addSighting(this.seen, sighting);
			this.seen.moreSightings = (this.seen.moreSightings ?? 0) + other.moreSightings;
		}
		return this.seen;
	}
}

/** Whether nothing that is left of a row says in which conversation it was. */
export const isOfNoThread = (u: Understood): boolean => u.threadKey === 't:?' || u.threadKey === 'p:?';

/** Whether only its writer says in which conversation it was, where the store says it of others by itself: a group's, perhaps. */
export const isThreadGuessed = ({ reading: m, threadKey }: Understood): boolean =>
	(m.threadJoin !== null || (m.thread !== null && m.thread.value.column >= 0)) && /^[pk]:/.test(threadKey);

export const isInUse = ({ standing }: Woven): boolean => standing === 'kept' || standing === 'binned';

/** Whether its table, and so perhaps its conversation, is told only by whose page it lies on. */
export const isByPage = (m: Woven): boolean => m.first.row.tableByPage === true;

/** Whether of one message nothing is left but what the list of conversations showed of it, and that is how the other begins. */
export const isBeginningOf = ({ first: { row, text } }: Woven, { first: whole }: Woven): boolean =>
	text !== null &&
	text.length >= BEGINNING &&
	row.sightings.every((s) => s.method === 'preview') &&
	(whole.text?.length ?? 0) > text.length &&
	whole.text!.startsWith(text);
/** Letters from which a beginning is that of one message. */
const BEGINNING = 20;

const demote = (s: Sighting): Sighting => (s.standing === 'kept' ? { ...s, standing: 'dropped' } : s);

/** Whether a row in use has lost its text since another state of the same row, which has it. */
export const isBlanked = (inUse: Understood, u: Understood): boolean =>
	isBlank(inUse) &&
	u.text !== null &&
	u.text !== '' &&
	inUse.sentAt !== null &&
	inUse.sentAt === u.sentAt &&
	(inUse.direction === null || u.direction === null || inUse.direction === u.direction);

/** Whether of a row in use neither the text nor a file is left, but when it was. */
export const isBlank = ({ row, text, files, deletedFlag }: Understood): boolean =>
	row.standing === 'kept' && (text === null || text === '') && (files.length === 0 || deletedFlag);

/** A message of which the store keeps the row alone: in its bin where it is marked so. */
export const standingOfBlank = ({ deletedFlag }: Understood): Standing => (deletedFlag ? 'binned' : 'dropped');
