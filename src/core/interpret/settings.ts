/** What a store's own settings say of whose it is: an account's number, a key of one's own. */
import type { Table } from '../model';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

/** A table of settings has few rows, or few columns with a key in each row. */
const ROWS_AT_MOST = 500;
const COLUMNS_AT_MOST = 4;
const FEW_ROWS = 3;
const OWN =
	/^(?:own(?:er)?|self|me|my|mine|local|account|user|eigene?|konto|compte|cuenta)(?:_(?:user|account|own|my|self|contact|person))?(?:_(?:id|uid|uuid|key|number|phone|msisdn|address|email|mail|handle|jid|name|login|nummer|kennung|adresse|numero))?$/;

/** Words of a key in snake case. */
const snake = (key: string): string =>
	key
		.replace(/([a-z\d])([A-Z])/g, '$1_$2')
		.replace(/[\s.\-/:]+/g, '_')
		.toLowerCase()
		.replace(/^.*?_?(?=(?:own|self|my|me|local|account|user)(?:_|$))/, '');

const isOwn = (key: string): boolean => key.length < 60 && OWN.test(snake(key));

/** Words without blanks, each once: what somebody wrote is none. */
const areKeys = ({ profile: p }: SheetColumn): boolean =>
	p.texts > 0 && p.texts === p.filled && p.unique && p.prose === 0 && [...p.distinct.keys()].every((key) => !/\s/.test(String(key)));

/** Values that settings have under a key for the owner. */
export function ownersInSettings(sheets: readonly Sheet[], tables: readonly Table[]): (string | number)[] {
	const found: (string | number)[] = [];
	const take = (value: unknown): void => {
		if ((typeof value === 'string' && value.trim() !== '') || (typeof value === 'number' && value > 1)) found.push(value);
	};
	for (const sheet of sheets) {
		const rows = sheet.rows.filter((row) => row.standing === 'kept');
		const columns = sheet.columns.filter((c) => c.column >= 0 && !c.made && !c.body && c.path.length === 0);
		if (sheet.family || rows.length > ROWS_AT_MOST) continue;
		if (rows.length <= FEW_ROWS)
			for (const c of columns.filter((one) => isOwn(one.name))) for (const row of rows) take(cell(row, c, tables));
		const key = columns.length <= COLUMNS_AT_MOST ? columns.find(areKeys) : undefined;
		if (!key) continue;
		for (const row of rows.filter((one) => isOwn(String(cell(one, key, tables)))))
			for (const c of columns.filter((one) => one !== key)) take(cell(row, c, tables));
	}
	return found;
}

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
