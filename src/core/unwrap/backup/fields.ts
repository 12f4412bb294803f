/**
 * Files of fields as one kind of value: property lists, JSON (RFC 8259), XML (its attributes and elements), and lines of
 * a key and a value each.
 */
import { XMLParser } from 'fast-xml-parser';
import { isText, type ByteSource } from '../../bytes';
import { PLAIN_XML } from '../../xml-options';
import { isPlistFields as isFields, type PlistFields as Dict } from '../plist/archived';
import { readPlist, type PlistValue } from '../plist/plist';

export { isFields, type Dict };
export type Fields = PlistValue;

const AT_MOST = 64 << 20;
const LINES_AT_MOST = 64 << 10;
const decoder = new TextDecoder();

/** The fields of a whole file; null where it has none, or is longer than such files are. */
export function readFields(source: ByteSource): Fields {
	if (source.size > AT_MOST) return null;
	const head = decoder.decode(source.read(0, 64));
	// What stands in brackets at the top of a file of lines is the name of its first part.
	const json = /^\ufeff?\s*[[{]/.test(head) ? readJson(source.read(0, source.size)) : null;
	if (json !== null) return json;
	if (/^bplist0|^\ufeff?\s*</.test(head)) {
		const bytes = source.read(0, source.size);
		return readPlist(bytes) ?? readXml(bytes);
	}
	return source.size <= LINES_AT_MOST ? readLines(source.read(0, source.size)) : null;
}

function readJson(bytes: Uint8Array): Fields {
	try {
		return JSON.parse(decoder.decode(bytes)) as Fields;
	} catch {
		return null;
	}
}

/** Elements as fields of their attributes and of what lies in them; the outermost stands for nothing. */
function readXml(bytes: Uint8Array): Fields {
	const parser = new XMLParser({ ...PLAIN_XML, attributeNamePrefix: '' });
	try {
		const text = decoder.decode(bytes).replace(/<[?!][^>]*>/g, '');
		const root = parser.parse(text) as Dict;
		const [only, ...more] = Object.values(root);
		return more.length === 0 && only !== undefined && typeof only === 'object' ? only : root;
	} catch {
		return null;
	}
}

/** Nearly all lines must be of that form; what is in brackets, or behind a sign for remarks, is passed over. */
const MOSTLY = 0.8;
const LINE = /^\s*"?([\p{L}_][\p{L}\p{N} _.-]{0,60}?)"?\s*[=:]\s*"?(.*?)"?\s*$/u;

function readLines(bytes: Uint8Array): Fields {
	if (bytes.length === 0 || !isText(bytes, 0, bytes.length, 'utf8')) return null;
	const lines = decoder
		.decode(bytes)
		.split(/\r?\n/)
		.filter((line) => /\S/.test(line) && !/^\s*[#;[]/.test(line));
	const pairs = lines.flatMap((line) => {
		const found = LINE.exec(line);
		return found ? [[found[1]!, found[2]!] as const] : [];
	});
	return pairs.length > 0 && pairs.length >= lines.length * MOSTLY ? Object.fromEntries(pairs) : null;
}
