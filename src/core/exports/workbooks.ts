/** Spreadsheets: the sheets of one that are made alike are conversations of one export, the others are lists beside it. */
import {
	dateStyles,
	isFrom1904,
	openSheet,
	rowsOfSheet,
	sharedStrings,
	sheetsOfWorkbook,
	tablesOfDocument,
	textEncodingOf,
	titleOfFile,
	wholeText,
	worksheetsOf,
	type CellRow
} from '../harvest';
import { cardsOfSheet } from '../books';
import { brokeOff } from '../broke-off';
import { readRecords } from '../interpret';
import type { Note } from '../model';
import type { Card } from '../people';
import type { GivenFile } from '../unwrap';
import type { Found } from './pages';

/** Bytes of one part, at most. */
const LARGEST = 64 << 20;
const WORKBOOK = '/xl/workbook.xml';
const DOCUMENT = '/content.xml';
const DOCUMENT_TYPE = 'application/vnd.oasis.opendocument.spreadsheet';

interface Book {
	file: number;
	cards: Card[];
}

interface Sheet {
	name: string;
	rows: CellRow[];
	text: string;
	/** The file in which its rows stand. */
	part: number;
}

/** The spreadsheets that hold messages, those with persons, and the files that are parts of any. */
export function findWorkbooks(files: readonly GivenFile[]): { found: Found[]; books: Book[]; parts: Set<number>; notes: Note[] } {
	const at = new Map(files.map((f, i) => [f.path, i]));
	const textAt = (path: string): string => {
		const file = files[at.get(path) ?? -1];
		return file && file.source.size <= LARGEST ? textOf(file) : '';
	};
	const found: Found[] = [];
	const books: Book[] = [];
	const parts = new Set<number>();
	const read = (file: number, base: string, sheets: Sheet[]): void => {
		if (base !== '') for (const [i, { path }] of files.entries()) if (path.startsWith(`${base}/`)) parts.add(i);
		const one = exportOf(file, sheets, files);
		if (one) found.push(one.found);
		for (const sheet of sheets) {
			if (sheet.name === one?.main) continue;
			const { source } = files[sheet.part]!;
			const cards = cardsOfSheet(sheet.rows, sheet.text, source.read(0, source.size));
			if (cards.length > 0) books.push({ file: sheet.part, cards });
		}
	};
	const notes: Note[] = [];
	for (const [i, file] of files.entries()) {
		if (file.source.size > LARGEST) continue;
		try {
			open(i, file);
		} catch (error) {
			notes.push(brokeOff(file.name, 'its beginning', error));
		}
	}
	return { found, books, parts, notes };

	function open(i: number, file: GivenFile): void {
		const { path, source } = file;
		if (path.endsWith(WORKBOOK)) {
			const base = path.slice(0, -WORKBOOK.length);
			const workbook = textOf(file);
			const shared = {
				strings: sharedStrings(textAt(`${base}/xl/sharedStrings.xml`)),
				dateStyles: dateStyles(textAt(`${base}/xl/styles.xml`)),
				from1904: isFrom1904(workbook)
			};
			const sheets = sheetsOfWorkbook(workbook, textAt(`${base}/xl/_rels/workbook.xml.rels`)).flatMap(({ name, path: part }): Sheet[] => {
				const text = textAt(`${base}/${part}`);
				return text === '' ? [] : [{ name, rows: rowsOfSheet(text, shared), text, part: at.get(`${base}/${part}`)! }];
			});
			read(at.get(base) ?? i, base, sheets);
		} else if (path.endsWith(DOCUMENT) && textAt(`${path.slice(0, -DOCUMENT.length)}/mimetype`).startsWith(DOCUMENT_TYPE)) {
			const base = path.slice(0, -DOCUMENT.length);
			const text = textOf(file);
			read(
				at.get(base) ?? i,
				base,
				tablesOfDocument(text).map((sheet) => ({ ...sheet, text, part: i }))
			);
		} else if (!file.opened && /\.(?:xml|xls|fods)$/i.test(path)) {
			const head = new TextDecoder().decode(source.read(0, 2000));
			const tables = /<(?:\w+:)?Workbook[\s>]/.test(head) ? worksheetsOf : /<office:document[\s>]/.test(head) ? tablesOfDocument : null;
			if (!tables) return;
			const text = textOf(file);
			parts.add(i);
			read(
				i,
				'',
				tables(text).map((sheet) => ({ ...sheet, text, part: i }))
			);
		}
	}
}

function textOf({ source }: GivenFile): string {
	const bytes = source.read(0, source.size);
	return wholeText(bytes, textEncodingOf(bytes) ?? 'utf8');
}

/** What a workbook's sheets say, and which of them is that of the messages. */
function exportOf(file: number, sheets: readonly Sheet[], files: readonly GivenFile[]): { found: Found; main: string } | null {
	const title = titleOfFile(files[file]!.path);
	const opened = sheets
		.flatMap(({ name, rows, text, part }) => {
			const harvest = openSheet(rows, sheets.length > 1 ? name : title, text, files[part]!.source, part);
			if (!harvest) return [];
			for (const step of harvest.run('used')) void step;
			return [{ name, harvest }];
		})
		.sort((a, b) => b.harvest.book.size - a.harvest.book.size);
	const [main, ...others] = opened;
	if (!main) return null;
	for (const { name, harvest } of others)
		if (!main.harvest.takeIn(harvest, true))
			main.harvest.takeTables(
				harvest,
				harvest.tables.flatMap((_, table) => (table === 0 ? [] : [table])),
				name,
				main.name
			);
	const reading = readRecords(main.harvest, { asked: [], title: '' });
	return reading ? { found: { file, harvest: main.harvest, reading }, main: main.name } : null;
}
