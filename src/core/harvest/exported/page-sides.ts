/**
 * Pages that show a conversation put what its owner wrote at the one side and what others wrote at the other: by a class of
 * each message. Which is which is said by who is named (where several write, the owner is not), by other pages of the same
 * export, or by the page's style: what stands at the side at which lines end is the owner's.
 */
import type { Direction } from '../../model';
import type { Item } from './items';

/** The way of each of a page's two classes. */
export type Sides = ReadonlyMap<string, Direction>;

/** The field of the way, as a word of its own. */
export const WAY_FIELD = '(way)';
const CLASS = '@class';
const NAMED_LEAST = 3;
const NEARLY_ALL = 0.95;
const LONGEST_NAME = 60;

/** Gives each item its way, where its class says it. `styles`: the style sheets of the page; `others`: what other pages say. */
export function tellSides(items: readonly Item[], styles: string, others: Sides | undefined): Sides | null {
	const classes = new Map<string, Item[]>();
	for (const one of items) {
		const value = String(one.fields.get(CLASS) ?? '');
		const known = classes.get(value);
		if (known) known.push(one);
		else classes.set(value, [one]);
	}
	const [one, other, ...more] = [...classes.keys()];
	if (one === undefined || other === undefined || more.length > 0) return null;
	const own =
		ownByNames(one, other, classes) ??
		[one, other].find((value) => others?.get(value) === 'out' && others.size === 2) ??
		ownByStyle(one, other, styles);
	if (own === null || own === undefined) return null;
	for (const [value, list] of classes) for (const message of list) message.fields.set(WAY_FIELD, value === own ? 'out' : 'in');
	return new Map([...classes.keys()].map((value) => [value, value === own ? 'out' : 'in']));
}

/**
 * The class of those whose writer is not named, where that of the others nearly always is, and several are. A class that only
 * the one sort has is of those that follow one of the same writer.
 */
function ownByNames(one: string, other: string, classes: ReadonlyMap<string, readonly Item[]>): string | null {
	if (one === '' || other === '') return null;
	for (const [named, unnamed] of [
		[one, other],
		[other, one]
	] as const) {
		const [with_, without] = [classes.get(named)!, classes.get(unnamed)!];
		if (with_.length < NAMED_LEAST) continue;
		for (const field of with_[0]!.fields.keys()) {
			if (field.includes('@')) continue;
			const names = with_.map((m) => m.fields.get(field)).filter(isName);
			const areNamed = names.length >= with_.length * NEARLY_ALL && without.every((m) => !m.fields.has(field));
			if (areNamed && new Set(names).size > 1 && new Set(names).size * 2 <= names.length) return unnamed;
		}
	}
	return null;
}

const isName = (value: unknown): value is string => typeof value === 'string' && value.length <= LONGEST_NAME && !/\d\d/.test(value);

const RULE = /([^{}]{1,300})\{([^{}]{0,2000})\}/g;
const MOST_RULES = 2000;
const AT_END =
	/(?:^|;|\s)(?:float\s*:\s*right|text-align\s*:\s*(?:right|end)|(?:align|justify)-self\s*:\s*(?:flex-)?end|(?:justify-content|align-items)\s*:\s*(?:flex-)?end|margin-left\s*:\s*auto|margin-inline-start\s*:\s*auto|flex-direction\s*:\s*row-reverse)/i;
const AT_START =
	/(?:^|;|\s)(?:float\s*:\s*left|text-align\s*:\s*(?:left|start)|(?:align|justify)-self\s*:\s*(?:flex-)?start|(?:justify-content|align-items)\s*:\s*(?:flex-)?start|margin-right\s*:\s*auto|margin-inline-end\s*:\s*auto)/i;
const TURNED = /direction\s*:\s*rtl/i;

/** The class that stands at the end of lines, where the other does not. */
function ownByStyle(one: string, other: string, styles: string): string | null {
	const sideOf = (value: string): 'end' | 'start' | null => {
		const words = value.split(/\s+/).filter((word) => word !== '');
		if (words.some((word) => /^(?:.*[-_])?(?:right|end)$/i.test(word))) return 'end';
		if (words.some((word) => /^(?:.*[-_])?(?:left|start)$/i.test(word))) return 'start';
		let rules = 0;
		for (const [, selectors, properties] of styles.matchAll(RULE)) {
			if (rules++ > MOST_RULES) break;
			const named: string[] = selectors!.match(/\.[\w-]+/g) ?? [];
			if (!words.some((word) => named.includes(`.${word}`))) continue;
			if (AT_END.test(properties!)) return 'end';
			if (AT_START.test(properties!)) return 'start';
		}
		return null;
	};
	const [a, b] = [sideOf(one), sideOf(other)];
	if (a === b || TURNED.test(styles)) return null;
	return a === 'end' ? one : b === 'end' ? other : null;
}
