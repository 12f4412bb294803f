/** Rows that say from whom and to whom, where a message to several names them all: the same persons are one conversation. */
import type { Value } from '../../model';
import { lastOf } from './named-persons';

const FROM = /^(?:from|sender|author|von|absender|de|expéditeur|remitente|da|mittente|van|afzender|od|nadawca|who)$/i;
const TO = /^(?:to|recipients?|receivers?|an|empfänger|à|destinataires?|para|destinatarios?|a|destinatari|aan|ontvangers?|do|odbiorcy)$/i;
const LONGEST = 60;
const LEAST = 6;
const KNOWN = 0.9;
const CONVERSATION = 'conversation';

/** Adds what names the conversation, where some messages are to several of those who write. */
export function addListedEnds(columns: string[], values: (Value | undefined)[][]): void {
	if (columns.some((name) => lastOf(name).toLowerCase() === CONVERSATION)) return;
	const find = (words: RegExp): number => columns.findIndex((name) => words.test(lastOf(name)));
	const [from, to] = [find(FROM), find(TO)];
	if (from < 0 || to < 0 || values.length < LEAST) return;
	const writers = new Set(values.map((row) => row[from]).filter((who) => typeof who === 'string' && who !== ''));
	const lists = values.map((row) => partsOf(row[to]));
	const parts = lists.flat();
	const isSeveral = lists.some((list) => list.length > 1);
	if (!isSeveral || writers.size < 2 || parts.filter((who) => writers.has(who)).length < parts.length * KNOWN) return;
	const talks = values.map((row, i) => new Set([...(typeof row[from] === 'string' && row[from] !== '' ? [row[from]] : []), ...lists[i]!]));
	// Who takes part in all of them is the owner: a conversation is called after the others.
	const everywhere = [...writers].filter((who) => talks.every((talk) => talk.size === 0 || talk.has(who as string)));
	columns.push(CONVERSATION);
	values.forEach((row, i) => {
		const others = [...talks[i]!].filter((who) => everywhere.length !== 1 || who !== everywhere[0]);
		row.push(others.sort().join(', ') || undefined);
		row[to] = undefined;
	});
}

/** The names of a list; a single one may have a comma in it. */
function partsOf(value: Value | undefined): string[] {
	if (typeof value !== 'string' || value.trim() === '') return [];
	const parts = value.split(/\s*[;,|]\s*/).filter((part) => part !== '');
	return parts.every((part) => part.length <= LONGEST) ? parts : [];
}
