/**
 * Tables in which each message has a row for everybody it was sent to, by the key of a list of persons that the message's own
 * writer is named by too. Where nothing lists conversations, who all take part is the conversation.
 */
import type { Row, Table, Value } from '../model';
import { addressShare, bestText, bestTime } from './columns';
import type { Context } from './context';
import { hasThreads } from './address-rows';
import { markedAsOneself } from './flagged-owner';
import { isNamedAlike, keyOf, type Reference } from './refs';
import { addColumn, rowsByMessage } from './rows-of-messages';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

const SURE = 0.45;
const PROSE = 0.5;
const NEARLY_ALL = 0.95;
const ADDRESSES = 0.6;
const COLUMNS_AT_MOST = 4;
const ROWS = 4000;

interface RecipientRows {
	list: Sheet;
	messages: Sheet;
	key: SheetColumn;
	own: SheetColumn | null;
	recipient: SheetColumn;
	writer: SheetColumn;
	/** The address of each person, by the key. */
	addresses: ReadonlyMap<string | number, string>;
	/** That of the one whom the list of persons marks as oneself. */
	owner: string | number | null;
}

/** Adds to sheets of messages who wrote and who all take part, as addresses; the lists of recipients. */
export function openRecipientRows(context: Context): Set<Sheet> {
	const lists = new Set<Sheet>();
	// Of many tables few hold anything that somebody can have written.
	const messages = new Set(context.sheets.filter((sheet) => areMessages(sheet, context)));
	for (const list of messages.size > 0 ? context.sheets : []) {
		const found = recipientRowsOf(list, messages, context);
		if (!found || hasThreads(found.messages, context, list)) continue;
		lists.add(list);
		const { addresses, recipient, writer, owner } = found;
		const { tables } = context;
		const rows = rowsByMessage(found, tables);
		const room = roomBeside(found, rows, context);
		const addressIn = (row: Parameters<typeof cell>[0], column: SheetColumn): string | undefined =>
			addresses.get(keyOf(cell(row, column, tables)) ?? '');
		const parties = (row: Row): readonly string[] | null => {
			const to = rows(row).flatMap((one) => addressIn(one, recipient) ?? []);
			const from = addressIn(row, writer);
			return from === undefined || to.length === 0 ? null : [...new Set([...to, from])].sort();
		};
		const all = found.messages.sure.slice(0, ROWS).flatMap((row) => (row.standing === 'kept' ? [parties(row) ?? []] : []));
		const self = alwaysAmong(all);
		const whose =
			owner !== null ? { owner } : self !== undefined ? { owner: self, ownerWhy: `${self} is at an end of (nearly) all messages` } : {};
		addColumn(found, `${writer.name} (address)`, { read: (row) => addressIn(row, writer), writer: true, ...whose }, tables);
		const areTwos = all.every((one) => one.length <= 2);
		const isOfTwo = (row: Row): boolean => (room ? room.made!.read(row) === undefined : areTwos);
		addColumn(
			found,
			`${list.name}.${recipient.name}`,
			{
				read: (row) => {
					const from = addressIn(row, writer);
					// To whom a lost one went can be lost: what another wrote to the owner alone is theirs.
					const two = from !== undefined && self !== undefined && from !== self && isOfTwo(row) ? [from, self].sort() : null;
					return (parties(row) ?? two)?.join(',');
				},
				...(room ? { room } : {})
			},
			tables
		);
	}
	return lists;
}

/** The one party that (nearly) all messages are from or to, where it is one. */
function alwaysAmong(all: readonly (readonly string[])[]): string | undefined {
	const counts = new Map<string, number>();
	for (const one of all.flat()) counts.set(one, (counts.get(one) ?? 0) + 1);
	const always = [...counts].filter(([, n]) => n >= all.length * NEARLY_ALL);
	// Of several who are nearly always there the one who always is.
	const [only, ...more] = always.length > 1 ? always.filter(([, n]) => n === all.length) : always;
	return only && more.length === 0 ? only[0] : undefined;
}

function recipientRowsOf(list: Sheet, among: ReadonlySet<Sheet>, context: Context): RecipientRows | null {
	const { references, tables } = context;
	const stored = list.columns.filter((c) => c.column >= 0 && c.path.length === 0 && !c.made);
	if (list.family || stored.length > COLUMNS_AT_MOST || stored.some((c) => c.profile.prose > 0)) return null;
	const refs = (references.get(list) ?? []).filter(
		// Where each message went to one, its row there has its number as well.
		(r) => r.confidence >= SURE && r.inclusion >= NEARLY_ALL && (!isOwnNumber(r.from, list, tables) || isNamedAlike(r.from, r.key.sheet))
	);
	for (const link of refs) {
		const { sheet: messages } = link.key;
		if (messages === list || !among.has(messages) || !namesAllInUse(link, list, context)) continue;
		for (const person of refs) {
			if (person.from === link.from || person.key.sheet === messages || person.key.sheet === list || !isSurest(person, list, context))
				continue;
			const writers = (references.get(messages) ?? []).filter(
				(r) =>
					r.key === person.key &&
					r.confidence >= SURE &&
					r.inclusion >= NEARLY_ALL &&
					// A conversation's own number is nobody's who wrote.
					!isOwnNumber(r.from, messages, tables) &&
					isSurest(r, messages, context)
			);
			const address = person.key.sheet.columns.find((c) => c.column >= 0 && !c.made && addressShare(c) > ADDRESSES);
			const of = { list, messages, key: link.from, own: link.key.column, recipient: person.from };
			const writer = address && writers.find((r) => writesToOthers(of, r.from, context))?.from;
			if (writer)
				return {
					...of,
					writer,
					addresses: valuesBy(person, address, tables),
					owner: markedAsOneself(person.key.sheet, address, context)
				};
		}
	}
	return null;
}

/** Whether (nearly) all messages in use are named: of those lost the rows to whom they went are mostly lost as well. */
function namesAllInUse({ from, key, coverage }: Reference, list: Sheet, { tables }: Context): boolean {
	if (coverage >= NEARLY_ALL) return true;
	const isKept = (row: Row): boolean => row.standing === 'kept';
	const named = new Set(list.rows.filter(isKept).map((row) => keyOf(cell(row, from, tables))));
	const all = key.sheet.rows.filter(isKept).map((row) => keyOf(key.column ? cell(row, key.column, tables) : row.rowid));
	return all.length > 0 && all.filter((own) => named.has(own)).length >= all.length * NEARLY_ALL;
}

/** What rooms are called by the key of their list, in messages that went to several; those to one have no room. */
function roomBeside(
	{ messages, writer, own }: RecipientRows,
	recipients: (row: Row) => readonly Row[],
	{ references, tables }: Context
): SheetColumn | undefined {
	const rows = messages.sure.slice(0, ROWS).flatMap((row) => {
		const to = recipients(row).length;
		return to > 0 ? [{ row, several: to > 1 }] : [];
	});
	const room = (references.get(messages) ?? []).find(({ from, key, inclusion }) => {
		if (from === writer || from === own || inclusion < NEARLY_ALL || !isNamedAlike(from, key.sheet)) return false;
		const fits = rows.filter(({ row, several }) => several === (keyOf(cell(row, from, tables)) !== null)).length;
		return fits >= rows.length * NEARLY_ALL && rows.some(({ several }) => several);
	});
	const title = room?.key.sheet.columns.find((c) => c.column >= 0 && c !== room.key.column && c.profile.texts > 0 && c.path.length === 0);
	if (!room || !title) return undefined;
	const titles = valuesBy(room, title, tables);
	const read = (row: Row): Value | undefined => titles.get(keyOf(cell(row, room.from, tables)) ?? '');
	return { ...room.from, name: `${room.from.name} (${title.name})`, made: { read } };
}

/** Whether nothing else is named more surely: small numbers are keys of many tables. */
function isSurest(r: Reference, sheet: Sheet, { references }: Context): boolean {
	const first = (references.get(sheet) ?? []).find((other) => other.from === r.from && other.key.sheet !== sheet);
	return first === undefined || r.confidence >= first.confidence;
}

/** Whether a sheet has a time and writing, and states no address itself. */
const areMessages = (sheet: Sheet, { tables }: Context): boolean =>
	!sheet.family &&
	(bestText(sheet)?.value.profile.prose ?? 0) >= PROSE &&
	bestTime(sheet, tables) !== null &&
	!sheet.columns.some((c) => addressShare(c) > 1 - ADDRESSES);

/** Whether nobody is named twice for a message, and (nearly) never who wrote it. */
function writesToOthers(
	{ list, messages, key, own, recipient }: Omit<RecipientRows, 'writer' | 'addresses' | 'owner'>,
	writer: SheetColumn,
	{ tables }: Context
): boolean {
	const writers = new Map<string | number, string | number | null>();
	for (const row of messages.sure) {
		const name = keyOf(own ? cell(row, own, tables) : row.rowid);
		if (name !== null && row.standing === 'kept') writers.set(name, keyOf(cell(row, writer, tables)));
	}
	const seen = new Set<string>();
	let [known, fits] = [0, 0];
	for (const row of list.sure.slice(0, ROWS)) {
		const [message, who] = [keyOf(cell(row, key, tables)), keyOf(cell(row, recipient, tables))];
		if (message === null || who === null || !writers.has(message)) continue;
		known++;
		const pair = `${message}\u0000${who}`;
		if (writers.get(message) !== who && !seen.has(pair)) fits++;
		seen.add(pair);
	}
	return known >= ROWS_LEAST && fits >= known * NEARLY_ALL;
}
const ROWS_LEAST = 12;

/** What a list's rows have in a column, by their key. */
function valuesBy({ key }: Reference, column: SheetColumn, tables: readonly Table[]): Map<string | number, string> {
	return new Map(
		key.sheet.rows.flatMap((row): [string | number, string][] => {
			const [name, value] = [keyOf(key.column ? cell(row, key.column, tables) : row.rowid), cell(row, column, tables)];
			return name !== null && typeof value === 'string' && value !== '' ? [[name, value]] : [];
		})
	);
}
