/** The look that is running: starts it, shows how far it is, stops it. */
import { proxy, wrap, type Remote } from 'comlink';
import { changeCase, deleteCase, latestCase, saveCase, type CaseRecord } from '$store';
import type { Reach } from '$core/model';
import type { HashWorker, LookReport, LookWorker } from '$workers/protocol';
import { theCase } from './case.svelte';
import { localZone } from './zone';

export interface Given {
	file: File;
	/** With folders, where the browser tells them. */
	path: string;
}

const REACH_WORDS: Record<Reach, string> = { used: 'rows in use', logs: 'logs and journals', freed: 'freed space', raw: 'raw bytes' };

class LookState {
	running = $state(false);
	doing = $state('');
	done = $state(0);
	total = $state(0);
	rows = $state(0);
	found = $state<{ threads: number; messages: number; lost: number } | null>(null);
	problem = $state<string | null>(null);
	private worker: Worker | null = null;
	private remote: Remote<LookWorker> | null = null;
	private startedAt = 0;
	readonly share = $derived(this.total > 0 ? Math.min(1, this.done / this.total) : 0);

	/** Seconds that the present reach should still take; null where that cannot be said yet. */
	secondsLeft(): number | null {
		const spent = (performance.now() - this.startedAt) / 1000;
		return this.share > 0.05 && spent > 1 ? (spent / this.share) * (1 - this.share) : null;
	}

	async start(given: Given[], options: { name: string; demo?: boolean; zone?: string; owner?: string }): Promise<void> {
		if (this.running || given.length === 0) return;
		const files = distinctNames(given);
		const record: CaseRecord = {
			id: crypto.randomUUID(),
			name: options.name,
			createdAt: Date.now(),
			demo: options.demo ?? false,
			owner: options.owner ?? 'The owner',
			zone: options.zone ?? localZone(),
			files: files.map((f) => ({ name: f.name, path: f.path, size: f.file.size, modified: f.file.lastModified || null, sha256: null })),
			state: 'looking',
			reached: null,
			problem: null,
			notes: [],
			account: [],
			gaps: [],
			seconds: 0
		};
		const before = await latestCase();
		await saveCase(record);
		if (before) await deleteCase(before.id);
		this.running = true;
		this.problem = null;
		this.found = null;
		this.done = this.total = this.rows = 0;
		this.doing = 'Opening the files';
		this.startedAt = performance.now();
		await theCase.open();
		void this.hash(record.id, files);
		this.worker = new Worker(new URL('../../workers/look.worker.ts', import.meta.url), { type: 'module' });
		this.remote = wrap<LookWorker>(this.worker);
		try {
			await this.remote.look(
				{ caseId: record.id, files, reach: 'raw', owner: null },
				proxy((r: LookReport) => void this.take(r))
			);
		} finally {
			this.worker.terminate();
			this.worker = null;
			this.running = false;
			await theCase.open();
		}
	}

	async stop(): Promise<void> {
		this.doing = 'Stopping; what was found is being kept';
		await this.remote?.stop();
	}

	private async take(report: LookReport): Promise<void> {
		if (report.kind === 'progress') {
			const doing = `Looking at ${REACH_WORDS[report.reach]}${report.store ? ` of ${report.store}` : ''}`;
			if (doing !== this.doing) this.startedAt = performance.now();
			this.doing = doing;
			this.done = report.done;
			this.total = report.total;
			this.rows = report.rows;
		} else if (report.kind === 'saved') {
			this.found = { threads: report.threads, messages: report.messages, lost: report.lost };
			await theCase.open();
		} else if (report.kind === 'failed') this.problem = report.message;
	}

	private async hash(caseId: string, files: { file: File; path: string }[]): Promise<void> {
		const worker = new Worker(new URL('../../workers/hash.worker.ts', import.meta.url), { type: 'module' });
		const remote = wrap<HashWorker>(worker);
		try {
			for (const { file, path } of files) {
				const sha256 = await remote.sha256(file).catch(() => null);
				await changeCase(caseId, (c) => {
					for (const f of c.files) if (f.path === path) f.sha256 = sha256;
				});
			}
		} finally {
			worker.terminate();
		}
		await theCase.open();
	}
}

/** Two files of one name are told apart by their folders, or by a number. */
function distinctNames(given: Given[]): { file: File; name: string; path: string }[] {
	const counts = new Map<string, number>();
	for (const g of given) counts.set(g.file.name, (counts.get(g.file.name) ?? 0) + 1);
	const paths = new Map<string, number>();
	return given.map(({ file, path }) => {
		const n = (paths.get(path) ?? 0) + 1;
		paths.set(path, n);
		const own = n === 1 ? path : `${n}/${path}`;
		return { file, path: own, name: counts.get(file.name)! > 1 ? own : file.name };
	});
}

export const theLook = new LookState();
