/** All words for typed codes in one place: notes, methods, standings, grades. Plain, no blame, no promise. */
import type { Grade, Method, Note, NoteCode, Reach, Standing } from './model';

export const STANDING_LETTER: Record<Standing, string> = { kept: 'K', binned: 'B', dropped: 'D', remnant: 'R' };

export const STANDING_WORDS: Record<Standing, string> = {
	kept: 'in use in the store',
	binned: 'in the store, marked deleted by the store itself',
	dropped: 'in use only in an earlier state: a log, a journal, an older copy',
	remnant: 'only in bytes that no state uses: freed cells and pages'
};

export const GRADE_WORDS: Record<Grade, string> = {
	whole: 'whole: every value, structure proven',
	rebuilt: 'rebuilt: its header was destroyed and was rebuilt from the shape of its table',
	fragment: 'fragment: only part of its values is left'
};

export const REACH_WORDS: Record<Reach, string> = {
	used: 'rows in use',
	logs: 'logs and journals',
	freed: 'freed space',
	raw: 'raw bytes'
};

export const METHOD_WORDS: Record<Method, string> = {
	'row-in-use': 'row in use',
	'freed-cell': 'freed cell on a page in use',
	'freed-page': 'cell on a freed page',
	'earlier-page': 'page of the file that its log replaces',
	'log-frame': 'frame of the log',
	'journal-page': 'page of the journal',
	'index-entry': 'entry of an index',
	'text-index': 'entry of a text index',
	history: 'history kept by the store',
	preview: 'text that a list beside the messages shows',
	'overflow-page': 'overflow page left behind',
	'store-log': 'entry of the store’s log of writes',
	'store-table': 'entry of a table file of the store',
	exported: 'entry of an exported file',
	'raw-bytes': 'raw bytes'
};

const NOTE_WORDS: Record<NoteCode, string> = {
	'header-missing': 'The database header is gone. The pages were read as {used} bytes each, as their own contents say.',
	'header-lies': 'The database header states a page size of {stored} bytes, which its pages contradict. They were read as {used} bytes.',
	'file-cut': 'The database should have {pages} pages; the file holds {there}. What is there was read.',
	'page-unreadable': 'Page {page} is not what the page that points to it says. It was passed over.',
	'page-visited-twice': 'Page {page} is pointed to twice. The second pointer was not followed.',
	'page-out-of-range': 'Page {page} does not exist in the file. What should lie below it was passed over.',
	'cell-damaged': 'Cell {cell} on page {page} is damaged and was passed over.',
	'overflow-broken': 'The rest of a long value of page {page} is gone. Its beginning was kept as a fragment.',
	'schema-damaged': 'The list of tables could not be read. Tables were told from their rows; their names are lost.',
	'table-unreadable': 'The table {table} has a declaration that could not be read. Its rows were passed over.',
	'log-foreign': 'The log beside the database does not belong to it. The database was read without it.',
	'log-damaged': 'The header of the log is damaged. Its pages were looked through, but not taken as the present state.',
	'log-older-generation': 'The log holds {frames} frames of an earlier generation. They were looked through.',
	'log-uncommitted': 'The log holds {frames} frames that were never committed. They were looked through.',
	'journal-foreign': 'The journal beside the database does not belong to it. The database was read without it.',
	'journal-hot': 'An unfinished change was undone in memory, as the engine would: {pages} pages come from the journal.',
	'journal-past': 'The journal holds {pages} pages from before the last changes. They were looked through.',
	'no-messages-found': '{store}: no table reads as messages.',
	'no-messages-in-several':
		'In {count} databases no table reads as messages: {stores}. How the stores were read says of each table what speaks against it.',
	'no-residue': '{store}: nothing deleted is left in it. Free space, logs and journals were looked through.',
	'store-broke-off':
		'{store}: the look at it broke off at {doing} ({problem}). What was found in it until then is shown; what else it holds is not accounted for. The other stores are not affected.',
	'store-part-missing':
		'{count} table files that the store lists are not among what was given (number {files}). What they hold is not accounted for. Give the whole folder.',
	'values-shortened': '{name} holds more than can be kept at once: of its longest values only the beginnings were read.',
	'code-page': '{name} does not say in which code page it is written. By its letters it is {page}, and is read so.',
	'export-cut': '{name} breaks off. What is there was read; its last message may be a part, and is shown as one.',
	'export-damaged':
		'{name} is damaged at byte {place}. What stands before and behind it was read as far as it can be; what is damaged is shown as a part.',
	'file-gone': '{name} could not be read: it was moved, changed or unplugged since it was given. The rest was read.',
	'not-a-database': '{name} is not a database that can be read here. If it is a backup, an archive or locked, unpack or unlock it first.',
	'empty-file': '{name} is empty.',
	'limit-reached': '{name} was passed over: {what}.',
	'encrypted-or-foreign': '{name} looks encrypted: its bytes show no structure.',
	'side-file-alone': '{name} was given without its database. Give both together.',
	'archive-cut': '{name} is cut or damaged. What can be read of it was read.',
	'entry-damaged': '{name} cannot be unpacked and was passed over.',
	locked: '{name} is locked. Give its passphrase to read it.',
	'wrong-passphrase': 'No passphrase given opens {name}. Nothing of it was read.',
	'same-name': 'Two files are called {name}. They are told apart by their folders.'
};

export const describeNote = (note: Note): string =>
	NOTE_WORDS[note.code].replace(/\{(\w+)\}/g, (_, key: string) => String(note.detail?.[key] ?? '?'));

/** A clock's difference in words, to the second; up to two minutes count as one given in whole minutes. */
function clockWords(ms: number): string {
	const seconds = Math.round(Math.abs(ms) / 1000);
	if (seconds < 60) return seconds === 0 ? 'the clocks agree' : `its clock is ${seconds} s ${ms > 0 ? 'ahead' : 'behind'}`;
	const minutes = Math.round(seconds / 60);
	const hours = Math.floor(minutes / 60);
	const words = hours > 0 ? `${hours} h${minutes % 60 ? ` ${minutes % 60} min` : ''}` : `${minutes} min`;
	return `its clock is ${words} ${ms > 0 ? 'ahead' : 'behind'}`;
}

/** How a second copy of a thread compares with the first, in a clause. */
export function describeSides(s: {
	otherSide: boolean;
	both: number;
	onlyThere: number;
	onlyHere: number;
	differing: number;
	clock: number;
}): string {
	const parts = [`${s.both} in both`, `${s.onlyThere} only there`, `${s.onlyHere} only here`];
	if (s.differing > 0) parts.push(`${s.differing} worded differently`);
	return `${s.otherSide ? 'the other side’s copy' : 'another copy'}: ${parts.join(', ')}; ${clockWords(s.clock)}`;
}
