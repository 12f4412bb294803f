/** The open case: its record, threads and picks. The one owner of that state on the page. */
import {
	allCases,
	appendLog,
	caseSchema,
	changeCase,
	onChangeElsewhere,
	picksOf,
	readCase,
	saveCase,
	savePicks,
	threadsOf,
	type CaseRecord,
	type Picks,
	type ThreadRecord
} from '$store';
import { localZone } from './zone';
import type { NewEntry } from '$core/log';

/** Shown until somebody says whose device it is. */
export const NO_OWNER = 'The owner';
const OPEN_CASE = 'ombudsman-case';
const WHO = 'ombudsman-who';

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

	/** "Today" for dates of the case, ms UTC: the demo's is fixed. */
	get today(): number {
		return this.record?.today ?? Date.now();
	}

	/** Reads the open case from storage (or the one opened last); also after the look has written more. */
	async open(id?: string, elsewhere = false): Promise<void> {
		const wanted = id ?? this.record?.id ?? localStorage.getItem(OPEN_CASE);
		const record = (wanted ? await readCase(wanted) : null) ?? (await allCases())[0] ?? null;
		if (record) {
			localStorage.setItem(OPEN_CASE, record.id);
			// What is picked here is newer than what storage has, unless another tab changed it.
			const own = this.picks.caseId === record.id && !elsewhere;
			const [threads, picks] = await Promise.all([threadsOf(record.id), own ? this.picks : picksOf(record.id)]);
			this.threads = threads;
			if (!own) this.picks = picks;
		} else {
			this.threads = [];
			this.picks = { caseId: '', threads: {} };
		}
		this.record = record;
		this.opened = true;
	}

	/** Follows what another tab changes in this case. */
	follow(): void {
		onChangeElsewhere(
			(id) => {
				if (id === this.record?.id) void this.open(id);
			},
			(id) => {
				if (id === this.record?.id) void this.open(id, true);
			}
		);
	}

	/** Makes a new, empty case and opens it. */
	async create(more: Partial<CaseRecord> & { name: string }): Promise<CaseRecord> {
		const record = caseSchema.parse({
			id: crypto.randomUUID(),
			createdAt: Date.now(),
			openedAt: Date.now(),
			demo: false,
			owner: NO_OWNER,
			zone: localZone(),
			files: [],
			state: 'done',
			reached: null,
			problem: null,
			notes: [],
			account: [],
			gaps: [],
			seconds: 0,
			...more
		});
		await saveCase(record);
		this.record = record;
		await this.log({ step: 'case', says: `The case “${record.name}” was begun.` });
		await this.open(record.id);
		return record;
	}

	/** Opens a case from the list. */
	async switchTo(id: string): Promise<void> {
		await changeCase(id, (c) => (c.openedAt = Date.now()));
		this.record = null;
		await this.open(id);
	}

	/** Changes the case in storage and here. */
	async change(change: (record: CaseRecord) => void): Promise<void> {
		if (!this.record) return;
		const changed = await changeCase(this.record.id, change);
		if (changed) this.record = changed;
	}

	/** Changes what the user may change of the case. */
	async set(change: Partial<Pick<CaseRecord, 'name' | 'owner' | 'zone'>>): Promise<void> {
		await this.change((c) => void Object.assign(c, change));
	}

	/** Who works on cases in this browser, for the log. */
	get who(): string {
		return localStorage.getItem(WHO) ?? 'The technician';
	}

	set who(name: string) {
		localStorage.setItem(WHO, name.trim().slice(0, 120) || 'The technician');
	}

	async log(entry: Omit<NewEntry, 'at' | 'zone' | 'who'>): Promise<void> {
		if (this.record) await appendLog(this.record.id, { at: Date.now(), zone: this.record.zone, who: this.who, ...entry });
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
