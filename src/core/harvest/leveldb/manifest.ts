/**
 * LevelDB's manifest (its documentation, "impl"; `version_edit`): a log whose records say how the list of tables changed:
 * each a tag as a varint and what it states.
 *
 * | tag | states | | tag | states |
 * |---|---|---|---|---|
 * | 1 | name of the order of keys | | 6 | table that is gone: level, number |
 * | 2 | number of the log in use | | 7 | new table: level, number, size, first and last key |
 * | 3 | next number of a file | | 9 | number of the log before |
 * | 4 | number of the last write | | 5 | where compaction goes on: level, key |
 */
import { Cursor, type ByteSource } from '../../bytes';
import { logRecords } from './log';

export interface Manifest {
	/** Numbers of the tables in use. */
	tables: Set<number>;
	/** Logs from this number on are in use, and the one before. */
	log: number;
	logBefore: number;
	/** By what name the order of keys goes, which says whose keys they are. */
	order: string;
	lastSequence: number;
}

/** What a manifest states in the end; null where nothing in it can be read. */
export function readManifest(source: ByteSource): Manifest | null {
	const manifest: Manifest = { tables: new Set(), log: 0, logBefore: 0, order: '', lastSequence: 0 };
	let edits = 0;
	for (const record of logRecords(source)) {
		if (!record.isSound) continue;
		if (!applyEdit(manifest, new Cursor(record.data))) break;
		edits++;
	}
	return edits > 0 ? manifest : null;
}

/** Applies one record; false where it holds what is not known. */
function applyEdit(manifest: Manifest, edit: Cursor): boolean {
	while (edit.left > 0) {
		const tag = edit.varint();
		if (tag === 1) manifest.order = new TextDecoder().decode(edit.sized());
		else if (tag === 2) manifest.log = edit.varint();
		else if (tag === 3) edit.varint();
		else if (tag === 4) manifest.lastSequence = edit.varint();
		else if (tag === 5) {
			edit.varint();
			edit.sized();
		} else if (tag === 6) {
			edit.varint();
			manifest.tables.delete(edit.varint());
		} else if (tag === 7) {
			edit.varint();
			const number = edit.varint();
			edit.varint();
			edit.sized();
			edit.sized();
			manifest.tables.add(number);
		} else if (tag === 9) manifest.logBefore = edit.varint();
		else return false;
		if (edit.isPast) return false;
	}
	return true;
}
