/** What a store's own settings say of whose it is: an account's number, a key of one's own. */
import type { Table, Value } from '../model';
import { keyOf } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

/** A table of settings has one row, or few columns with a key in each of some rows. */
const ROWS_AT_MOST = 500;
const COLUMNS_AT_MOST = 4;
const OWN =
	/^(?:own(?:er)?|self|me|my|mine|local|account|user|eigene?|konto|compte|cuenta)(?:_(?:user|account|own|my|self|contact|person|actor|member|participant|party|identity))?(?:_(?:id|uid|uuid|key|number|phone|msisdn|addr|address|email|mail|handle|jid|name|login|nummer|kennung|adresse|numero))?$/;

/** Words of a key in snake case. */
const snake = (key: string): string =>
	key
		.replace(/([a-z\d])([A-Z])/g, '$1_$2')
		.replace(/[\s.\-/:]+/g, '_')
		.toLowerCase()
		// The last user is another one, and so is one that was blocked.
		.replace(/^(?:active|app|configured|current|logged_in|login|pref|prefs|preferences|primary|profile|registered|session|settings?)_/, '');

/** Whether a key is called for the owner. */
export const isOwn = (key: string): boolean => key.length < LONGEST && OWN.test(snake(key));
const LONGEST = 60;
/** A word of its own says so of a number, an address or a key, and a small number is a count sooner. */
const A_WORD = /^[a-z]+$/;
const KEY_LEAST = 4;

/** Words without blanks, each once: what somebody wrote is none. */
const areKeys = ({ profile: p }: SheetColumn): boolean =>
	p.texts > 0 && p.texts === p.filled && p.unique && p.prose === 0 && [...p.distinct.keys()].every((key) => !/\s/.test(String(key)));

/** Whether a value under a key can be what the owner is called by. */
const canBeOwner = (key: string, value: Value | undefined): value is string | number =>
	(typeof value === 'string' || typeof value === 'number') && (String(value).length >= KEY_LEAST || !A_WORD.test(snake(key)));

/** Values that settings have under a key for the owner. */
export function ownersInSettings(sheets: readonly Sheet[], tables: readonly Table[]): (string | number)[] {
	const found: (string | number)[] = [];
	const take = (key: string, value: Value | undefined): void => {
		if (canBeOwner(key, value)) found.push(value);
	};
	for (const sheet of sheets) {
		const rows = sheet.rows.filter((row) => row.standing === 'kept');
		const columns = sheet.columns.filter((c) => c.column >= 0 && !c.made && !c.body && c.path.length === 0);
		if (sheet.family || rows.length > ROWS_AT_MOST) continue;
		// Of several rows each has its own; a list of persons blocked can have one.
		const told =
			rows.length === 1 && !ROOM.test(sheet.name) ? columns.filter((one) => isOwn(one.name) && !/^user/.test(snake(one.name))) : [];
		for (const c of told) take(c.name, cell(rows[0]!, c, tables));
		if (rows.length === 1 && ACCOUNT.test(sheet.name)) found.push(...accountIn(columns.map((c) => cell(rows[0]!, c, tables))));
		if (rows.length === 1 && columns.length <= COLUMNS_AT_MOST && SELF.test(sheet.name))
			for (const c of columns) {
				const value = cell(rows[0]!, c, tables);
				if (typeof value === 'number' && Number.isInteger(value) && KEY_NAMED.test(snake(c.name))) found.push(value);
			}
		if (rows.length === 1 && LOGIN.test(sheet.name))
			for (const c of columns) {
				const value = cell(rows[0]!, c, tables);
				const isKey = typeof value === 'string' || typeof value === 'number';
				if (isKey && WHOSE.test(snake(c.name)) && !isOwnNumber(c, sheet, tables)) found.push(value);
			}
		const key = columns.length <= COLUMNS_AT_MOST ? columns.find(areKeys) : undefined;
		if (!key) continue;
		for (const row of rows) {
			const called = String(cell(row, key, tables));
			if (isOwn(called)) for (const c of columns) if (c !== key && !isOwnNumber(c, sheet, tables)) take(called, cell(row, c, tables));
		}
	}
	return found;
}

const ACCOUNT = /^(?:my_?|own_?|user_?|local_?)?(?:account|konto|compte|cuenta|me|self|identity)s?(?:_?info)?$/i;

/** A table of nothing but who one is oneself, and what a column with somebody's key is called. */
const SELF = /^(?:my_?|own_?|local_?)?(?:me|self|myself|identity)$/i;
const KEY_NAMED = /^(?:.*_)?(?:id|uid|member|person|user|contact|party|participant|who|ref)$/;

/** A room has an owner who is anybody. */
const ROOM = /gr(?:ou)?p|room|chat|conv|thread|channel|circle|dialog|talk/i;

/** A table of who is logged in, and what a column with his key is called. */
const LOGIN = /^(?:app_?|user_?|current_?)?(?:auth|credential|login|session)s?$/i;
const WHOSE = /^(?:uid|(?:user|person|member|contact|account)(?:_?(?:id|uid|uuid|key))?)$/;

/** What the one account is called by: its texts, and where name and server stand apart what they are together. */
function accountIn(values: readonly (Value | undefined)[]): string[] {
	const texts = values.filter((v): v is string => typeof v === 'string' && v.length >= KEY_LEAST && v.length < LONGEST && !/\s/.test(v));
	const hosts = texts.filter((text) => HOST.test(text));
	return [
		...texts,
		...texts.flatMap((name) => (name.includes('@') ? [] : hosts.filter((host) => host !== name).map((host) => `${name}@${host}`)))
	];
}
const HOST = /^[a-z\d-]+(?:\.[a-z\d-]+)+$/i;

/** The one value of a column of writers that the settings have; null where they have none or several. */
export function ownerBySettings(
	column: SheetColumn,
	sheet: Sheet,
	stated: readonly (string | number)[],
	tables: readonly Table[]
): string | number | null {
	const forms = new Set(stated.map(String));
	const met = new Set<string | number>();
	for (const row of sheet.sure) {
		const value = keyOf(cell(row, column, tables));
		if (value !== null && forms.has(String(value))) met.add(value);
	}
	return met.size === 1 && column.profile.distinct.size > 1 ? [...met][0]! : null;
}
