/**
 * The record as CSV: RFC 4180 (fields quoted where needed, doubled quotes, CRLF), UTF-8 with a byte order mark so that
 * spreadsheets read it as such. A cell that a spreadsheet would run as a formula gets an apostrophe in front.
 */
import Papa from 'papaparse';
import { METHOD_WORDS } from '../wording';
import type { Method } from '../model';
import type { BundleRecord } from './record';
import { writtenTime } from './times';
import { writerOf } from './writer';
import { writtenText } from './written';

const HEAD = [
	'thread',
	'date',
	'time',
	'zone',
	'utc',
	'writer',
	'address',
	'direction',
	'text',
	'complete',
	'standing',
	'grade',
	'table',
	'record',
	'seen in',
	'how',
	'offset',
	'length',
	'other sightings',
	'message id',
	'earlier wording of'
];

/** First characters that make a spreadsheet run a cell, also behind blanks. */
const FORMULA = /^[\s\u00a0]*[=+\-@\uff0b\uff0d\uff1d\uff20|%]/;

const harmless = (cell: string): string => (FORMULA.test(cell) || /^[\t\r\n]/.test(cell) ? `'${cell}` : cell);

export function recordCsv(record: BundleRecord): string {
	const rows: string[][] = [HEAD];
	for (const thread of record.threads) {
		for (const m of thread.messages) {
			const at = m.sentAt === null ? null : writtenTime(m.sentAt, record.zone);
			const [first, ...others] = m.sightings;
			rows.push(
				[
					thread.title,
					at?.date ?? '',
					at?.time ?? '',
					at ? `${at.offset}${m.zoned ? '' : ' (source states no zone)'}` : '',
					m.sentAt === null ? '' : new Date(m.sentAt).toISOString(),
					writerOf(m, record.owner),
					m.correspondent ?? '',
					m.direction === 'out' ? 'sent' : m.direction === 'in' ? 'received' : 'not known',
					writtenText(m) ?? '',
					m.text === null ? 'no text' : m.textRest ? 'part gone in the middle' : m.textCut ? 'beginning only' : 'yes',
					m.standing,
					m.grade,
					m.table,
					m.record === null ? '' : String(m.record),
					first?.path ?? '',
					first ? (METHOD_WORDS[first.method as Method] ?? first.method) : '',
					first ? String(first.offset) : '',
					first ? String(first.length) : '',
					String(others.length),
					m.id,
					m.earlierWordingOf ?? ''
				].map(harmless)
			);
		}
	}
	return `\ufeff${Papa.unparse(rows, { newline: '\r\n' })}\r\n`;
}
