/** Harvest: a file's bytes become rows. Each format has a folder; this is their whole public face. */
export type { AccountLine, Harvested, Progress, Rows } from './harvested';
export { StoreHarvest } from './sqlite/harvest';
export { LevelHarvest } from './leveldb/harvest';
export { partNamed, partsOf } from './leveldb/parts';
export {
	ExportHarvest,
	FILE_COLUMN,
	filesWithin,
	openExport,
	openText,
	openFurtherPage,
	openSheet,
	titleOf as titleOfFile,
	type Mail
} from './exported/exported';
export { dayInName } from './exported/day-of-log';
export { hasMagic } from './sqlite/header';
export { readJournal, sampleSum } from './sqlite/journal';
export { walChecksum, WAL_FRAME_HEADER, WAL_HEADER } from './sqlite/wal';
export type { StoreFiles } from './sqlite/database';
export { agrees, isSameButForItsEnd, sameValue } from './compare';
export { addSighting, betterGrade, betterStanding, type KeptTaker } from './rowbook';
export { byteOffsets, sizeIn, textEncodingOf, wholeText, type TextEncoding } from './exported/lines';
export type { Tree } from './exported/tree';
export type { Item } from './exported/items';
export { readHtml } from './exported/html';
export { readXml } from './exported/xml';
export { jsonTrees } from './exported/json';
export { openSerial, SERIALS, type Serial } from './serial';
export { isRichText, richText } from './exported/rich-text';
export { textOfOpenDocument, textOfWord } from './exported/text-document';
export { yamlTrees } from './exported/yaml';
export { findStamp, readDates, stampTime, type DateOrder, type DateReading } from './exported/stamps';
export { HEADING_FIELD } from './exported/html';
export type { Sides as PageSides } from './exported/page-sides';
export { textOfHtml } from './exported/markup';
export type { CellRow } from './exported/csv';
export {
	dateStyles,
	isFrom1904,
	rowsOfSheet,
	sharedStrings,
	sheetsOfWorkbook,
	tablesOfDocument,
	worksheetsOf
} from './exported/spreadsheet';
export { beginningOf, bytesIn, joinedBytes, wholeBytes } from './large';
export { plainColumn, plainTable } from './plain-table';
export { plainRow } from './row';
export { withBook, withoutRows, withTables } from './opened';
