/**
 * Texts of which some are no text: what else was sent (a file, a place, a card) as an element of XML or a document of
 * JSON in the same column, and a column beside it that says of what kind a row is. Such a row says what its element or
 * its caption says, and states what the rest does.
 */
import { MEDIA_TYPE } from '../bytes';
import type { Row, Value } from '../model';
import { bodyText, readBody } from './body';
import { type OpenedPayload, PAYLOAD_FORMS, type PayloadForm } from './payload-forms';
import { FILE_NAME } from './profile';

const ROWS = 3000;
const LEAST = 2;
/** Share of the texts up to which payloads are not the way that all are written. */
const MOST = 0.6;
const MOST_KINDS = 12;
/** Share of rows of other kinds that may look like it, and of these that may not. */
const STRAY = 0.02;
const MOST_FIELDS = 20;

/** What a column holds, as stored and as people saw it. */
interface Texts {
	read: (row: Row) => Value | undefined;
	shown: (row: Row) => Value | undefined;
}

export interface Payloads {
	/** What a row says: its text, or that of its payload; null where it says nothing. */
	said: (row: Row) => Value | undefined;
	/** The fields that come again, by where they stand. */
	attributes: { name: string; read: (row: Row) => string | undefined }[];
}

/** `read`: the texts; `columns`: how many columns there are, any of which may say the kind. */
export function payloadsIn(rows: readonly Row[], read: (row: Row) => Value | undefined, columns: number): Payloads | null {
	const sample = rows.slice(0, ROWS);
	const texts = sample.filter((row) => typeof read(row) === 'string' && read(row) !== '');
	for (const form of PAYLOAD_FORMS) {
		const payloads = texts.filter((row) => form.is(read(row)));
		if (payloads.length > texts.length * MOST || !(payloads.length >= LEAST || payloads.some((row) => statesFile(form, read(row)))))
			continue;
		const others = new Set(payloads);
		const plain = texts.filter((row) => !others.has(row));
		if (plain.filter((row) => form.begins(String(read(row))) !== undefined).length > plain.length * STRAY) continue;
		for (let column = 0; column < columns; column++) {
			const kinds = kindsOf(payloads, plain, column);
			if (kinds) return reader(form, payloads, textReader(plain, read), (row) => kinds.has(row.values[column]));
		}
	}
	return null;
}

/** Whether a payload names a file, or a media type: then it is none that somebody wrote. */
function statesFile(form: PayloadForm, value: Value | undefined): boolean {
	const fields = form.is(value) ? form.open(value)?.fields : null;
	return [...(fields?.values() ?? [])].some((v) => FILE_NAME.test(v) || MEDIA_TYPE.test(v));
}

/** The texts themselves, where the others of them are marked up or escaped; a payload stays as it is. */
function textReader(plain: readonly Row[], read: (row: Row) => Value | undefined): Texts {
	const body = readBody(plain.map(read));
	if (!body) return { read, shown: read };
	const shown = (row: Row): Value | undefined => {
		const value = read(row);
		return typeof value === 'string' ? (bodyText(value, body, row.cut >= 0) ?? value) : value;
	};
	return { read, shown };
}

/** The values that rows with a payload have in a column, where those without have others. */
function kindsOf(payloads: readonly Row[], plain: readonly Row[], column: number): Set<Value | undefined> | null {
	const isKind = (value: Value | undefined): boolean => typeof value === 'number' || (typeof value === 'string' && value.length < 24);
	if (![...payloads, ...plain].every((row) => isKind(row.values[column]))) return null;
	const kinds = new Set(payloads.map((row) => row.values[column]));
	const others = new Set(plain.map((row) => row.values[column]));
	// What is another in each row is no kind.
	if (kinds.size > MOST_KINDS || others.size > MOST_KINDS || (kinds.size + others.size) * 2 > payloads.length + plain.length) return null;
	const strays = plain.filter((row) => kinds.has(row.values[column])).length;
	return strays <= plain.length * STRAY ? kinds : null;
}

function reader(form: PayloadForm, payloads: readonly Row[], { read, shown }: Texts, isOfKind: (row: Row) => boolean): Payloads {
	const cache = new WeakMap<Row, OpenedPayload | null>();
	const opened = (row: Row): OpenedPayload | null => {
		let known = cache.get(row);
		if (known === undefined) {
			const value = read(row);
			cache.set(row, (known = isOfKind(row) && form.is(value) ? form.open(value) : null));
		}
		return known;
	};
	const all = payloads.flatMap((row) => opened(row) ?? []);
	const caption = form.said(all);
	const names = new Map<string, number>();
	for (const { fields } of all) for (const name of fields.keys()) if (name !== caption) names.set(name, (names.get(name) ?? 0) + 1);
	const often = [...names].filter(([, n]) => n >= Math.min(LEAST, all.length)).slice(0, MOST_FIELDS);
	const beginnings = new Set(payloads.flatMap((row) => form.begins(String(read(row))) ?? []));
	return {
		said: (row) => {
			const payload = opened(row);
			if (payload) return (caption === null ? payload.text : payload.fields.get(caption)) || null;
			const value = read(row);
			// Of one that is cut nobody knows what it says.
			const begun = row.cut >= 0 && typeof value === 'string' ? form.begins(value) : undefined;
			return begun !== undefined && beginnings.has(begun) ? undefined : shown(row);
		},
		attributes: often.map(([name]) => ({ name, read: (row) => opened(row)?.fields.get(name) }))
	};
}
