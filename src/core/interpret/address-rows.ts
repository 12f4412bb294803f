/**
 * Tables in which each message has a row for everybody it was from and to, as mail has: the messages get columns that
 * say who wrote, and who all take part.
 */
import type { Row, Table } from '../model';
import { addressShare, bestText, bestTime } from './columns';
import type { Context } from './context';
import { EMAIL, PHONE } from './profile';
import { isDeclared, isNamedAlike, keyOf, type Reference } from './refs';
import { addColumn, rowsByMessage, type RowsOfMessages } from './rows-of-messages';
import { cell, isOwnNumber, type Made, type Sheet, type SheetColumn } from './sheet';
import { looksLikeThreads } from './threads';

/** Share of a list's rows whose message must be known, and of the messages that must have one writer. */
const KNOWN = 0.5;
const ONE_EACH = 0.95;
const NAMED_ONCE = 0.6;
const MOST_ROLES = 8;
const PROSE = 0.5;
const FROM_WORD = /^(from|sender|author|originator|von|absender|de|exp[ée]diteur|remitente|mittente|van|afzender|från|avsender)$/i;
/** The number of the field "From" where a message's header is written in numbers (OMA-TS-MMS-ENC, section 7.4, table 25). */
const FROM_FIELD = 0x89;

interface AddressRows extends RowsOfMessages {
	address: SheetColumn;
	role: { column: SheetColumn; from: string | number } | null;
}

/** Adds to sheets of messages what other sheets list of who they are from and to; those others. `persons`: what lists those. */
export function openAddressRows(context: Context, persons: ReadonlySet<Sheet>): Set<Sheet> {
	const lists = new Set<Sheet>();
	for (const list of context.sheets) {
		const found = addressRowsOf(list, context);
		if (!found || persons.has(found.messages)) continue;
		lists.add(list);
		const rows = rowsByMessage(found, context.tables);
		const add = (name: string, made: Made): void => addColumn(found, name, made, context.tables);
		const { role, address } = found;
		const addresses = (of: readonly Row[]): string[] =>
			of.map((r) => cell(r, address, context.tables)).filter((a) => typeof a === 'string');
		if (role) {
			const isFrom = (r: Row): boolean => keyOf(cell(r, role.column, context.tables)) === role.from;
			add(`${list.name}.${address.name} (${String(role.from)})`, { read: (row) => addresses(rows(row).filter(isFrom))[0], writer: true });
		}
		// Where the store lists its conversations, those say who takes part.
		if (!hasThreads(found.messages, context))
			add(`${list.name}.${address.name}`, { read: (row) => [...new Set(addresses(rows(row)))].sort().join(',') || undefined });
	}
	// What names a row of such a list by its number is named by chance.
	for (const [sheet, refs] of context.references) {
		const meant = refs.filter((r) => !lists.has(r.key.sheet) || r.key.column !== null);
		refs.splice(0, refs.length, ...(lists.has(sheet) ? refs : meant));
	}
	return lists;
}

function addressRowsOf(list: Sheet, context: Context): AddressRows | null {
	if (list.family || bestTime(list, context.tables)) return null;
	const address = list.columns.find((c) => c.column >= 0 && c.profile.texts > 0 && (addressShare(c) > 0.8 || isOwnOrAddress(c)));
	if (!address) return null;
	const link = (context.references.get(list) ?? []).find((r) => r.from !== address && namesMessages(r, list, context));
	if (!link) return null;
	const own = { list, messages: link.key.sheet, key: link.from, own: link.key.column, address };
	return { ...own, role: roleIn(own, context.tables) };
}

/** Addresses, and one and the same word for the owner's own. */
const isOwnOrAddress = (c: SheetColumn): boolean =>
	addressShare(c) >= OF_OTHERS &&
	[...c.profile.distinct.keys()].filter((v) => !PHONE.test(String(v)) && !EMAIL.test(String(v))).length === 1;
const OF_OTHERS = 0.4;

/** Whether a reference names messages, several rows the same one. */
function namesMessages({ from, key, confidence, coverage }: Reference, list: Sheet, context: Context): boolean {
	const { tables } = context;
	if (confidence < 0.6 || coverage < KNOWN || from.profile.unique || isOwnNumber(from, list, tables)) return false;
	const { sheet } = key;
	const text = bestText(sheet)?.value;
	// Persons have a time of their own too, and names for a text.
	if (sheet.family || !bestTime(sheet, tables) || !text || text.profile.prose < PROSE || hasItsOwn(sheet, context)) return false;
	// Messages that state an address themselves need none from elsewhere.
	return sheet.sure.length < list.sure.length && !sheet.columns.some((c) => addressShare(c) > 0.4);
}

/** Whether the schema says that rows with writing and a time are a sheet's, several each one's: conversations, and no messages. */
const hasItsOwn = (sheet: Sheet, { sheets, references, tables }: Context): boolean =>
	sheets.some(
		(s) =>
			s !== sheet &&
			(references.get(s) ?? []).some((r) => r.key.sheet === sheet && isDeclared(r, tables) && !r.from.profile.unique) &&
			bestTime(s, tables) !== null &&
			(bestText(s)?.value.profile.prose ?? 0) >= PROSE
	);

/** The column that says which of a message's rows is its writer's: one value stands once in (nearly) every message. */
function roleIn({ list, key, address }: Omit<AddressRows, 'role'>, tables: readonly Table[]): AddressRows['role'] {
	for (const column of list.columns) {
		const p = column.profile;
		if (
			column === key ||
			column === address ||
			column.column < 0 ||
			p.many ||
			p.time ||
			p.distinct.size < 2 ||
			p.distinct.size > MOST_ROLES
		)
			continue;
		const counts = new Map<string | number, Map<string | number, number>>();
		const messages = new Set<string | number>();
		for (const row of list.sure) {
			const message = keyOf(cell(row, key, tables));
			const value = keyOf(cell(row, column, tables));
			if (message === null || value === null) continue;
			messages.add(message);
			const of = counts.get(value) ?? new Map<string | number, number>();
			counts.set(value, of.set(message, (of.get(message) ?? 0) + 1));
		}
		const shareOf = (of: ReadonlyMap<string | number, number>): number => [...of.values()].filter((n) => n === 1).length / messages.size;
		const shares = [...counts].map(([value, of]) => ({ value, share: shareOf(of) }));
		// A word for it says it, though what was lost may have left rows of another message under the same number.
		const named = shares.find(({ value, share }) => (value === FROM_FIELD || FROM_WORD.test(String(value))) && share >= NAMED_ONCE);
		const once = shares.filter(({ share }) => share >= ONE_EACH);
		const from = named?.value ?? (once.length === 1 ? once[0]!.value : undefined);
		if (from !== undefined) return { column, from };
	}
	return null;
}

/** Whether a column of the messages names conversations that have a list of their own. */
export const hasThreads = (messages: Sheet, context: Context, except: Sheet | null = null): boolean =>
	(context.references.get(messages) ?? []).some(
		(r) =>
			r.confidence > 0.6 &&
			r.key.sheet !== except &&
			// What hardly a message names is a file sent with it, or the like.
			r.from.profile.filled >= messages.sure.length * IN_MANY &&
			isNamedAlike(r.from, r.key.sheet) &&
			looksLikeThreads(r.key.sheet, context)
	);
const IN_MANY = 0.2;
