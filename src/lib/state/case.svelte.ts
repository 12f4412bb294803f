/** The open case: its record, threads and picks. The one owner of that state on the page. */
import { changeCase, latestCase, picksOf, savePicks, threadsOf, type CaseRecord, type Picks, type ThreadRecord } from '$store';

class CaseState {
	record = $state.raw<CaseRecord | null>(null);
	threads = $state.raw<ThreadRecord[]>([]);
	picks = $state.raw<Picks>({ caseId: '', threads: {} });
	/** Whether storage has been asked yet. */
	opened = $state(false);

	readonly lost = $derived(this.threads.reduce((n, t) => n + t.binned + t.dropped + t.remnant, 0));
	readonly withLosses = $derived(this.threads.filter((t) => t.binned + t.dropped + t.remnant + t.missing > 0));
	readonly pickedThreads = $derived(Object.keys(this.picks.threads).filter((id) => this.threads.some((t) => t.id === id)));
	readonly pickedMessages = $derived(
		this.pickedThreads.reduce(
			(n, id) =>
				n + (this.picks.threads[id] === 'all' ? (this.threads.find((t) => t.id === id)?.count ?? 0) : this.picks.threads[id]!.length),
			0
		)
	);

	/** Reads the newest case from storage; also after the look has written more. */
	async open(): Promise<void> {
		const record = await latestCase();
		if (record) {
			const [threads, picks] = await Promise.all([threadsOf(record.id), picksOf(record.id)]);
			this.threads = threads;
			if (this.picks.caseId !== record.id) this.picks = picks;
		} else {
			this.threads = [];
			this.picks = { caseId: '', threads: {} };
		}
		this.record = record;
		this.opened = true;
	}

	/** Changes what the user may change of the case. */
	async set(change: Partial<Pick<CaseRecord, 'name' | 'owner' | 'zone'>>): Promise<void> {
		if (!this.record) return;
		await changeCase(this.record.id, (c) => Object.assign(c, change));
		this.record = { ...this.record, ...change };
	}

	async rename(name: string): Promise<void> {
		await this.set({ name: name.trim().slice(0, 120) || 'Untitled case' });
	}

	isThreadPicked(id: string): boolean {
		return this.picks.threads[id] === 'all';
	}

	isPicked(thread: string, message: string): boolean {
		const pick = this.picks.threads[thread];
		return pick === 'all' || (Array.isArray(pick) && pick.includes(message));
	}

	toggleThread(id: string): void {
		const { [id]: before, ...rest } = this.picks.threads;
		this.setPicks(before === 'all' ? rest : { ...rest, [id]: 'all' });
	}

	/** `all`: ids of every message of the thread, needed to take one out of a thread picked whole. */
	toggleMessage(thread: string, message: string, all: () => string[]): void {
		const { [thread]: before, ...rest } = this.picks.threads;
		const now =
			before === 'all'
				? all().filter((m) => m !== message)
				: before?.includes(message)
					? before.filter((m) => m !== message)
					: [...(before ?? []), message];
		this.setPicks(now.length === 0 ? rest : { ...rest, [thread]: now });
	}

	private setPicks(threads: Picks['threads']): void {
		if (!this.record) return;
		this.picks = { caseId: this.record.id, threads };
		void savePicks($state.snapshot(this.picks) as Picks);
	}
}

export const theCase = new CaseState();
