/**
 * Texts that were UTF-8 and were written anew as if each byte were a letter (ISO 8859-1, or Windows-1252): "cafÃ©". They
 * are told over a whole file: where one letter is none of those, or one run of them is no UTF-8, nothing is changed.
 */
import type { Item } from './items';

/** Letters that Windows-1252 has where ISO 8859-1 has controls, from 0x80 on; a blank where it has none. */
const WINDOWS = '€ ‚ƒ„…†‡ˆ‰Š‹Œ Ž  ‘’“”•–—˜™š›œ žŸ';
const byteOf = new Map([...WINDOWS].flatMap((letter, i) => (letter === ' ' ? [] : [[letter, 0x80 + i] as const])));
const FOREIGN = /[^\u0000-\u007f]+/g;
/** What a run of letters was meant to be, null where it is no UTF-8. `isCut`: its last letter may be there in part, and is left out. */
function asMeant(run: string, isCut = false): string | null {
	const bytes = [...run].map((letter) => (letter <= '\u00ff' ? letter.charCodeAt(0) : byteOf.get(letter)));
	if (bytes.includes(undefined)) return null;
	try {
		return new TextDecoder('utf-8', { fatal: true }).decode(new Uint8Array(bytes as number[]), { stream: isCut });
	} catch {
		return null;
	}
}

/** Puts the texts of all items right. Says whether there was anything to. */
export function putMisreadRight(root: Item): boolean {
	if (!isMisread(root)) return false;
	const isCut = endsEarly(root);
	visit(root, (text) => text.replace(FOREIGN, (run, at: number) => asMeant(run, isCut(text, run, at)) ?? run));
	return true;
}

/** Whether a run may be cut: where a file ends early it can be any text's last one. */
const endsEarly = (root: Item): ((text: string, run: string, at: number) => boolean) => {
	const isBroken = (root.broken?.length ?? 0) > 0;
	return (text, run, at) => isBroken && at + run.length === text.length;
};

function isMisread(root: Item): boolean {
	const isCut = endsEarly(root);
	let runs = 0;
	let isSound = true;
	visit(root, (text) => {
		for (const { 0: run, index } of isSound ? text.matchAll(FOREIGN) : []) {
			runs++;
			isSound &&= asMeant(run, isCut(text, run, index)) !== null;
		}
		return text;
	});
	return isSound && runs > 0;
}

function visit(item: Item, change: (text: string) => string): void {
	for (const [name, value] of item.fields) if (typeof value === 'string') item.fields.set(name, change(value));
	for (const list of item.lists.values()) for (const one of list) visit(one, change);
}
