/**
 * Several accounts of the owner in one store, each with its own conversations: a short list of them, and beside each
 * message and conversation the key of the one it belongs to. They are nobody one talks with, and part no conversation.
 */
import { addressShare } from './columns';
import type { Context } from './context';
import { ACCOUNTS_AT_MOST } from './flagged-owner';
import { normalAddress } from './people';
import { isNamedAlike, keyOf, type Reference } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

const ROWS = 3000;
const ROWS_LEAST = 6;
const NEARLY_ALL = 0.95;
const ACCOUNTS_NAMED = /(?:^|[_.])(?:my|own|user|local)?_?(?:account|konto|konten|compte|cuenta)s?$/i;

/** Leaves the keys of accounts out of what sheets name; what the accounts are called by, as they stand in the store. */
export function leaveOutAccounts(context: Context): string[] {
	const { sheets, references, tables } = context;
	const found: string[] = [];
	for (const list of sheets) {
		const addresses = addressesOf(list);
		if (!canBeAccounts(list) || (addresses.length === 0 && !ACCOUNTS_NAMED.test(list.name))) continue;
		const naming = sheets.flatMap((sheet) => (references.get(sheet) ?? []).flatMap((r) => (isOfAll(r, list, sheet) ? [{ sheet, r }] : [])));
		if (!naming.some(({ sheet, r }) => partsWhole(sheet, r, list, context) && isOwn(sheet, r, addresses, context))) continue;
		for (const { sheet, r } of naming) dropOf(references.get(sheet)!, r.from);
		for (const refs of references.values()) dropTo(refs, list);
		const named = addresses.flatMap((c) => list.rows.map((row) => cell(row, c, tables)));
		found.push(...named.filter((value): value is string => typeof value === 'string'));
	}
	return found;
}

const dropOf = (refs: Reference[], from: SheetColumn): void => leave(refs, (r) => r.from !== from);
const dropTo = (refs: Reference[], list: Sheet): void => leave(refs, (r) => r.key.sheet !== list);
const leave = (refs: Reference[], isLeft: (r: Reference) => boolean): void => void refs.splice(0, refs.length, ...refs.filter(isLeft));

const canBeAccounts = ({ family, sure }: Sheet): boolean => !family && sure.length > 1 && sure.length <= ACCOUNTS_AT_MOST;

/** Numbers and addresses, one of its own in each row of a list. */
function addressesOf(list: Sheet): SheetColumn[] {
	const { length } = list.sure;
	return list.columns.filter(
		(c) => c.column >= 0 && addressShare(c) > NEARLY_ALL && c.profile.filled === length && c.profile.distinct.size === length
	);
}

/** Whether (nearly) every row of a sheet names one of the list, and several the same. */
const isOfAll = ({ key, from, inclusion }: Reference, list: Sheet, sheet: Sheet): boolean =>
	key.sheet === list &&
	sheet !== list &&
	inclusion > NEARLY_ALL &&
	sheet.sure.length >= ROWS_LEAST &&
	from.profile.filled >= sheet.sure.length * NEARLY_ALL &&
	from.profile.distinct.size > 1;

/** Of a lost row one value can be another row's. */
const inUse = ({ sure }: Sheet): Sheet['sure'] => sure.filter(({ standing }) => standing === 'kept').slice(0, ROWS);

/** Whether another column's values (conversations), more than there are accounts, belong to one account each. */
function partsWhole(sheet: Sheet, { from }: Reference, list: Sheet, { references, tables }: Context): boolean {
	const rows = inUse(sheet);
	const isWhole = (c: SheetColumn): boolean => {
		const accounts = new Map<string | number, string | number | null>();
		for (const row of rows) {
			const [value, account] = [keyOf(cell(row, c, tables)), keyOf(cell(row, from, tables))];
			if (value === null) continue;
			if ((accounts.get(value) ?? account) !== account) return false;
			accounts.set(value, account);
		}
		return accounts.size > from.profile.distinct.size && accounts.size < rows.length / 2;
	};
	return (references.get(sheet) ?? []).some((r) => r.from !== from && r.key.sheet !== list && !r.from.profile.unique && isWhole(r.from));
}

/**
 * Whether accounts are the owner's: where one of their addresses stands in a row, it is that of the account which the row
 * names, and rows of others have other addresses. Without such a column both are called so, and others are listed elsewhere.
 */
function isOwn(sheet: Sheet, { from, key }: Reference, addresses: readonly SheetColumn[], context: Context): boolean {
	const { tables } = context;
	const forms = (row: Sheet['rows'][number]): string[] => addresses.map((c) => normalAddress(String(cell(row, c, tables))));
	const own = new Map(
		key.sheet.rows.map((row) => [keyOf(key.column ? cell(row, key.column, tables) : row.rowid), new Set(forms(row))] as const)
	);
	const all = new Set([...own.values()].flatMap((set) => [...set]));
	const isBeside = (c: SheetColumn): boolean => {
		let [its, anothers, others] = [0, 0, 0];
		for (const row of inUse(sheet)) {
			const value = cell(row, c, tables);
			if (typeof value !== 'string' || value === '') continue;
			const form = normalAddress(value);
			if (!all.has(form)) others++;
			else if (own.get(keyOf(cell(row, from, tables)))?.has(form)) its++;
			else anothers++;
		}
		return its >= ROWS_LEAST && others >= ROWS_LEAST && anothers <= its * (1 - NEARLY_ALL);
	};
	const writers = sheet.columns.filter((c) => c !== from && c.column >= 0 && c.profile.texts > 0 && !c.profile.unique);
	if (writers.some((c) => addressShare(c) > 0.4 && isBeside(c))) return true;
	return ACCOUNTS_NAMED.test(key.sheet.name) && isNamedAlike(from, key.sheet) && othersAreListed(key.sheet, context);
}

/** Whether another sheet lists persons by names and addresses, and says nothing of those of this one. */
const othersAreListed = (accounts: Sheet, { sheets, references }: Context): boolean =>
	sheets.some((s) => {
		const isOfPersons = addressesOf(s).length > 0 && s.columns.some((c) => c.column >= 0 && c.profile.name > NAMED);
		return s !== accounts && isOfPersons && !(references.get(s) ?? []).some(({ key }) => key.sheet === accounts);
	});
const NAMED = 0.6;
