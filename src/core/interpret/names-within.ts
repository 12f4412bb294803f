/** Finds the names of many persons in a text: at each place only those are tried that begin with its letters. */
const BEGINNING = 3;

/**
 * What a text is with `instead` where a name stands, of several that fit the longest. Each text is asked for again and
 * again and read once. Names of fewer than three letters are left.
 */
export function withoutNames(names: readonly string[], instead: string): (text: string) => string {
	const byBeginning = new Map<string, string[]>();
	for (const name of [...names].sort((a, b) => b.length - a.length)) {
		const beginning = name.slice(0, BEGINNING);
		if (beginning.length < BEGINNING) continue;
		const list = byBeginning.get(beginning);
		if (list) list.push(name);
		else byBeginning.set(beginning, [name]);
	}
	const read = new Map<string, string>();
	return (text) => {
		let known = read.get(text);
		if (known === undefined) read.set(text, (known = replaced(text, byBeginning, instead)));
		return known;
	};
}

function replaced(text: string, byBeginning: ReadonlyMap<string, readonly string[]>, instead: string): string {
	let rest = '';
	for (let at = 0; at < text.length;) {
		const name = byBeginning.get(text.slice(at, at + BEGINNING))?.find((one) => text.startsWith(one, at));
		rest += name === undefined ? text[at] : instead;
		at += name?.length ?? 1;
	}
	return rest;
}
