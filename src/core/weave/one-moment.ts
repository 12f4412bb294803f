/**
 * Whether a message is the only one that its moment can have had: then another text of that moment, in the same
 * conversation, is a wording of it, though the row it stood in has lost its number.
 */
import type { Woven } from './woven';

/** Messages in use from which it can be told that no two of a conversation are of one moment; more where moments are seconds. */
const ENOUGH = 20;
const ENOUGH_SECONDS = 60;
/** Share of the moments that have a part of a second, where that is counted. */
const FINE = 0.5;

interface OfTable {
	/** Moments by record number, ms UTC. */
	byNumber: Map<number, number>;
	/** No two messages of one conversation and way are of one moment. */
	distinct: boolean;
}

export class Moments {
	private readonly tables = new Map<number, OfTable>();

	/** `messages`: those of one store whose rows have their numbers, in use or not. */
	constructor(private readonly messages: readonly Woven[]) {}

	isAlone(w: Woven): boolean {
		const { sentAt, row } = w.first;
		if (sentAt === null) return false;
		const { byNumber, distinct } = this.of(row.table);
		if (distinct) return true;
		// Numbers are given out in turn: between two that are taken there was no room for another.
		const n = w.record;
		const [before, after] = n === null ? [] : [n === 1 ? -Infinity : byNumber.get(n - 1), byNumber.get(n + 1)];
		return before !== undefined && after !== undefined && before < sentAt && sentAt < after;
	}

	private of(table: number): OfTable {
		let known = this.tables.get(table);
		if (!known) this.tables.set(table, (known = this.read(table)));
		return known;
	}

	private read(table: number): OfTable {
		const byNumber = new Map<number, number>();
		const moments = new Set<string>();
		let [inUse, fine] = [0, 0];
		for (const { first, record, thread, standing } of this.messages) {
			if (first.row.table !== table || first.sentAt === null) continue;
			if (record !== null) byNumber.set(record, first.sentAt);
			if (standing !== 'kept') continue;
			inUse++;
			if (first.sentAt % 1000 !== 0) fine++;
			moments.add(`${thread}|${first.direction}|${first.sentAt}`);
		}
		return { byNumber, distinct: inUse >= (fine > inUse * FINE ? ENOUGH : ENOUGH_SECONDS) && moments.size === inUse };
	}
}
