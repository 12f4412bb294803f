/** The thread being read: its messages loaded chunk by chunk, what of them is shown, and which one is in focus. */
import { detailOf, messageChunk, CHUNK, type Detail, type SlimMessage, type ThreadRecord } from '$store';
import type { CaseRecord } from '$store';
import { localDay } from './zone';

export type LedgerItem =
	| { kind: 'day'; key: string; at: number | null }
	| { kind: 'message'; key: string; message: SlimMessage; earlier: SlimMessage[] }
	| { kind: 'gap'; key: string; gap: CaseRecord['gaps'][number] };

export type Shown = 'all' | 'lost';

const LAST_THREAD = 'ombudsman-thread';

class LedgerState {
	thread = $state.raw<ThreadRecord | null>(null);
	messages = $state.raw<SlimMessage[]>([]);
	loading = $state(false);
	shown = $state<Shown>('all');
	/** Span of time to which the ribbon narrows the ledger, ms UTC. */
	span = $state.raw<[number, number] | null>(null);
	focus = $state<string | null>(null);
	detail = $state.raw<Detail | null>(null);
	private generation = 0;

	async open(caseId: string, thread: ThreadRecord, focus: string | null = null): Promise<void> {
		const mine = ++this.generation;
		const same = this.thread?.id === thread.id;
		localStorage.setItem(LAST_THREAD, thread.id);
		this.thread = thread;
		if (!same) {
			this.messages = [];
			this.focus = focus;
			this.detail = null;
		} else if (focus) this.focus = focus;
		this.loading = true;
		const all: SlimMessage[] = [];
		for (let n = 0; n < thread.chunks; n++) {
			const chunk = await messageChunk(caseId, thread.id, n);
			if (mine !== this.generation) return;
			for (const m of chunk) all.push(m);
			// The first page is there to be read while the rest comes.
			if (n === 0 && !same) this.messages = all.slice();
			if (n % 12 === 11) await new Promise((resolve) => setTimeout(resolve, 0));
		}
		if (mine !== this.generation) return;
		this.messages = all;
		this.loading = false;
		this.focus ??= this.firstFocus();
		await this.loadDetail(caseId);
	}

	/** The newest lost message, else the last message. */
	private firstFocus(): string | null {
		const lost = this.messages.findLast((m) => m.standing !== 'kept' && !m.earlierWordingOf);
		return (lost ?? this.messages.at(-1))?.id ?? null;
	}

	async setFocus(caseId: string, id: string): Promise<void> {
		this.focus = id;
		await this.loadDetail(caseId);
	}

	private async loadDetail(caseId: string): Promise<void> {
		const id = this.focus;
		const thread = this.thread;
		const index = this.messages.findIndex((m) => m.id === id);
		if (!id || !thread || index < 0) {
			this.detail = null;
			return;
		}
		const chunk = await detailOf(caseId, thread.id, Math.floor(index / CHUNK));
		if (this.focus === id && this.thread === thread) this.detail = chunk.find((d) => d.id === id) ?? null;
	}

	/** The thread that was being read last, also before a reload. */
	lastOpened(): string | null {
		return localStorage.getItem(LAST_THREAD);
	}

	close(): void {
		this.generation++;
		this.thread = null;
		this.messages = [];
		this.focus = null;
		this.detail = null;
	}
}

export const theLedger = new LedgerState();

const NO_EARLIER: SlimMessage[] = [];

/** Lines of the ledger: day headings, messages with their earlier wordings, gaps in their place. */
export function ledgerItems(
	messages: readonly SlimMessage[],
	gaps: CaseRecord['gaps'],
	options: { thread: string; shown: Shown; span: [number, number] | null; zone: string }
): LedgerItem[] {
	const items: LedgerItem[] = [];
	const earlier = new Map<string, SlimMessage[]>();
	for (const m of messages) {
		if (!m.earlierWordingOf) continue;
		const list = earlier.get(m.earlierWordingOf);
		if (list) list.push(m);
		else earlier.set(m.earlierWordingOf, [m]);
	}
	const here = gaps.filter((g) => g.threads.includes(options.thread)).sort((a, b) => (a.after ?? -Infinity) - (b.after ?? -Infinity));
	let nextGap = 0;
	let day: number | null = null;
	const pushGapsBefore = (at: number): void => {
		while (nextGap < here.length && (here[nextGap]!.after ?? -Infinity) < at) {
			const gap = here[nextGap++]!;
			const middle = gap.after ?? gap.before ?? 0;
			if (options.span && (middle < options.span[0] || middle > options.span[1])) continue;
			items.push({ kind: 'gap', key: `g${gap.why}-${gap.table}-${gap.from}`, gap });
		}
	};
	for (const m of messages) {
		if (m.earlierWordingOf) continue;
		if (options.shown === 'lost' && m.standing === 'kept' && !earlier.has(m.id)) continue;
		if (options.span && (m.sentAt === null || m.sentAt < options.span[0] || m.sentAt > options.span[1])) continue;
		if (m.sentAt !== null) pushGapsBefore(m.sentAt);
		const key = m.sentAt === null ? NaN : localDay(m.sentAt, options.zone);
		if (!Object.is(key, day)) {
			day = key;
			items.push({ kind: 'day', key: `d${key}-${m.id}`, at: m.sentAt });
		}
		items.push({ kind: 'message', key: m.id, message: m, earlier: earlier.get(m.id) ?? NO_EARLIER });
	}
	pushGapsBefore(Infinity);
	return items;
}
