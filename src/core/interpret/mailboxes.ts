/** Values that are mailboxes with a name, or lists of such ("Odile Marchetti <odile@marrow.example>", RFC 5322, section 3.4). */
import type { Row, Value } from '../model';
import { isFullName } from '../called';
import { EMAIL } from './profile';
import { isFields, jsonOf } from './stored';

const ROWS = 2000;
const LEAST = 4;
const MOSTLY = 0.8;
const LONGEST = 4000;
const MAILBOX = /^\s*(?:"([^"]*)"|([^"<>@,]*?))\s*<([^<>\s]+)>\s*$/;

export interface Mailbox {
	name: string | null;
	address: string;
}

/** The mailboxes of a value; null where it is no list of them. Some may stand without a name. */
function mailboxesOf(value: unknown): Mailbox[] | null {
	if (typeof value !== 'string' || value === '' || value.length > LONGEST) return null;
	if (value[0] === '[') return listed(jsonOf(value));
	const found: Mailbox[] = [];
	for (const part of value.split(/[,;](?=(?:[^"]*"[^"]*")*[^"]*$)/)) {
		const [, quoted, plain, address] = MAILBOX.exec(part) ?? [];
		const bare = part.trim();
		if (address !== undefined && EMAIL.test(address)) found.push({ name: (quoted ?? plain ?? '').trim() || null, address });
		else if (EMAIL.test(bare)) found.push({ name: null, address: bare });
		else return null;
	}
	return found;
}

/** The mailboxes of a list (JSON) of persons, each with an address and a name under whatever fields; null where it is none. */
function listed(list: unknown): Mailbox[] | null {
	if (!Array.isArray(list)) return null;
	const found: Mailbox[] = [];
	for (const one of list) {
		if (!isFields(one)) return null;
		const texts = Object.values(one).filter((field): field is string => typeof field === 'string' && field !== '');
		const addresses = texts.filter((text) => EMAIL.test(text));
		const names = texts.filter((text) => isFullName(text));
		if (addresses.length !== 1 || names.length > 1) return null;
		found.push({ name: names[0] ?? null, address: addresses[0]! });
	}
	return found;
}

export interface Mailboxes {
	addresses: (row: Row) => string | undefined;
	/** The name and the address, where the value is one mailbox. */
	name: (row: Row) => string | undefined;
	alone: (row: Row) => string | undefined;
}

/** Reads a column's mailboxes apart, or null where it has none with a name. `valueOf`: undefined where a row's value is cut. */
export function mailboxesIn(rows: readonly Row[], valueOf: (row: Row) => Value | undefined): Mailboxes | null {
	const values = rows
		.slice(0, ROWS)
		.map(valueOf)
		.filter((value) => typeof value === 'string' && value !== '');
	const read = values.map(mailboxesOf).filter((list) => list !== null);
	if (values.length < LEAST || read.length < values.length * MOSTLY || !read.some((list) => list.some((box) => box.name !== null)))
		return null;
	const of = (row: Row): Mailbox[] => mailboxesOf(valueOf(row)) ?? [];
	return {
		addresses: (row) =>
			of(row)
				.map((box) => box.address)
				.join(',') || undefined,
		name: (row) => single(of(row))?.name ?? undefined,
		alone: (row) => single(of(row))?.address
	};
}

const single = (boxes: readonly Mailbox[]): Mailbox | undefined => (boxes.length === 1 ? boxes[0] : undefined);
