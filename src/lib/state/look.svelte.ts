/** The look that is running: starts it over all files of the case, shows how far it is, stops it, reads again as corrected. */
import { proxy, wrap, type Remote } from 'comlink';
import { originalOf, removeOriginals, saveOriginals, type CaseFile, type CaseRecord } from '$store';
import type { Correction } from '$core/interpret';
import type { Reach } from '$core/model';
import type { Choice } from '$core/survey';
import { REACH_WORDS } from '$core/wording';
import type { LookInput, LookReport, LookWorker, Preview, Surveyed } from '$workers/protocol';
import { readTogether } from '$workers/together';
import { NO_OWNER, theCase } from './case.svelte';
import { hashGiven, logGiven } from './hashed';

export interface Given {
	file: File;
	/** With folders, where the browser tells them. */
	path: string;
}

/** A file given, with the place it takes in the case; `before`: what is known of it, where it had been given. */
type Placed = Given & { name: string; before: CaseFile | null };

/** Originals of a case are kept in the browser as long as they are no more than this, in bytes and in number. */
const KEEP_ORIGINALS = 96 << 20;
const KEEP_FILES = 2000;
/** Files seen to at a time, whether they are still there, and of which it is logged one by one that they are not. */
const CHECKED_AT_ONCE = 1000;
const LOGGED = 100;
/** How many times longer than it took nothing is seen to again. */
const CHECK_REST = 10;
/** Above so many bytes a survey comes before the look. */
const SURVEYED_FIRST = 256 << 20;

class LookState {
	running = $state(false);
	doing = $state('');
	done = $state(0);
	total = $state(0);
	rows = $state(0);
	found = $state<{ threads: number; messages: number; lost: number } | null>(null);
	problem = $state<string | null>(null);
	paused = $state(false);
	/** What a survey said, until something is chosen of it. */
	surveyed = $state.raw<Surveyed | null>(null);
	/** When it is seen to again, in ms of the page's clock. */
	private checkAgainAt = 0;
	/** Paths of files that are not on their drive any more as they were given. */
	altered = $state.raw<string[]>([]);
	private worker: Worker | null = null;
	private remote: Remote<LookWorker> | null = null;
	/** Case whose look the worker holds. */
	private held = '';
	private startedAt = 0;
	/** Passphrases given in this tab: kept nowhere else. */
	private passphrases: string[] = [];
	/** Begins to hash what was given last. To open many files and to hash them at one time takes twice as long. */
	private hashing: (() => void) | null = null;
	/** Files given since the page was opened, by case and path. */
	private readonly given = new Map<string, File>();
	readonly share = $derived(this.total > 0 ? Math.min(1, this.done / this.total) : 0);

	/** Seconds that the present reach should still take; null where that cannot be said yet. */
	secondsLeft(): number | null {
		const spent = (performance.now() - this.startedAt) / 1000;
		return this.share > 0.05 && spent > 1 ? (spent / this.share) * (1 - this.share) : null;
	}

	/** Adds files to the open case and looks at all of its files. */
	async add(given: Given[]): Promise<void> {
		const record = theCase.record;
		if (this.running || given.length === 0 || !record) return;
		this.begin('Taking the files in');
		const files = await this.placed(record, given);
		const again = new Set(files.flatMap((f) => (f.before ? [f.path] : [])));
		const sizes = [...record.files.filter((f) => !again.has(f.path)), ...files.map(({ file }) => file)].map((f) => f.size);
		const kept = sizes.reduce((n, size) => n + size, 0);
		for (const { file, path } of files) this.given.set(`${record.id}|${path}`, file);
		if (kept <= KEEP_ORIGINALS && sizes.length <= KEEP_FILES) await saveOriginals(record.id, files).catch(() => null);
		await logGiven(files.map(({ file, path, before }) => ({ path, size: file.size, isAgain: before !== null })));
		const known = new Set(files.map((f) => f.path));
		await theCase.change((c) => {
			c.files = c.files.filter((f) => !known.has(f.path));
			for (const { file, path, name, before } of files) {
				const was = before?.was ?? (before?.sha256 || null);
				c.files.push({ name, path, size: file.size, modified: file.lastModified || null, sha256: null, was });
			}
		});
		this.hashing = (): void => void hashGiven(record.id, files);
		// What is large is surveyed first, so that something can be chosen of it.
		if (kept > SURVEYED_FIRST) {
			this.running = false;
			await this.survey();
		} else await this.run(record.choice.reach);
	}

	/**
	 * Files with the places they take: one that is not to be had any more, or given again as it was, takes its own; another
	 * one of that name is a file more.
	 */
	private async placed(record: CaseRecord, given: Given[]): Promise<Placed[]> {
		const known = new Map(record.files.map((f) => [f.path, f]));
		const back: Placed[] = [];
		const more: Given[] = [];
		for (const g of given) {
			const before = known.get(g.path);
			if (before && (await this.isBack(record.id, before, g.file))) {
				back.push({ ...g, name: before.name, before });
				known.delete(g.path);
			} else more.push(g);
		}
		const names = distinctNames(
			more,
			record.files.map((f) => f.path)
		);
		return [...back, ...names.map((f) => ({ ...f, before: null }))];
	}

	private async isBack(caseId: string, { path, size, modified }: CaseFile, file: File): Promise<boolean> {
		if (size === file.size && modified === (file.lastModified || null)) return true;
		const held = this.given.get(`${caseId}|${path}`) ?? (await originalOf(caseId, path));
		return !held || !(await isReadable(held));
	}

	/** Sees which of the files given since the page was opened are not on their drive any more as they were given. */
	async checkGiven(): Promise<void> {
		const record = theCase.record;
		const began = performance.now();
		// Of very many files it takes seconds, and the page is come back to often.
		if (!record || this.running || began < this.checkAgainAt) return;
		this.checkAgainAt = Infinity;
		const held = record.files.flatMap(({ path }) => {
			const file = this.given.get(`${record.id}|${path}`);
			return file && file.size > 0 ? [{ path, byte: file.slice(0, 1) }] : [];
		});
		const altered: string[] = [];
		for (let at = 0; at < held.length; at += CHECKED_AT_ONCE) {
			const some = held.slice(at, at + CHECKED_AT_ONCE);
			for (const [i, byte] of (await readTogether(some.map((h) => h.byte))).entries()) if (!byte) altered.push(some[i]!.path);
		}
		this.checkAgainAt = performance.now() + (performance.now() - began) * CHECK_REST;
		if (theCase.record?.id !== record.id) return;
		for (const path of altered.filter((p) => !this.altered.includes(p)).slice(0, LOGGED))
			await theCase.log({ step: 'changed', says: `${path} was moved, changed or unplugged since it was given.`, source: path });
		this.altered = altered;
	}

	/** Shows that something is under way before a look has begun. */
	begin(doing: string): void {
		this.running = true;
		this.paused = false;
		this.problem = null;
		this.found = null;
		this.done = this.total = this.rows = 0;
		this.doing = doing;
	}

	/** Goes on with a look that a closed tab or a reload cut short, unless another tab is at it. */
	async resume(): Promise<void> {
		const record = theCase.record;
		if (!record || this.running || record.state !== 'looking') return;
		const free = await navigator.locks.request(lockOf(record.id), { ifAvailable: true }, (lock) => lock !== null);
		if (!free || this.running) return;
		await theCase.log({ step: 'look', says: 'A look that was cut short is begun again.' });
		await this.look(record.reached ?? 'raw');
	}

	/** Takes files out of the case, a file or a folder called `name`; what was found in them goes, and nothing else. */
	async remove(name: string, paths: readonly string[]): Promise<void> {
		const record = theCase.record;
		if (this.running || !record) return;
		const gone = new Set(paths);
		this.begin(gone.size === 1 ? 'Taking the file out' : 'Taking the files out');
		await theCase.change((c) => (c.files = c.files.filter((f) => !gone.has(f.path))));
		for (const path of gone) this.given.delete(`${record.id}|${path}`);
		await removeOriginals(record.id, [...gone]);
		const what = gone.size === 1 ? `The file ${name} was` : `The ${gone.size} files of the folder ${name} were`;
		const found = gone.size === 1 ? 'it' : 'them';
		await theCase.log({ step: 'removed', says: `${what} taken out of the case with what was found in ${found}.`, source: name });
		await this.run(record.choice.reach);
	}

	/** Looks at all files of the case. */
	async look(reach: Reach = theCase.record?.choice.reach ?? 'raw'): Promise<void> {
		if (this.running || !theCase.record) return;
		this.begin('Opening the files');
		await this.run(reach);
	}

	private async run(reach: Reach): Promise<void> {
		const record = theCase.record!;
		this.doing = 'Opening the files';
		this.startedAt = performance.now();
		const { files, absent } = await this.filesOf(record.id);
		if (absent.length > 0) {
			this.hash();
			this.running = false;
			this.problem = `${absent.slice(0, 3).join(', ')}${absent.length > 3 ? ' and others' : ''} must be given again: the browser keeps no copy of files so large. Nothing was changed.`;
			return;
		}
		await theCase.change((c) => {
			c.state = 'looking';
			c.problem = null;
			c.pattern = null;
		});
		// The worker keeps its look: where only the reach is another, it goes on from there.
		const remote = this.remote && this.held === record.id && reach !== 'used' ? this.remote : this.fresh(record.id);
		await theCase.log({ step: 'look', says: `A look was begun at ${files.length} ${files.length === 1 ? 'file' : 'files'}.`, reach });
		try {
			// Held while it runs, so that other tabs know.
			await navigator.locks.request(lockOf(record.id), () =>
				remote.look(
					this.inputOf(record, files, reach),
					proxy((r: LookReport) => void this.take(r))
				)
			);
		} finally {
			this.hash();
			this.running = false;
			await theCase.open();
			await this.logEnd(reach);
		}
	}

	private hash(): void {
		this.hashing?.();
		this.hashing = null;
	}

	private inputOf(record: CaseRecord, files: LookInput['files'], reach: Reach): LookInput {
		return {
			caseId: record.id,
			files,
			reach,
			owner: ownerOf(record),
			zone: record.zone,
			first: [...record.loss.partners],
			passphrases: this.passphrases,
			correction: $state.snapshot(record.correction) as Correction | null,
			choice: $state.snapshot(record.choice) as Choice,
			takenAt: $state.snapshot(record.takenAt),
			names: $state.snapshot(record.names)
		};
	}

	/** Says what each store holds, in a moment, before any look. */
	async survey(): Promise<void> {
		const record = theCase.record;
		if (this.running || !record) return;
		this.begin('Surveying');
		const { files, absent } = await this.filesOf(record.id);
		if (absent.length > 0) this.problem = `${absent.slice(0, 3).join(', ')} must be given again.`;
		const worker = this.fresh(record.id);
		try {
			const all = {
				...this.inputOf(record, files, 'used'),
				choice: { leftOut: [], from: null, to: null, attachments: false, reach: 'used' as const }
			};
			this.surveyed = await worker.survey(
				all,
				proxy((r: LookReport) => void this.take(r))
			);
			await theCase.open();
			if (this.surveyed) await theCase.log({ step: 'survey', says: `A survey was made: ${this.surveyed.lines.length} stores.` });
		} catch (error) {
			this.problem = `The survey ended early: ${error instanceof Error ? error.message : String(error)}`;
		} finally {
			this.hash();
			this.running = false;
		}
	}

	/** Looks at what is chosen of what was surveyed. */
	async lookAt(choice: Choice): Promise<void> {
		await theCase.change((c) => (c.choice = choice));
		const out = choice.leftOut.length;
		await theCase.log({
			step: 'choice',
			says: `What to look at was chosen: ${out === 0 ? 'every store' : `all but ${out} stores`}${choice.from !== null || choice.to !== null ? ', messages of a span' : ''}${choice.attachments ? '' : ', no attachments'}, as far as ${REACH_WORDS[choice.reach]}.`
		});
		this.surveyed = null;
		await this.look(choice.reach);
	}

	async pause(): Promise<void> {
		this.paused = !this.paused;
		await this.remote?.pause(this.paused);
	}

	private fresh(caseId: string): Remote<LookWorker> {
		this.worker?.terminate();
		this.worker = new Worker(new URL('../../workers/look.worker.ts', import.meta.url), { type: 'module' });
		this.remote = wrap<LookWorker>(this.worker);
		this.held = caseId;
		return this.remote;
	}

	private async logEnd(reach: Reach): Promise<void> {
		const record = theCase.record;
		if (!record) return;
		const { threads, lost } = { threads: theCase.threads.length, lost: theCase.lost };
		const bytes = record.account.flatMap((a) => a.lines).reduce((n, l) => n + l.bytes, 0);
		await theCase.log({
			step: 'look',
			says:
				record.state === 'failed'
					? (record.problem ?? 'The look ended early.')
					: record.state === 'stopped'
						? 'The look was stopped.'
						: 'The look is done.',
			reach: record.reached ?? reach,
			result: `${threads} threads, ${lost} messages brought back, ${record.gaps.reduce((n, g) => n + g.count, 0)} record numbers unaccounted for; ${bytes} bytes looked at in ${record.seconds.toFixed(1)} s`
		});
	}

	private async filesOf(caseId: string): Promise<{ files: { file: Blob; name: string; path: string }[]; absent: string[] }> {
		const files: { file: Blob; name: string; path: string }[] = [];
		const absent: string[] = [];
		for (const { name, path } of theCase.record?.files ?? []) {
			const file = this.given.get(`${caseId}|${path}`) ?? (await originalOf(caseId, path));
			if (file) files.push({ file, name, path });
			else absent.push(name);
		}
		return { files, absent };
	}

	/** What some messages would read like under a correction. Looks again first where the page was reloaded. */
	async preview(correction: Correction | null, table: string): Promise<Preview | null> {
		await this.hold();
		return this.remote && this.held === theCase.record?.id ? this.remote.preview(correction, table) : null;
	}

	/** Reads the stores again as corrected and keeps the correction with the case. */
	async apply(correction: Correction | null): Promise<void> {
		await theCase.change((c) => (c.correction = correction));
		await theCase.log({
			step: 'reading',
			says: correction ? 'The reading of a store was put right.' : 'The reading of the stores was put back.'
		});
		await this.again('Reading the stores again', (remote, report) => remote.apply(correction, report));
	}

	/** Calls a correspondent so, by the number, address or name that the evidence has; '' as the evidence does. */
	async callBy(changed: Record<string, string>): Promise<void> {
		const names = { ...$state.snapshot(theCase.record!.names) };
		for (const [address, name] of Object.entries(changed)) {
			if (name === '') delete names[address];
			else names[address] = name;
			await theCase.log({
				step: 'name',
				says: name === '' ? `${address} is called as the evidence does.` : `${address} is called “${name}”: put in by hand.`
			});
		}
		await theCase.change((c) => (c.names = names));
		await this.again('Calling them so', (remote, report) => remote.callBy(names, report));
	}

	/** Has the worker write the findings of the look that it holds once more. */
	private async again(doing: string, act: (remote: Remote<LookWorker>, report: (r: LookReport) => void) => Promise<void>): Promise<void> {
		await this.hold();
		if (!this.remote || this.held !== theCase.record?.id) return;
		this.running = true;
		this.doing = doing;
		this.done = this.total = 0;
		try {
			await act(
				this.remote,
				proxy((r: LookReport) => void this.take(r))
			);
		} finally {
			this.running = false;
			await theCase.open();
		}
	}

	/** Makes sure that the worker holds the look of the open case. */
	private async hold(): Promise<void> {
		if (this.remote && this.held === theCase.record?.id) return;
		await this.look(theCase.record?.reached ?? 'raw');
	}

	/** A look under way ends first: what it finds counts, and what is asked for meanwhile comes after it. */
	async idle(): Promise<void> {
		while (this.running) await new Promise((resolve) => setTimeout(resolve, 100));
	}

	/** Tries passphrases, one a line, on what is locked. */
	async unlock(text: string): Promise<void> {
		await this.idle();
		this.passphrases = [...new Set([...this.passphrases, ...text.split(/\r?\n/).filter((l) => l !== '')])];
		await theCase.log({ step: 'unlock', says: 'A passphrase was given for what is locked. It is not written down.' });
		await this.look(theCase.record?.reached ?? 'raw');
	}

	async stop(): Promise<void> {
		this.doing = 'Stopping; what was found is being kept';
		await this.remote?.stop();
	}

	private async take(report: LookReport): Promise<void> {
		if (report.kind === 'opening') {
			const { taken, given, files } = report;
			const count = (n: number): string => n.toLocaleString('en-GB');
			const within = files > taken ? `: ${count(files)} with those in them` : '';
			this.doing = given > 1 ? `Opening the files, ${count(taken)} of ${count(given)}${within}` : `Opening the file: ${count(files)} in it`;
			this.done = taken;
			this.total = given;
		} else if (report.kind === 'progress') {
			const doing = `Looking at ${REACH_WORDS[report.reach]}${report.store ? ` of ${report.store}` : ''}`;
			if (doing !== this.doing) this.startedAt = performance.now();
			this.doing = doing;
			this.done = report.done;
			this.total = report.total;
			this.rows = report.rows;
		} else if (report.kind === 'opened') {
			this.hash();
			await theCase.open();
		} else if (report.kind === 'saved') {
			this.found = { threads: report.threads, messages: report.messages, lost: report.lost };
			await theCase.open();
		} else if (report.kind === 'failed') this.problem = report.message;
	}
}

/** Whether its bytes can still be had: a file on a drive can be gone, or changed. */
const isReadable = (file: Blob): Promise<boolean> =>
	file
		.slice(0, 1)
		.arrayBuffer()
		.then(
			() => true,
			() => false
		);

/** Whose device it is, where that was said. */
const ownerOf = (record: CaseRecord): string | null => (record.owner !== NO_OWNER ? record.owner : record.loss.owner.trim() || null);
const lockOf = (caseId: string): string => `ombudsman-look-${caseId}`;

/** Two files of one name are told apart by their folders, or by a number. */
function distinctNames(given: Given[], known: readonly string[]): { file: File; name: string; path: string }[] {
	const counts = new Map<string, number>();
	for (const path of known) counts.set(path.split('/').at(-1)!, 1);
	for (const g of given) counts.set(g.file.name, (counts.get(g.file.name) ?? 0) + 1);
	const paths = new Map<string, number>(known.map((p) => [p, 1]));
	return given.map(({ file, path }) => {
		const n = (paths.get(path) ?? 0) + 1;
		paths.set(path, n);
		const own = n === 1 ? path : `${n}/${path}`;
		return { file, path: own, name: counts.get(file.name)! > 1 ? own : file.name };
	});
}

export const theLook = new LookState();
