/**
 * Messages as blocks of labelled lines: "From: …", "Date: …", perhaps "To: …", and the text under a label of its own or
 * below them. No label is known; the one of the time is told by its values, that of the writer by values that come back.
 * Where each block has one of two, of which one says sent and the other received, they stand for the writer.
 */
import { isInWord, isOutWord } from '../../way-words';
import { isAddressAlone } from './name-and-address';
import { findStamp, type Stamp } from './stamps';

export interface Block {
	/** First line, and where the next block's begins. */
	start: number;
	end: number;
	stamp: Stamp;
	/** Who wrote; or a word for the way, and the other side. */
	writer: string;
	/** To whom, where each block says it. */
	recipient: string | null;
	/** Line with which the text begins, and how much of it is its label. */
	text: number;
	label: number;
}

const LABELLED = /^\s*(\p{L}[\p{L} .'-]{0,24}?)\s?[:：](?:\s+(.*))?$/u;
/** Lines of labels that one block can have. */
const LABELS = 8;
const BLOCKS = 3;
/** Share of the blocks that must have a label for it to be one. */
const MOSTLY = 0.8;
/** Distinct values among so many, up to which they come back. */
const COMES_BACK = 0.6;
const WRITER = /^(from|sender|sent by|author|von|absender|de|da|from user|name|who|writer)$/i;
const TO = /^(to|recipient|an|empfänger|à|para|a)$/i;
const RECIPIENT = /^(to|recipient|an|empfänger|à|para|a|cc|subject|betreff)$/i;

interface Line {
	label: string;
	value: string;
	/** Characters before the value. */
	skip: number;
}

const lineOf = (text: string): Line | null => {
	const m = LABELLED.exec(text);
	return m ? { label: m[1]!.toLowerCase(), value: (m[2] ?? '').trim(), skip: text.length - (m[2] ?? '').length } : null;
};

/** Two labels of which each block has one, where one says sent and the other received. */
function wayLabels(labels: readonly string[], blocks: readonly ReadonlySet<string>[]): Set<string> | null {
	const [outs, ins] = [isOutWord, isInWord].map((says) => labels.filter((label) => says(label.split(' ')[0]!)));
	for (const out of outs!)
		for (const into of ins!) {
			const one = blocks.filter((b) => b.has(out) !== b.has(into)).length;
			const sent = blocks.filter((b) => b.has(out)).length;
			if (out !== into && sent > 0 && sent < blocks.length && one >= blocks.length * NEARLY_ALL) return new Set([out, into]);
		}
	return null;
}
const NEARLY_ALL = 0.97;

/** The blocks of a text, or none where it is written otherwise. */
export function labelledBlocks(plain: readonly string[]): Block[] {
	const lines = plain.map(lineOf);
	const stamps = lines.map((l) => (l && l.value !== '' ? onlyStamp(l.value) : null));
	const timed = most(lines.filter((_, i) => stamps[i]).map((l) => l!.label));
	if (timed === null) return [];
	const times = lines.flatMap((l, i) => (l?.label === timed && stamps[i] ? [i] : []));
	if (times.length < BLOCKS) return [];
	const runs = times.map((at) => runAround(lines, at));
	const labels = new Set(runs.flat().map((i) => lines[i]!.label));
	const usual = [...labels].filter(
		(label) => label !== timed && runs.filter((run) => run.some((i) => lines[i]!.label === label)).length >= times.length * MOSTLY
	);
	const values = (label: string): string[] => runs.map((run) => lines[run.find((i) => lines[i]!.label === label) ?? -1]?.value ?? '');
	const ways = wayLabels(
		[...labels],
		runs.map((run) => new Set(run.map((i) => lines[i]!.label)))
	);
	if (ways) return blocksOf(lines, stamps, runs, new Set([timed, ...ways]), { timed, writers: ways, usual: new Set(usual) });
	const back = usual.filter(
		(label) => new Set(values(label)).size <= Math.max(2, times.length * COMES_BACK) && values(label).some((v) => v !== '')
	);
	const way = usual.find((label) => sayWays(values(label))) ?? null;
	const named = back.filter((l) => l !== way);
	const writer = named.find((l) => WRITER.test(l)) ?? named.find((l) => !RECIPIENT.test(l));
	if (writer === undefined) return [];
	const heading = new Set([timed, ...back, ...usual.filter((l) => RECIPIENT.test(l))]);
	const areAddresses = (label: string): boolean => values(label).filter(isAddressAlone).length >= times.length * MOSTLY;
	const address = areAddresses(writer) ? undefined : named.find((l) => l !== writer && areAddresses(l));
	const recipient = usual.find((l) => TO.test(l));
	return blocksOf(lines, stamps, runs, heading, { timed, writers: new Set([writer]), usual: new Set(usual), way, address, recipient });
}

/** What the labels of a text's blocks say. */
interface Labels {
	timed: string;
	writers: ReadonlySet<string>;
	usual: ReadonlySet<string>;
	/** Whose values are words for sent and received. */
	way?: string | null;
	/** The number or address of the writer who is named. */
	address?: string | undefined;
	recipient?: string | undefined;
}

/** Whether each of some values says which way a message went, and both ways are there. */
function sayWays(values: readonly string[]): boolean {
	const outs = values.filter((v) => isOutWord(v)).length;
	const ins = values.filter((v) => isInWord(v)).length;
	return outs > 0 && ins > 0 && outs + ins >= values.length * NEARLY_ALL;
}

function blocksOf(
	lines: readonly (Line | null)[],
	stamps: readonly (Stamp | null)[],
	runs: readonly number[][],
	heading: ReadonlySet<string>,
	{ timed, writers, usual, way, address, recipient }: Labels
): Block[] {
	const blocks: Block[] = [];
	for (const run of runs) {
		const at = run.find((i) => lines[i]!.label === timed && stamps[i]);
		const own = at === undefined ? [] : headingAround(lines, at, heading);
		const who = own.find((i) => writers.has(lines[i]!.label));
		if (at === undefined || who === undefined) continue;
		const under = (label: string | null | undefined): string => lines[own.find((i) => lines[i]!.label === label) ?? -1]?.value ?? '';
		const name = under(address) === '' ? lines[who]!.value : `${lines[who]!.value} <${under(address)}>`;
		const told = writers.size > 1 ? lines[who]!.label : under(way);
		const text = own.at(-1)! + 1;
		const next = lines[text];
		const labelled = next && usual.has(next.label) && !heading.has(next.label);
		const last = blocks.at(-1);
		if (last) last.end = own[0]!;
		blocks.push({
			start: own[0]!,
			end: lines.length,
			stamp: stamps[at]!,
			writer: told === '' ? name : `${told} ${name}`,
			recipient: under(recipient) || null,
			text,
			label: labelled ? next.skip : 0
		});
	}
	return blocks;
}

/** The lines of a block's heading: without a gap, and no label twice. */
function headingAround(lines: readonly (Line | null)[], at: number, heading: ReadonlySet<string>): number[] {
	const own = [at];
	const seen = new Set([lines[at]!.label]);
	const takes = (i: number): boolean => {
		const label = lines[i]?.label;
		if (label === undefined || !heading.has(label) || seen.has(label)) return false;
		seen.add(label);
		return true;
	};
	for (let i = at - 1; i >= 0 && takes(i); i--) own.unshift(i);
	for (let i = at + 1; i < lines.length && takes(i); i++) own.push(i);
	return own;
}

const onlyStamp = (value: string): Stamp | null => {
	const stamp = findStamp(value, true);
	return stamp && value.slice(0, stamp.from).trim() === '' && value.slice(stamp.to).trim() === '' ? stamp : null;
};

/** The labelled lines around one of them, without a gap. */
function runAround(lines: readonly (Line | null)[], at: number): number[] {
	let from = at;
	let to = at;
	while (from > 0 && at - from < LABELS && lines[from - 1] && lines[from - 1]!.label !== lines[at]!.label) from--;
	while (to + 1 < lines.length && to - at < LABELS && lines[to + 1] && lines[to + 1]!.label !== lines[at]!.label) to++;
	return Array.from({ length: to - from + 1 }, (_, i) => from + i);
}

function most(labels: readonly string[]): string | null {
	const counts = new Map<string, number>();
	for (const label of labels) counts.set(label, (counts.get(label) ?? 0) + 1);
	return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null;
}
