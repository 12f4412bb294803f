/** Bundle: what the user picked becomes open formats with hashes. */
export { recordCsv } from './csv';
export { pageData, type PageData } from './pages';
export { recordSchema, type BundleRecord, type RecordMessage, type RecordThread } from './record';
export { TEMPLATE } from './template';
export { offsetsBetween, writtenTime } from './times';
export { sumsFile, SUMS_NAME } from './sums';
export { writerOf } from './writer';
export { lostBytes } from './written';
