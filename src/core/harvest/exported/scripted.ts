/**
 * Data that a script has: pages that show an archive often keep it as a value in their script, or in scripts beside them
 * (`const archive = [...];`, `archive.push({...});`, a script of the type application/json). What is no value of JSON
 * (RFC 8259) is nothing here.
 */

/** What stands before a value: the sign by which it is given a name, or handed over. */
const BEFORE = /(?:=|\(|^)\s*(?=[[{])/gm;
/** Letters of a value that can be an archive, and places in a script at which one is looked for. */
const LEAST = 100;
const PLACES = 200;
/** How often a script is looked through, at most. */
const LOOKED_AT_MOST = 8;

/** The text with blanks for all but the largest value in its script; null where it has none. */
export function dataOfScript(text: string): string | null {
	const found = largestIn(text, 0, text.length);
	return found && alone(text, found);
}

const SCRIPT = /<script\b[^>]*>([\s\S]*?)<\/script\s*>/gi;

/** The same of the scripts of a page. */
export function dataOfPage(text: string): string | null {
	let largest: Stretch | null = null;
	for (const script of text.matchAll(SCRIPT)) {
		const start = script.index + script[0].indexOf('>') + 1;
		largest = larger(largest, largestIn(text, start, start + script[1]!.length));
	}
	return largest && alone(text, largest);
}

/** UTF-16 units of a text. */
interface Stretch {
	start: number;
	end: number;
}

const larger = (a: Stretch | null, b: Stretch | null): Stretch | null => (a && b ? (b.end - b.start > a.end - a.start ? b : a) : (a ?? b));

function largestIn(text: string, from: number, to: number): Stretch | null {
	const script = text.slice(from, to);
	let largest: Stretch | null = null;
	let [done, tried, looked] = [0, 0, 0];
	for (const { index, 0: before } of script.matchAll(BEFORE)) {
		const start = index + before.length;
		if (start < done) continue;
		// What is not closed is looked for to the script's end each time.
		if (tried++ >= PLACES || looked > script.length * LOOKED_AT_MOST) break;
		const end = endOf(script, start);
		looked += (end ?? script.length) - start;
		if (end === null || end - start < LEAST || !isJson(script.slice(start, end))) continue;
		done = end;
		largest = larger(largest, { start: from + start, end: from + end });
	}
	return largest;
}

/** Where the brackets that begin at a place are closed, whatever stands in texts between; null where they are not. */
function endOf(script: string, start: number): number | null {
	let depth = 0;
	for (let at = start; at < script.length; at++) {
		const c = script[at]!;
		if (c === '"') {
			for (at++; at < script.length && script[at] !== '"'; at++) if (script[at] === '\\') at++;
		} else if (c === '{' || c === '[') depth++;
		else if (c === '}' || c === ']') {
			depth--;
			if (depth === 0) return at + 1;
		}
	}
	return null;
}

function isJson(text: string): boolean {
	try {
		JSON.parse(text);
		return true;
	} catch {
		return false;
	}
}

const alone = (text: string, { start, end }: Stretch): string => ' '.repeat(start) + text.slice(start, end) + ' '.repeat(text.length - end);
