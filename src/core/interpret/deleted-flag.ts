/** What a store itself marks deleted and keeps all the same: messages, and persons of its address book. */
import { addressShare } from './columns';
import type { Row, Table } from '../model';
import type { Context } from './context';
import type { PersonEntries } from './person-entries';
import type { DeletedPersons, MessageReading, PersonReading } from './reading';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

/** Names that speak of what was deleted and is kept. */
export const DELETED_NAMED =
	/delet|trash|recycl|remov|revok|unsent|(^|_)bin(ned)?(_|$)|tomb|gone|hidden|gel[oö]e?scht|papierkorb|supprim|corbeille|elimin|borrad(?!or)|papelera|cestino|exclu[ií]d|lixeira|verwijder|prullen|удал/i;

/** A flag by whose name, or a state by whose words, the store marks messages deleted but kept. Only words say so; numbers alone never do. */
export const findDeletedFlag = (m: MessageReading, { tables }: Context): MessageReading['deleted'] =>
	deletedByName(m.sheet, [m.text.value, m.time?.value], tables) ?? deletedByWord(m, tables);

/** Whether a row is one that the store marks deleted. */
export function isMarkedDeleted({ deleted }: MessageReading, row: Row, tables: readonly Table[]): boolean {
	if (!deleted) return false;
	const { column, values, isAny } = deleted.value;
	const mark = keyOf(cell(row, column, tables));
	return mark !== null && (isAny ? mark !== 0 : values.includes(mark));
}

/** What says that something is not. */
const NOT = /^(?:0|no?|f|false|falso|faux|nein|nee|non|nie|nej|não|нет|-)$/i;

/** A column called for deletion that marks some of the rows. `taken`: columns that say something else. */
function deletedByName(sheet: Sheet, taken: readonly (SheetColumn | undefined)[], tables: readonly Table[]): MessageReading['deleted'] {
	for (const column of sheet.columns) {
		if (!DELETED_NAMED.test(column.name) || taken.includes(column)) continue;
		const p = column.profile;
		if (p.time || (p.ints > 0 && p.distinct.size > 8)) {
			return { value: { column, values: [], isAny: true }, confidence: 0.7, evidence: ['its name says deletion and its values are times'] };
		}
		// Whoever is named there is no mark.
		if (p.distinct.size > 4 || p.uuid > 0.5 || addressShare(column) > 0.4) continue;
		const marked = [...p.distinct.keys()].filter((v) => v !== 0 && !NOT.test(String(v)));
		const share = shareMarked(sheet, column, marked, tables);
		if (marked.length > 0 && share < 0.6)
			return {
				value: { column, values: marked },
				confidence: 0.7,
				evidence: ['its name says deletion', `${Math.round(share * 100)} % of the rows in use are so marked`]
			};
	}
	return null;
}

/** A state or a folder of which one is called for deletion. */
function deletedByWord({ sheet, text }: MessageReading, tables: readonly Table[]): MessageReading['deleted'] {
	for (const column of sheet.columns) {
		const p = column.profile;
		if (column === text.value || p.texts === 0 || p.many || p.distinct.size > MOST_STATES || p.averageLength > LONGEST_STATE) continue;
		// A kind of row can be called so: that somebody was removed from a group.
		if (KIND_NAMED.test(column.name)) continue;
		const marked = [...p.distinct.keys()].filter((v) => DELETED_WORD.test(String(v)));
		const share = shareMarked(sheet, column, marked, tables);
		if (marked.length > 0 && share < 0.6)
			return {
				value: { column, values: marked },
				confidence: 0.7,
				evidence: [`it says ${marked.join(', ')} of ${Math.round(share * 100)} % of the rows in use`]
			};
	}
	return null;
}
const KIND_NAMED = /type|kind|event|action/i;
const MOST_STATES = 16;
const LONGEST_STATE = 24;
export const DELETED_WORD =
	/^(?:in[ _-]?)?(?:the[ _-]?)?(?:deleted|removed|trash(?:ed)?|(?:recycle[ _-]?)?bin(?:ned)?|rubbish|gel[öo]e?scht|papierkorb|supprim[ée]e?|corbeille|eliminado|borrado|papelera|eliminat[oi]|cestino|verwijderd|prullenbak|exclu[íi]do|lixeira)(?:[ _-]?(?:items?|messages?|folder))?$/i;

/** Share of a sheet's rows in use that have one of some values. */
function shareMarked(sheet: Sheet, column: SheetColumn, marked: readonly (string | number)[], tables: readonly Table[]): number {
	const kept = sheet.rows.filter((r) => r.standing === 'kept');
	return kept.filter((r) => marked.includes(keyOf(cell(r, column, tables)) ?? '')).length / Math.max(1, kept.length);
}

/**
 * Whom an address book marks deleted: by a flag in the persons' own rows, or in those that entries are joined to. What is
 * called hidden is only not shown.
 */
export function findDeletedPersons(
	persons: readonly PersonReading[],
	entries: readonly PersonEntries[],
	context: Context
): DeletedPersons[] {
	const { tables, references } = context;
	const flagIn = (sheet: Sheet, taken: readonly SheetColumn[]): Omit<DeletedPersons, 'sheet' | 'via'> | null => {
		const found = deletedByName(sheet, [...taken, ...sheet.columns.filter((c) => /hidden|gone/i.test(c.name))], tables);
		return found && found.value;
	};
	const own = persons.flatMap(({ sheet, names, addresses }): DeletedPersons[] => {
		const flag = flagIn(sheet, [...names, ...addresses]);
		return flag ? [{ sheet, via: null, ...flag }] : [];
	});
	const joined = entries.flatMap(({ sheet, owner, value }): DeletedPersons[] => {
		const flag = flagIn(sheet, [owner, value]);
		if (flag) return [{ sheet, via: null, ...flag }];
		const keys = (references.get(sheet) ?? []).filter((r) => r.from === owner && r.key.sheet !== sheet).map((r) => r.key);
		return keys.flatMap((key): DeletedPersons[] => {
			const beyond = flagIn(key.sheet, []);
			return beyond ? [{ sheet, via: { column: owner, key }, ...beyond }] : [];
		});
	});
	return [...own, ...joined.slice(0, 1)];
}
