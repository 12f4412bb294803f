/**
 * Records written as one text: a list whose places have their meaning (JSON), an element of XML, parts between signs,
 * pairs of names and values, a head of lines with a body below. Which it is is decided over a column's values; each is
 * then opened so, or not at all.
 */
import type { Value } from '../../model';
import { type Alternating, alternatingIn, openAlternating } from './alternating';
import { openElement, areElements } from './element';
import { areHeaded, openHeaded } from './headed';
import { areListed, openListed } from './listed';
import { openPairs, pairsIn, type Pairs } from './pairs';
import { openParted, partsIn, type Parted } from './parted';

/** The fields of a record. `ending`: the path of the text in which it ends, where its value breaks off. */
export interface Opened {
	fields: Record<string, unknown>;
	ending?: string[];
}

export type Composed = { kind: 'listed' } | { kind: 'element' } | { kind: 'headed' } | Parted | Pairs | Alternating;

const LEAST = 3;
/** Share of the values that must be texts. */
const MOSTLY = 0.9;

/** A value as the text that its bytes are; null where it is none. */
export function textOf(value: Value | undefined): string | null {
	if (typeof value === 'string') return value;
	if (!(value instanceof Uint8Array) || value.length === 0 || value.length > LONGEST) return null;
	return textOfBytes(value);
}
const LONGEST = 1 << 20;

function textOfBytes(bytes: Uint8Array): string | null {
	try {
		return utf8.decode(bytes);
	} catch {
		return null;
	}
}

/** A letter as text: it can be long, for the files in it, and parts of it be in a code page. */
function letterText(value: Value | undefined): string | null {
	if (typeof value === 'string') return value.length > LONGEST_LETTER ? null : value;
	if (!(value instanceof Uint8Array) || value.length > LONGEST_LETTER) return null;
	return textOfBytes(value) ?? western.decode(value);
}
const LONGEST_LETTER = 64 << 20;
const western = new TextDecoder('windows-1252');
const utf8 = new TextDecoder('utf-8', { fatal: true });

/** How a column's values are written, or null where they are no records. */
export function readComposed(values: readonly (Value | undefined)[]): Composed | null {
	const filled = values.filter((v) => v !== null && v !== undefined && v !== '');
	if (filled.length < LEAST || typeof textOf(filled[0]) !== 'string') return null;
	const texts = filled.map(textOf).filter((text) => text !== null);
	if (texts.length < filled.length * MOSTLY) return null;
	if (areListed(texts)) return { kind: 'listed' };
	if (areElements(texts)) return { kind: 'element' };
	if (areHeaded(texts)) return { kind: 'headed' };
	return pairsIn(texts) ?? alternatingIn(texts) ?? partsIn(texts);
}

/** `isCut`: the value is only the beginning of what was stored. */
export function openComposed(how: Composed, value: Value | undefined, isCut: boolean): Opened | null {
	if (how.kind === 'headed') {
		const letter = letterText(value);
		return letter === null ? null : openHeaded(letter, isCut);
	}
	const text = textOf(value);
	if (text === null || text.length > LONGEST) return null;
	switch (how.kind) {
		case 'listed':
			return openListed(text, isCut);
		case 'element':
			return openElement(text, isCut);
		case 'pairs':
			return openPairs(text, how, isCut);
		case 'alternating':
			return openAlternating(text, how, isCut);
		case 'parted':
			return openParted(text, how, isCut);
	}
}
