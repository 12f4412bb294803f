/** Address books as blocks of lines, each with what it says in front of a colon: a person each. */
import { add, isEmail, isNumber, MOST_CARDS, withoutScheme, type Card, type SizeOf } from './card';
import { headingOf, type Heading } from './headings';

/** Share of the written lines that must be of persons. */
const MOSTLY = 0.7;
const LINE = /^([^:\n]{1,40}):[ \t]*(.*)$/;
const NAMED: ReadonlySet<Heading | null> = new Set(['name', 'given', 'family', 'organisation']);

/** The persons of a text; null where most of its lines are none's. A block ends at an empty line, or where the next one's name begins. */
export function readBlocks(text: string, sizeOf: SizeOf): Card[] | null {
	const cards: Card[] = [];
	let written = 0;
	let taken = 0;
	let offset = 0;
	let block: Block | null = null;
	const end = (): void => {
		const card = block && cardOf(block);
		if (card && cards.length < MOST_CARDS) cards.push(card);
		if (card) taken += block!.lines;
		block = null;
	};
	for (const whole of text.match(/[^\n]*\n|[^\n]+$/g) ?? []) {
		const length = sizeOf(whole);
		const line = whole.trim();
		if (line === '') end();
		else {
			written++;
			const [, label = '', value = ''] = LINE.exec(line) ?? [];
			const says = label === '' ? null : headingOf(label);
			if (block && NAMED.has(says) && begins(block, says!)) end();
			block ??= { said: new Map(), reached: [], lines: 0, offset, length: 0 };
			block.lines++;
			block.length = offset + length - block.offset;
			const address = withoutScheme(value);
			if (isNumber(address) || isEmail(address)) {
				if (says !== 'aside') block.reached.push(address);
			} else if (says !== null && value !== '' && !block.said.has(says)) block.said.set(says, value.trim());
		}
		offset += length;
	}
	end();
	return cards.length > 1 && taken >= written * MOSTLY ? cards : null;
}

interface Block {
	said: Map<Heading, string>;
	reached: string[];
	lines: number;
	/** Bytes. */
	offset: number;
	length: number;
}

/** Whether a name is that of the next person: this one has one, and what reaches them. */
const begins = ({ said, reached }: Block, says: Heading): boolean =>
	reached.length > 0 && says !== 'organisation' && (said.has(says) || said.has('name'));

function cardOf({ said, reached, offset, length }: Block): Card | null {
	const parts = (['given', 'middle', 'family'] as const).flatMap((p) => said.get(p) ?? []).join(' ');
	const name = said.get('name') ?? (parts || said.get('organisation'));
	if (!name || !/\p{L}/u.test(name) || reached.length === 0) return null;
	const card: Card = { name, numbers: [], emails: [], handles: [], offset, length };
	for (const a of reached) add(isEmail(a) ? card.emails : card.numbers, a);
	return card;
}
