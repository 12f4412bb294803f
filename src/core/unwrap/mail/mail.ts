/**
 * Mail: one message (RFC 5322, MIME RFC 2045) or many in a mailbox file (RFC 4155, "From " lines). A library parses the
 * messages; what is ours is to find them in a file of any size, and to keep where each lies.
 */
import PostalMime, { type Email } from 'postal-mime';
import { indexOfBytes, westernLetters, type ByteSource } from '../../bytes';
import { textOfHtml, type Mail } from '../../harvest';

export interface MailFile {
	name: string;
	bytes: Uint8Array;
	/** Of the mail it came with, in the file. */
	offset: number;
}

export interface Mailbox {
	mails: Mail[];
	files: MailFile[];
	/** Mails that could not be parsed, or are too large. */
	passedOver: number;
}

const HEAD = 4096;
const BLOCK = 4 << 20;
const LARGEST = 64 << 20;
const MOST = 500_000;
const SEPARATOR = new TextEncoder().encode('\nFrom ');
/** "From " line: an address or a dash, and a date (RFC 4155, appendix A). */
const FROM_LINE = /^From \S+.*\d{2}:\d{2}/;

/** When a mail was written or came: the date in RFC 5322's form (section 3.3) with its zone, which other texts with such fields have not. */
const WHEN =
	/^(date|received):.*\b\d{1,2} (?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec) \d{2,4} \d{1,2}:\d{2}(?::\d{2})? (?:[+-]\d{4}|[a-z]{1,5}\b)/i;

const headOf = (source: ByteSource, offset: number): string => new TextDecoder('latin1').decode(source.read(offset, HEAD));

/** Whether the head is one of mail: fields alone, among them who wrote and when. */
function hasFields(head: string): boolean {
	const fields = head
		.split(/\r?\n\r?\n/, 1)[0]!
		.replace(/\r?\n[ \t]+/g, ' ')
		.split(/\r?\n/);
	const names = fields.map((f) => /^([!-9;-~]+):/.exec(f)?.[1]?.toLowerCase());
	return (
		names[0] !== undefined && names.includes('from') && fields.some((f) => WHEN.test(f)) && names.slice(0, -1).every((n) => n !== undefined)
	);
}

/** Whether a file begins with a name of printable characters and a colon or a blank behind it, as fields and "From " lines do. */
function beginsWithName(head: Uint8Array): boolean {
	const end = head.findIndex((byte) => byte <= SPACE || byte === COLON || byte >= DELETE);
	return end > 0 && (head[end] === COLON || head[end] === SPACE);
}
const SPACE = 0x20;
const COLON = 0x3a;
const DELETE = 0x7f;
/** Characters of a line, at most (RFC 5322, section 2.1.1). */
const LINE = 998;

export function mailKind(source: ByteSource): 'mail' | 'mailbox' | null {
	if (!beginsWithName(source.read(0, LINE))) return null;
	const head = headOf(source, 0);
	if (FROM_LINE.test(head)) return hasFields(head.slice(head.indexOf('\n') + 1)) ? 'mailbox' : null;
	return hasFields(head) && !isOneOfMany(source) ? 'mail' : null;
}

/**
 * Whether what begins like a mail is the first of many messages written so, one below the other, by a program that made a
 * text of them: their heads are alike to the last field, and have none that only mail has.
 */
function isOneOfMany(source: ByteSource): boolean {
	const text = new TextDecoder('latin1').decode(source.read(0, MANY_WITHIN)).replaceAll('\r\n', '\n');
	const fields = text.split('\n\n', 1)[0]!.split('\n');
	if (fields.some((field) => MAIL_ONLY.test(field))) return false;
	const names = fields.map((field) => field.slice(0, field.indexOf(':') + 1));
	let heads = 0;
	const lines = text.split('\n');
	for (let i = 0; i < lines.length; i++) if (names.every((name, k) => lines[i + k]?.startsWith(name))) heads++;
	return heads > MANY_HEADS;
}
const MANY_WITHIN = 1 << 16;
const MANY_HEADS = 2;
const MAIL_ONLY =
	/^(?:message-id|mime-version|received|return-path|content-type|in-reply-to|references|delivered-to|x-[\w-]+|dkim-signature):/i;

/** Stretches of the mails in a file. */
function* stretches(source: ByteSource, kind: 'mail' | 'mailbox'): Generator<{ from: number; to: number }> {
	if (kind === 'mail') {
		yield { from: 0, to: source.size };
		return;
	}
	let from = 0;
	for (let block = 0; block < source.size; block += BLOCK) {
		// A little more than a block, so that a separator on its edge is seen once.
		const bytes = source.read(block, BLOCK + SEPARATOR.length - 1);
		for (let at = indexOfBytes(bytes, SEPARATOR); at >= 0; at = indexOfBytes(bytes, SEPARATOR, at + 1)) {
			const next = block + at + 1;
			if (!FROM_LINE.test(headOf(source, next).split('\n', 1)[0]!)) continue;
			yield { from, to: next };
			from = next;
		}
	}
	yield { from, to: source.size };
}

export async function readMail(source: ByteSource, kind: 'mail' | 'mailbox'): Promise<Mailbox> {
	const out: Mailbox = { mails: [], files: [], passedOver: 0 };
	for (const { from, to } of stretches(source, kind)) {
		if (out.mails.length >= MOST || to - from > LARGEST) {
			out.passedOver++;
			continue;
		}
		const raw = source.read(from, to - from);
		const start = kind === 'mailbox' ? raw.indexOf(10) + 1 : 0;
		try {
			// The library makes a text of its own from a page; ours keeps to what a reader sees.
			const plain = isPlain(raw);
			take(
				out,
				await PostalMime.parse(raw.subarray(start), { attachmentEncoding: 'arraybuffer' }),
				from,
				to - from,
				kind,
				plain,
				closingOf(raw)
			);
		} catch {
			out.passedOver++;
		}
	}
	return out;
}

/** The end of a mail, where its parts are closed (RFC 2046, section 5.1.1). */
const closingOf = (raw: Uint8Array): string => new TextDecoder('latin1').decode(raw.subarray(-HEAD));

const PARTS_WITHIN = 1 << 16;

/** Whether there is a plain text, which always stands before the page it repeats (RFC 2046, section 5.1.4). */
function isPlain(raw: Uint8Array): boolean {
	const head = new TextDecoder('latin1').decode(raw.subarray(0, PARTS_WITHIN));
	const page = head.search(/^content-type:\s*text\/html/im);
	return page < 0 || head.slice(0, page).search(/^content-type:\s*text\/plain/im) >= 0;
}

/** A text without the beginning of the line that ends its part, where a mail is cut in that. */
function withoutPartOf(boundary: string | undefined, text: string): string {
	const last = text.slice(text.lastIndexOf('\n') + 1);
	return boundary && last !== '' && last !== text && `--${boundary}`.startsWith(last) ? text.slice(0, -last.length).trimEnd() : text;
}

const ADDRESSES = 50;
/** A mailbox file puts a sign before lines that would look like its separator. */
const unquoted = (text: string, kind: 'mail' | 'mailbox'): string => (kind === 'mailbox' ? text.replace(/^>(>*From )/gm, '$1') : text);

function take(out: Mailbox, email: Email, offset: number, length: number, kind: 'mail' | 'mailbox', plain: boolean, closing: string): void {
	const at = email.date ? Date.parse(email.date) : NaN;
	const people = (list: Email['to']): Mail['to'] =>
		(list ?? [])
			.flatMap((p) => (p.group ? p.group : [p]))
			.slice(0, ADDRESSES)
			.map((p) => ({ address: p.address ?? '', name: westernLetters(p.name ?? '') }));
	const files = email.attachments.filter((a) => a.filename && typeof a.content !== 'string');
	// In a mailbox many mails have files of one name: each mail's lie in a folder of its own.
	const place = `mail ${out.mails.length + 1}/`;
	const named = files.map((a) => (kind === 'mailbox' ? place + a.filename!.split(/[\\/]/).at(-1)! : a.filename!));
	const body = westernLetters(plain || !email.html ? (email.text ?? '') : textOfHtml(email.html))
		.replace(/\r\n/g, '\n')
		.trim();
	const boundary = /boundary="?([^";]+)/i.exec(email.headers.find((h) => h.key === 'content-type')?.value ?? '')?.[1]?.trim();
	out.mails.push({
		at: Number.isNaN(at) ? null : at,
		from: people(email.from ? [email.from] : [])[0] ?? { address: '', name: '' },
		to: people([...(email.to ?? []), ...(email.cc ?? [])]),
		subject: westernLetters(email.subject ?? ''),
		text: withoutPartOf(boundary, unquoted(body, kind)),
		id: email.messageId ?? '',
		answers: email.inReplyTo ?? '',
		files: named,
		isCut: boundary ? !closing.includes(`--${boundary}--`) : kind === 'mailbox' && !closing.endsWith('\n'),
		offset,
		length
	});
	for (const [i, a] of files.entries()) out.files.push({ name: named[i]!, bytes: new Uint8Array(a.content as ArrayBuffer), offset });
}
