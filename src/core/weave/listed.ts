/**
 * Messages that existed by the store's own word and were seen nowhere: a thread's counter that is higher than what is
 * known of it, and lists that name messages by their keys. What a store counts down on deletion says nothing here.
 */
import { cell, keyOf, messageKeyOf, type MessageReading, type SheetColumn } from '../interpret';
import type { Gap } from '../model';
import { messagesOf } from './across';
import type { WovenStore } from './weave';
import type { Woven } from './woven';

const COUNT_NAME = /count|total|num(ber)?_?(of)?_?(messages|msgs|letters|items)|messages$|msgs$/i;
const NOT_A_COUNT = /unread|unseen|new|pending|member|user|badge|id$/i;
/** Share of the threads whose counter must be what is known of them. */
const MOSTLY = 0.6;
const ENOUGH_THREADS = 3;
/** Share of a list's keys that must be those of messages known. */
const LISTS_MESSAGES = 0.8;

/** `numbered`: gaps told from record numbers. What they count already is not counted again. */
export function listedGaps(store: WovenStore, messages: readonly Woven[], numbered: readonly Gap[]): Gap[] {
	const gaps: Gap[] = [];
	for (const m of store.reading.messages) {
		const own = messagesOf(messages, m);
		gaps.push(...byCounter(store, m, own), ...byList(store, m, own));
	}
	const left = numbered.map((gap) => ({ gap, count: gap.count }));
	return gaps.flatMap((gap) => {
		let { count } = gap;
		const isOf = (known: Gap): boolean => gap.threads.length === 0 || gap.threads.some((t) => known.threads.includes(t));
		// Those that surely are of this thread first: of the others nobody knows of which they are.
		for (const known of [...left.filter((l) => isOf(l.gap)), ...left.filter((l) => !isOf(l.gap) && !l.gap.certainThread)]) {
			const counted = Math.min(count, known.count);
			known.count -= counted;
			count -= counted;
		}
		return count > 0 ? [{ ...gap, count }] : [];
	});
}

function byCounter(store: WovenStore, m: MessageReading, own: readonly Woven[]): Gap[] {
	const key = m.thread?.key ?? m.threadJoin?.threadKey ?? null;
	if (!key) return [];
	const { tables } = store;
	const kept = new Map<string, number>();
	const known = new Map<string, Woven[]>();
	for (const w of own) {
		const thread = w.first.threadKey.startsWith('t:') ? w.first.threadKey.slice(2) : null;
		if (thread === null) continue;
		if (w.standing === 'kept' || w.standing === 'binned') kept.set(thread, (kept.get(thread) ?? 0) + 1);
		const list = known.get(thread);
		if (list) list.push(w);
		else known.set(thread, [w]);
	}
	const counters = key.sheet.columns.filter(
		(c: SheetColumn) => c !== key.column && c.profile.ints > 0 && !c.profile.time && COUNT_NAME.test(c.name) && !NOT_A_COUNT.test(c.name)
	);
	for (const column of counters) {
		const rows = key.sheet.rows.flatMap((row) => {
			const thread = messageKeyOf(row, key.column, tables);
			const value = cell(row, column, tables);
			return row.standing === 'kept' && thread !== null && typeof value === 'number' && value >= 0 ? [{ thread, value }] : [];
		});
		if (rows.length < ENOUGH_THREADS) continue;
		const isKept = rows.filter((r) => r.value === (kept.get(r.thread) ?? 0)).length;
		const isKnown = rows.filter((r) => r.value === (known.get(r.thread)?.length ?? 0)).length;
		// Where it is mostly what is in use, and losses are known that it does not count, it is counted down.
		if (isKnown < rows.length * MOSTLY || (isKept >= isKnown && own.some((w) => w.standing !== 'kept' && w.standing !== 'binned')))
			continue;
		return rows.flatMap(({ thread, value }): Gap[] => {
			const list = known.get(thread) ?? [];
			if (value <= list.length) return [];
			return [
				{
					store: store.name,
					table: key.sheet.name,
					from: 0,
					to: 0,
					count: value - list.length,
					after: null,
					before: null,
					why: 'counter',
					threads: list[0] ? [list[0].thread] : [],
					certainThread: true
				}
			];
		});
	}
	return [];
}

function byList(store: WovenStore, m: MessageReading, own: readonly Woven[]): Gap[] {
	if (!m.guid) return [];
	const { tables } = store;
	const known = new Set(own.flatMap((w) => (w.first.guid ? [w.first.guid] : [])));
	const missing = new Set<string>();
	let table = '';
	for (const { sheet } of store.reading.sheets) {
		if (sheet === m.sheet) continue;
		for (const column of sheet.columns) {
			if (column.profile.uuid < 0.8 || column.profile.texts === 0) continue;
			const values = new Set(sheet.rows.flatMap((r) => (r.standing === 'kept' ? [keyOf(cell(r, column, tables))] : [])));
			const listed = [...values].filter((v): v is string => typeof v === 'string');
			const there = listed.filter((v) => known.has(v)).length;
			if (listed.length === 0 || there < listed.length * LISTS_MESSAGES || there === listed.length) continue;
			for (const v of listed) if (!known.has(v)) missing.add(v);
			table ||= sheet.name;
		}
	}
	if (missing.size === 0) return [];
	return [
		{
			store: store.name,
			table,
			from: 0,
			to: 0,
			count: missing.size,
			after: null,
			before: null,
			why: 'list',
			threads: [],
			certainThread: false
		}
	];
}
