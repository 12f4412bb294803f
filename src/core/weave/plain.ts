/** Turns woven messages into plain data, with the bytes of their sightings and the values as stored. */
import { encodeText, indexOfBytes, mediaTypeOf, type ByteSource, type Encoding } from '../bytes';
import { bytesIn } from '../harvest';
import { cell, NO_FILE, timeOf, type SheetColumn, type StatedFile } from '../interpret';
import type { Row, Sighting, Table, Value } from '../model';
import { bracketOf, capturesFor } from './captures';
import { extensionType, sniff, type MediaIndex, type MediaLink } from './media';
import type { Attachment, Message, SeenAt, Thread } from './thread';
import type { Weave, WovenStore, WovenThread } from './weave';
import type { Woven } from './woven';
import { baseOf } from '../paths';

export interface NamedSource {
	/** The name under which the user gave it. */
	name: string;
	path: string;
	source: ByteSource;
}

const HEX_BYTES = 320;
const STORED_LENGTH = 400;

export interface PlainOptions {
	/** Take the bytes of sightings along: of all of a lost message's, of the first of a kept one's. */
	hex: boolean;
	/** Take the values as stored along. */
	stored: boolean;
	/** Where the files that messages state are sought. */
	media?: MediaIndex;
}

export function plainMessage(
	m: Woven,
	stores: readonly WovenStore[],
	files: readonly NamedSource[],
	options: PlainOptions,
	weave: Pick<Weave, 'families' | 'familyOf'> | null = null
): Message {
	const store = stores[m.store]!;
	const u = m.first;
	const { tables } = store;
	const out: Message = {
		id: m.id,
		thread: m.thread,
		text: u.text,
		textCut: u.textCut,
		sentAt: u.sentAt,
		zoned: u.zoned,
		direction: u.direction,
		correspondent: u.correspondent?.address ?? null,
		person: u.correspondent?.name ?? null,
		standing: m.standing,
		grade: m.grade,
		store: m.store,
		table: tables[u.row.table]!.name,
		record: m.record,
		sightings: m.sightings.map((s, i) =>
			plainSighting(s, files, u.text, store.harvest.encoding, options.hex && (i === 0 || (m.standing !== 'kept' && i < 6)))
		),
		stored: options.stored ? storedValues(u, tables, m) : []
	};
	if (tables[u.row.table]!.withoutRowid) out.keyed = true;
	if (u.textCut && u.textRest) out.textRest = u.textRest;
	if (m.earlierWordingOf) out.earlierWordingOf = m.earlierWordingOf.id;
	if (m.otherWording !== null) out.otherWording = m.otherWording;
	const attachments = attachmentsOf(m, stores, files, options.media ?? null);
	if (attachments.length > 0) out.attachments = attachments;
	const among = weave && capturesFor(m, weave);
	if (among) {
		const { states, lastSeen, firstMissing } = bracketOf(among.of, among.family);
		out.states = states.map((s) => s.state);
		const { captures } = among.family;
		const own = captures.some(({ store }) => store === among.of.store) ? among.of.store : captures.at(-1)!.store;
		if (own !== m.store) out.statesOf = own;
		if (lastSeen !== null) out.lastSeen = lastSeen;
		if (firstMissing !== null) out.firstMissing = firstMissing;
	}
	if (m.until !== null) out.until = m.until;
	if (m.answers) out.replyTo = m.answers.id;
	if (u.attached.length > 0)
		out.attached = u.attached.map((a) => ({ what: a.what, who: a.who?.name ?? a.who?.address ?? null, at: a.at, standing: a.standing }));
	if (m.moreSightings > 0) out.moreSightings = m.moreSightings;
	return out;
}

/** What it had with it. A file that is not found as its own store states it may be, as another store of the same message does. */
function attachmentsOf(m: Woven, stores: readonly WovenStore[], files: readonly NamedSource[], media: MediaIndex | null): Attachment[] {
	const plain = (stated: StatedFile, store: number): Attachment => plainAttachment(stated, files, stores[store]!.path ?? '', media);
	const own = m.first.files;
	if (own.length === 0) return calledAsMessage(m, stores, files, media);
	return own.map((stated) => {
		const here = plain(stated, m.store);
		if (here.path !== null) return here;
		for (const copy of copiesOf(m)) {
			const theirs = copy.first.files;
			const same = own.length === 1 && theirs.length === 1 ? theirs[0] : theirs.find((f) => f.name !== null && f.name === stated.name);
			const there = same && plain(same, copy.store);
			if (there && there.path !== null) return { ...there, name: here.name ?? there.name };
		}
		return here;
	});
}

/** A file that no row states, and that is called as its message is known. */
function calledAsMessage(m: Woven, stores: readonly WovenStore[], files: readonly NamedSource[], media: MediaIndex | null): Attachment[] {
	const link = m.first.guid ? media?.calledAs(m.first.guid, stores[m.store]!.path ?? '') : null;
	return link ? [attachmentAt(NO_FILE, link, files, media!)] : [];
}

/** The same message in other captures, and in theirs. */
function* copiesOf(m: Woven): Generator<Woven> {
	for (const copy of m.copies) {
		yield copy;
		yield* copiesOf(copy);
	}
}

function plainAttachment(stated: StatedFile, files: readonly NamedSource[], storePath: string, media: MediaIndex | null): Attachment {
	if (stated.inside && media)
		return {
			name: stated.name,
			type: stated.type ?? mediaTypeOf(stated.inside),
			size: bytesIn(stated.inside),
			sha256: media.sha256Inside(stated.inside),
			path: storePath,
			link: 'inside the store',
			stated: stated.path
		};
	return attachmentAt(stated, media?.find(stated, storePath) ?? null, files, media);
}

function attachmentAt(stated: StatedFile, link: MediaLink | null, files: readonly NamedSource[], media: MediaIndex | null): Attachment {
	const file = link && files[link.file]!;
	return {
		name: stated.name ?? (file ? baseOf(file.path) : null),
		type: stated.type ?? (file ? (sniff(file.source) ?? extensionType(file.path)) : extensionType(stated.name ?? '')),
		size: stated.size ?? file?.source.size ?? null,
		sha256: link ? media!.sha256(link.file) : null,
		path: file?.path ?? null,
		link: link?.how ?? null,
		stated: stated.path
	};
}

function plainSighting(s: Sighting, files: readonly NamedSource[], text: string | null, encoding: Encoding, withHex: boolean): SeenAt {
	const file = files[s.file]!;
	const out: SeenAt = {
		source: file.name,
		path: file.path,
		offset: s.offset,
		length: s.length,
		method: s.method,
		standing: s.standing,
		grade: s.grade
	};
	if (s.page !== undefined) out.page = s.page;
	if (s.frame !== undefined) out.frame = s.frame;
	if (!withHex) return out;
	const bytes = file.source.read(s.offset, Math.min(s.length, 65_536));
	const needle = text ? encodeText(text.slice(0, 24), encoding).subarray(0, 24) : null;
	const at = needle ? indexOfBytes(bytes, needle) : -1;
	const from = Math.max(0, Math.min(at < 0 ? 0 : at - 48, bytes.length - HEX_BYTES));
	const shown = bytes.subarray(from, from + HEX_BYTES);
	out.hex = Array.from(shown, (b) => b.toString(16).padStart(2, '0')).join('');
	out.hexFrom = s.offset + from;
	if (at >= 0) out.mark = [at - from, Math.min(shown.length, at - from + encodeText(text!, encoding).length)];
	return out;
}

/** `whole`: nothing of its row is lost, so that a value that is missing was never there (an export's entries differ in their fields). */
function show(value: Value | undefined, whole: boolean): string {
	if (value === undefined) return whole ? 'not there' : 'overwritten';
	if (value === null) return 'null';
	if (typeof value === 'object')
		return `${bytesIn(value)} bytes: ${Array.from(value.subarray(0, 24), (b) => b.toString(16).padStart(2, '0')).join(' ')}${bytesIn(value) > 24 ? ' …' : ''}`;
	const text = String(value);
	return text.length > STORED_LENGTH ? `${text.slice(0, STORED_LENGTH)} …` : text;
}

/** A message's row as stored, value by value; of a value that holds values those that are there behind it. */
function storedValues({ row, reading }: Woven['first'], tables: readonly Table[], woven: Woven): Message['stored'] {
	const { columns } = tables[row.table]!;
	const out: Message['stored'] = [];
	const whole = row.grade === 'whole';
	const ofSheet = reading.sheet.tables.includes(row.table) ? reading.sheet.columns.filter((c) => c.path.length > 0 && !c.made) : [];
	row.values.forEach((value, i) => {
		const inner = ofSheet.filter((c) => c.column === i);
		const read = readAs(row, tables, woven, i, (c) => c.column === i && !inner.includes(c));
		if ((value === null || (value === undefined && whole)) && !read) return;
		out.push([columns[i]!.name, show(value, whole), read]);
		for (const c of inner.slice(0, MOST_INNER)) {
			const within = cell(row, c, tables);
			const said = readAs(row, tables, woven, null, (other) => other === c);
			if ((within !== null && within !== undefined) || said) out.push([c.name, show(within, whole), said]);
		}
	});
	return out;
}

/** Values within one value that are shown. */
const MOST_INNER = 40;

/** What a value was read as. `column`: of the table, null for a value within one; `is`: whether a column of the sheet is the one. */
function readAs(row: Row, tables: readonly Table[], woven: Woven, column: number | null, is: (c: SheetColumn) => boolean): string {
	const u = woven.first;
	const m = u.reading;
	const isNumber = column !== null && tables[row.table]!.rowidColumn === column;
	// What is left of a message in another sheet (a text index, a list of conversations) has that one's columns.
	if (!m.sheet.tables.includes(row.table)) return isNumber ? 'record number' : '';
	const reads: string[] = [];
	if (is(m.text.value)) reads.push('text');
	if (m.time && is(m.time.value)) {
		const at = timeOf(cell(row, m.time.value, tables), m.time.reading);
		// Of a time put together of several values the column says of which.
		const how = m.time.value.made ? m.time.value.name : m.time.reading.label;
		reads.push(at === null ? 'no time' : `${how}: ${new Date(at).toISOString()}`);
	}
	const rule = m.direction.value;
	if ('column' in rule && is(rule.column))
		reads.push(u.direction === 'out' ? 'sent by the owner' : u.direction === 'in' ? 'received' : 'direction not known');
	for (const [role, word] of [
		[m.peer, 'correspondent'],
		[m.sender, 'writer'],
		[m.recipient, 'recipient']
	] as const) {
		if (!role || !is(role.value)) continue;
		const stored = column === null ? cell(row, role.value, tables) : row.values[column];
		const isOwners = word === (u.direction === 'out' ? 'writer' : 'recipient') && u.direction !== null;
		if (word === 'recipient' && (typeof stored === 'string' || typeof stored === 'number') && m.rooms?.has(stored)) reads.push('room');
		else if (word === 'recipient' && typeof stored === 'string' && /[,;]/.test(stored)) reads.push('recipients');
		else if (isOwners && stored !== null && stored !== 0) reads.push(`${word}: the owner`);
		else if (stored === null || stored === 0) reads.push(u.direction === 'out' ? `no ${word}: the owner’s own` : `no ${word}`);
		else reads.push(`${word}: ${u.correspondent?.name ?? u.correspondent?.address ?? (u.direction === 'out' ? 'the owner' : 'not known')}`);
	}
	if (m.thread && is(m.thread.value)) reads.push('thread');
	if (m.deleted && is(m.deleted.value.column)) reads.push(u.deletedFlag ? 'marked deleted' : 'not marked deleted');
	if (isNumber) reads.push('record number');
	return reads.join('; ');
}

export function plainThread(t: WovenThread, weave: Weave): Thread {
	const count = { kept: 0, binned: 0, dropped: 0, remnant: 0 };
	let first: number | null = null;
	let last: number | null = null;
	let snippet = '';
	for (const m of t.messages) {
		if (m.earlierWordingOf) continue;
		count[m.standing]++;
		const at = m.first.sentAt;
		if (at === null) continue;
		if (first === null || at < first) first = at;
		if (last === null || at >= last) {
			last = at;
			snippet = m.first.text?.slice(0, 120) ?? '';
		}
	}
	const missing = weave.gaps.reduce((sum, g) => sum + (g.threads.length === 1 && g.threads[0] === t.id ? g.count : 0), 0);
	return {
		id: t.id,
		title: t.title,
		address: t.address,
		group: t.group,
		members: t.members.slice(0, 200),
		count: count.kept + count.binned + count.dropped + count.remnant,
		...count,
		missing,
		first,
		last,
		snippet
	};
}
