/** What a backup states of itself beside its files, in property lists, JSON or tables of few rows: date, device, lock, part. */
import { hasMagic, type StoreHarvest } from '../../harvest';
import type { GivenFile } from '../gather';
import { isFields, readFields, type Fields } from './fields';

export interface Stated {
	/** When it was made, ms UTC. */
	date: number | null;
	device: string | null;
	/** What tells one device from another of the same name: its serial number, say. */
	serial: string | null;
	locked: boolean;
	/** It holds only what changed since the one before. */
	partial: boolean;
}

const NAME_KEY = /^(device|display)?[ _-]*name$|^device$/i;
const SERIAL_KEY = /serial|imei|udid|unique.?(device)?.?id|device.?id/i;
export const isDeviceKey = (key: string): boolean => /device.?name|^device$/i.test(key) || SERIAL_KEY.test(key);

/** That something was copied then: a program's own settings have dates too. */
export const COPIED_KEY = /back.?up|cop(?:y|ied)|\bmade|taken|captur|acqui|snapshot|finish|complet/i;
const MOMENT_KEY = new RegExp(`date|time|created|stamp|${COPIED_KEY.source}`, 'i');

const EARLIEST = Date.UTC(1996, 0, 1);
const LATEST = Date.UTC(2100, 0, 1);
const PROPERTIES_AT_MOST = 16 << 20;
/** Rows of a table that states something of the whole. */
const FEW_ROWS = 200;

/** What the files of properties say, and the tables of the list, where that is a database. */
export function statedBy(beside: readonly GivenFile[], list: StoreHarvest | null): Stated {
	const stated: Stated = { date: null, device: null, serial: null, locked: false, partial: false };
	for (const file of beside) {
		if (file.source.size > PROPERTIES_AT_MOST || hasMagic(file.source.read(0, 16))) continue;
		for (const [key, value] of factsIn(readFields(file.source))) take(stated, key, value);
	}
	if (list) for (const [key, value] of tablesOfFacts(list)) take(stated, key, value);
	return stated;
}

/** What fields state: under the keys of a file's own, and of the parts it has, by the names of both. */
function* factsIn(fields: Fields): Generator<[string, Fields]> {
	if (!isFields(fields)) return;
	for (const [key, value] of Object.entries(fields)) {
		yield [key, numberIn(value)];
		if (isFields(value)) for (const [inner, fact] of Object.entries(value)) if (PART.test(key)) yield [`${key} ${inner}`, numberIn(fact)];
	}
}
const PART = /device|phone|handset|source|back.?up|snapshot|info|status|header|meta/i;

/** A number that was written as text. */
const numberIn = (v: Fields): Fields => (typeof v === 'string' && /^\d{1,13}$/.test(v) ? Number(v) : v);

function take(stated: Stated, key: string, value: Fields): void {
	if (/[/.]/.test(key)) return;
	const at = momentIn(key, value);
	if (at !== null) stated.date = Math.max(stated.date ?? 0, at);
	if (typeof value === 'string' && NAME_KEY.test(key)) stated.device ??= value;
	if (typeof value === 'string' && SERIAL_KEY.test(key)) stated.serial ??= value;
	if (typeof value === 'string' && /^(incremental|partial|differential)$/i.test(value)) stated.partial = true;
	const yes = value === true || value === 1 || (typeof value === 'string' && /^(true|yes|on)$/i.test(value));
	const no = value === false || value === 0 || (typeof value === 'string' && /^(false|no|off)$/i.test(value));
	if (/encrypt|(?<!un)locked|protected|sealed/i.test(key)) stated.locked ||= yes;
	if (/full|whole|complete/i.test(key)) stated.partial ||= no;
	if (/incremental|partial/i.test(key)) stated.partial ||= yes;
}

/** A moment in a value: a date, or under a key that says so one written with its zone, or in (milli)seconds since 1970. */
export function momentIn(key: string, value: Fields): number | null {
	const likely = (at: number): number | null => (at > EARLIEST && at < LATEST ? at : null);
	if (value instanceof Date) return likely(value.getTime());
	if (!MOMENT_KEY.test(key)) return null;
	if (typeof value === 'string')
		return /^\d{4}-\d\d-\d\d[T ]\d\d:\d\d(:\d\d(\.\d+)?)?\s*(Z|[+-]\d\d:?\d\d)$/.test(value)
			? likely(Date.parse(value.replace(' ', 'T')))
			: null;
	return typeof value === 'number' ? (likely(value) ?? likely(value * 1000)) : null;
}

/** Tables of keys with a value each, and tables of one row whose columns are the keys. */
function* tablesOfFacts(list: StoreHarvest): Generator<[string, Fields]> {
	for (const table of list.tables) {
		const rows = list.book.rowsOf(table.index);
		if (rows.length === 0 || rows.length > FEW_ROWS) continue;
		const plain = (v: unknown): Fields => (typeof v === 'string' || typeof v === 'number' ? v : null);
		if (table.columns.length === 2 || table.columns.length === 3) {
			const key = table.columns.findIndex((_, c) => rows.every((r) => typeof r.values[c] === 'string'));
			const value = table.columns.findIndex((_, c) => c > key);
			if (key >= 0 && value >= 0) for (const r of rows) yield [r.values[key] as string, numberIn(plain(r.values[value]))];
		}
		if (rows.length === 1) for (const [c, { name }] of table.columns.entries()) yield [name, numberIn(plain(rows[0]!.values[c]))];
	}
}
