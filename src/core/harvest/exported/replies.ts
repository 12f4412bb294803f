/** Messages within those that they answer: they are messages of the same conversation, each with what it answers. */
import type { Item } from './items';

const ANSWERS = /repl(?:y|ies)|answer|response|comments?$|children|antwort|r[ée]ponse|respuest|rispost/i;
/** Share of the fields of either that both must have. */
const ALIKE = 0.6;
const DEEPEST = 200;

/** Puts the answers within the items of a list into the list, behind what they answer. */
export function liftAnswers(item: Item): void {
	for (const [name, list] of item.lists) {
		const isNested = list.some((one) => answersIn(one) !== null);
		if (isNested) item.lists.set(name, lifted(list, 0));
		for (const one of item.lists.get(name)!) liftAnswers(one);
	}
}

function lifted(list: readonly Item[], depth: number): Item[] {
	return list.flatMap((one) => {
		const answers = depth < DEEPEST ? answersIn(one) : null;
		if (!answers) return [one];
		const inner = one.lists.get(answers)!;
		one.lists.delete(answers);
		const key = one.fields.get('id') ?? one.fields.get('key');
		if (key !== undefined) for (const answer of inner) answer.fields.set('in reply to', key);
		return [one, ...lifted(inner, depth + 1)];
	});
}

/** The list within a message whose items are called answers and have the fields of messages. */
function answersIn(one: Item): string | null {
	const own = [...one.fields.keys()];
	for (const [name, [first]] of one.lists) {
		if (!first || !ANSWERS.test(name)) continue;
		const both = [...first.fields.keys()].filter((field) => one.fields.has(field)).length;
		if (both > 2 && both >= Math.max(own.length, first.fields.size) * ALIKE) return name;
	}
	return null;
}
