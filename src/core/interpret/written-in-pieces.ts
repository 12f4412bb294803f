/**
 * Texts that stored values hold in pieces: runs of letters of one look (`[{"t":"Bring the "},{"t":"key","bold":1}]`),
 * paragraphs with runs in them, parts of several kinds, or places of a list (`["text","Bring the key",null]`).
 */
import { isWriting } from './profile';
import { isFields } from './stored';

/** Where in a value the pieces are: keys, and places in lists that are all of one length. */
type Path = readonly string[];

export interface Pieces {
	path: Path;
	/** The key under which each piece has its letters; null where the pieces are texts themselves. */
	field: string | null;
	/** Whether a line break ends each text, as it ends a paragraph: it is none of what was written. */
	areEnded: boolean;
	/** Whether the pieces are runs, put together as they are; null where each value says it for itself. */
	areRuns: boolean | null;
}

const DEEPEST = 8;
const PATHS_AT_MOST = 60;
const ITEMS_AT_MOST = 2000;
const FIELDS_AT_MOST = 40;
/** Values from which it can be told, share of them that must have it, and of those texts that must be writing and differ. */
const LEAST = 3;
const MOSTLY = 0.6;
const WRITTEN = 0.3;
const VARIED = 0.5;
const PIECES_VARIED = 0.2;
/** Share of the seams at which a blank stands: pieces that are put together as they are have them there, if not between all words. */
const BLANK_SEAMS = 0.5;
const BLANK_SEAMS_OF_ALL = 0.2;
const SEAMS_LEAST = 8;
const LONGEST_TUPLE = 24;

type Fields = Record<string, unknown>;

/** Where most of the values have a text in pieces: the one with most letters; null where there is none. What few have is no body. */
export function piecesIn(values: readonly unknown[]): Pieces | null {
	const there = values.filter((value) => value !== null && typeof value === 'object');
	if (there.length < Math.max(LEAST, values.length * MOSTLY)) return null;
	let best: { pieces: Pieces; letters: number } | null = null;
	for (const path of pathsOf(there)) {
		const lists = there.map((value) => valueAt(value, path)).filter((value) => value !== undefined && value !== null && value !== '');
		if (lists.length < values.length * MOSTLY) continue;
		for (const field of fieldsOf(lists)) {
			const pieces = piecesAt(path, field, lists);
			const texts = there.map((value) => joined(value, pieces)).filter((text) => text !== null && text !== '') as string[];
			const letters = texts.reduce((sum, text) => sum + text.length, 0);
			if (texts.length >= values.length * MOSTLY && isOneWriting(texts) && (!best || letters > best.letters)) best = { pieces, letters };
		}
	}
	return best?.pieces ?? null;
}

/** The pieces of a place, and whether in all values a line break ends them. */
function piecesAt(path: Path, field: string | null, lists: readonly unknown[]): Pieces {
	const rows = lists.flatMap((list) => (Array.isArray(list) ? lowest(list, field, 0) : []));
	const ended = rows.filter((pieces) => pieces.at(-1)!.endsWith('\n')).length;
	const areEnded = ended >= ENDED_LEAST && ended >= rows.length * ENDED;
	const seams = rows.flatMap(seamsOf);
	const areRuns = areEnded || (seams.length >= SEAMS_LEAST ? share(seams) >= BLANK_SEAMS_OF_ALL : null);
	return { path, field, areEnded, areRuns };
}

/** Of each two pieces that follow each other, whether a blank, or the sign that ends a sentence, stands between them. */
const seamsOf = (pieces: readonly string[]): boolean[] =>
	pieces.slice(1).map((piece, i) => /\s$/.test(pieces[i]!) || /^[\s,.;:!?]/.test(piece));
const share = (seams: readonly boolean[]): number => (seams.length === 0 ? 1 : seams.filter((isBlank) => isBlank).length / seams.length);

const ENDED = 0.95;
const ENDED_LEAST = 3;

/** The pieces of each list that has no lists of them within. */
function lowest(list: readonly unknown[], field: string | null, depth: number): string[][] {
	if (depth > DEEPEST) return [];
	const items = list.slice(0, ITEMS_AT_MOST);
	const pieces = items.flatMap((item) => pieceIn(item, field) ?? []);
	const within = items.flatMap((item) => {
		const inner = pieceIn(item, field) === null && isFields(item) ? listIn(item) : undefined;
		return inner ? lowest(inner, field, depth + 1) : [];
	});
	return within.length > 0 ? within : pieces.length > 0 ? [pieces] : [];
}

const pieceIn = (item: unknown, field: string | null): string | null => {
	if (typeof item === 'string') return item;
	const own = field !== null && isFields(item) ? item[field] : null;
	return typeof own === 'string' ? own : null;
};

const listIn = (item: Fields): unknown[] | undefined => Object.values(item).find(Array.isArray) as unknown[] | undefined;

const isOneWriting = (texts: readonly string[]): boolean =>
	texts.filter(isWriting).length >= texts.length * WRITTEN && new Set(texts).size >= texts.length * VARIED;

/** The text of a value put together; null where there is none. */
export function joined(value: unknown, pieces: Pieces): string | null {
	const here = valueAt(value, pieces.path);
	if (typeof here === 'string') return here;
	if (!Array.isArray(here)) return null;
	const text = joinList(here, pieces, 0);
	return pieces.areEnded && text?.endsWith('\n') ? text.slice(0, -1) : text;
}

/** Runs of one paragraph as they are, paragraphs and parts each on a line of its own. */
function joinList(list: readonly unknown[], how: Pieces, depth: number): string | null {
	if (depth > DEEPEST) return null;
	let inner = false;
	const pieces = list.slice(0, ITEMS_AT_MOST).flatMap((item) => {
		const own = pieceIn(item, how.field);
		if (own !== null || !isFields(item)) return own === null ? [] : [own];
		const within = listIn(item);
		const text = within ? joinList(within, how, depth + 1) : null;
		inner ||= text !== null;
		return text === null ? [] : [text];
	});
	if (pieces.length === 0) return null;
	const areRuns = !inner && (how.areRuns ?? share(seamsOf(pieces)) >= BLANK_SEAMS);
	return pieces.join(areRuns ? '' : '\n');
}

function valueAt(value: unknown, path: Path): unknown {
	let here = value;
	for (const step of path) {
		if (here === null || typeof here !== 'object') return undefined;
		here = (here as Fields)[step];
	}
	return here;
}

/** Keys of what the lists' pieces hold as text, those of lists within them too; null for lists of texts alone. */
function fieldsOf(lists: readonly unknown[]): (string | null)[] {
	const fields = new Map<string, string[]>();
	let texts = false;
	const visit = (list: readonly unknown[], depth: number): void => {
		for (const item of list.slice(0, ITEMS_AT_MOST)) {
			if (typeof item === 'string') texts = true;
			if (!isFields(item) || depth > DEEPEST) continue;
			for (const [key, inner] of Object.entries(item).slice(0, FIELDS_AT_MOST)) {
				if (typeof inner === 'string' && fields.size < FIELDS_AT_MOST) fields.set(key, [...(fields.get(key) ?? []), inner]);
				else if (Array.isArray(inner)) visit(inner, depth + 1);
			}
		}
	};
	for (const list of lists) if (Array.isArray(list)) visit(list, 0);
	// What all pieces have the same of says of what kind they are.
	const varied = [...fields].filter(([, values]) => new Set(values).size > values.length * PIECES_VARIED).map(([key]) => key);
	return varied.length > 0 ? varied : texts || lists.some((value) => typeof value === 'string') ? [null] : [];
}

/** Paths to lists, and to places in lists of one length whose places hold different things. */
function pathsOf(values: readonly unknown[]): Path[] {
	const paths = new Map<string, Path>();
	const visit = (all: readonly unknown[], path: Path): void => {
		if (path.length > DEEPEST || paths.size > PATHS_AT_MOST) return;
		const lists = all.filter(Array.isArray) as unknown[][];
		if (lists.length > 0) {
			if (areTuples(lists) && fieldsOf(lists).every((field) => field === null))
				for (let i = 0; i < lists[0]!.length; i++) paths.set([...path, i].join('\0'), [...path, `${i}`]);
			else paths.set(path.join('\0'), path);
		}
		const fields = all.filter(isFields);
		const keys = new Set(fields.flatMap((one) => Object.keys(one).slice(0, FIELDS_AT_MOST)));
		for (const key of [...keys].slice(0, FIELDS_AT_MOST))
			visit(
				fields.map((one) => one[key]),
				[...path, key]
			);
	};
	visit(values, []);
	return [...paths.values()];
}

/** Lists of one length in which each place holds one sort of value, and not all the same. */
function areTuples(lists: readonly unknown[][]): boolean {
	const { length } = lists[0]!;
	if (lists.length < LEAST || length < 2 || length > LONGEST_TUPLE || lists.some((list) => list.length !== length)) return false;
	const words = Array.from({ length }, (_, i) => new Set(lists.map((list) => (typeof list[i] === 'string' ? list[i] : typeof list[i]))));
	return words.some((set) => set.size === 1) && words.some((set) => set.size > lists.length * VARIED);
}
