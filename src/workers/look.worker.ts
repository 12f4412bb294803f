/** Runs a look off the page's thread and writes what it finds to the browser's storage as it goes. */
import { expose } from 'comlink';
import { ExportHarvest } from '../core/harvest';
import { Look } from '../core/look';
import type { Reach } from '../core/model';
import { isWith, placesWith } from '../core/prospects';
import { sourcesOf, withKnown } from '../core/sources';
import type { SurveyLine } from '../core/survey';
import { filesOf, unwrap, type Heard, type Unwrapped } from '../core/unwrap';
import { patternOf, plainMessage, plainThread, type WovenThread } from '../core/weave';
import solidWasm from '7z-wasm/7zz.wasm?url';
import { loadSolid } from './solid';
import { describeNote } from '../core/wording';
import {
	CHUNK,
	changeCase,
	isFull,
	removeThreads,
	saveReadings,
	saveThread,
	threadsOf,
	type CaseRecord,
	type Detail,
	type SlimMessage,
	type ThreadRecord
} from '../store';
import { makeScratch } from './blob-scratch';
import type { LookInput, LookReport, LookWorker, PreviewLine } from './protocol';
import { FileGone, GoneFiles } from './gone';
import { readHeads, withHead } from './heads';
import { ReadAhead } from './read-ahead';

const SLICE_MS = 80;
/** Findings are written at the end of each reach, and within one when this long has passed, or ten times what writing took. */
const WRITE_EVERY_MS = 4000;

let stopping = false;
let paused = false;
const breathe = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 0));

const ahead = new ReadAhead(new Worker(new URL('./read-ahead.worker.ts', import.meta.url), { type: 'module' }));

const api: LookWorker = {
	async look(input, report) {
		stopping = paused = false;
		try {
			await run(input, report);
		} catch (error) {
			if (error instanceof StoppedOpening) return endStopped(input, report);
			const message = isFull(error)
				? 'The browser has no space left for findings. What was found so far is kept. Free some space, then look again.'
				: error instanceof FileGone
					? `${error.message} What was found so far is kept. Give it again, or take it out: the others are looked at then.`
					: `The look ended early: ${error instanceof Error ? error.message : String(error)}`;
			// Where there is no room at all the page says it alone.
			await changeCase(input.caseId, (c) => {
				c.state = 'failed';
				c.problem = message;
			}).catch(() => null);
			report({ kind: 'failed', message });
		}
	},
	async survey(input, report) {
		stopping = paused = false;
		const from = performance.now();
		const opened = await open(input, report).catch((error: unknown) => {
			if (error instanceof StoppedOpening) return null;
			throw error;
		});
		if (!opened) return null;
		const { look, unwrapped, gone } = opened;
		await noteSources(input, opened, null);
		const lines = look.survey();
		await noteSources(input, opened, lines, true);
		unwrapped.notes.push(...gone.notes([]));
		const read = lines.reduce((n, l) => n + Math.min(l.bytes.used, 48 << 20), 0);
		return {
			lines: lines.map((l) => ({ ...l, device: unwrapped.backups.find((b) => b.files.some((f) => f.path === l.path))?.device ?? null })),
			locked: unwrapped.locked.slice(0, LOCKED_AT_MOST),
			notes: [...unwrapped.notes, ...look.allNotes()].slice(0, 50).map(describeNote),
			speed: read / Math.max(0.05, (performance.now() - from) / 1000)
		};
	},
	stop() {
		stopping = true;
		paused = false;
	},
	pause(on) {
		paused = on;
	},
	preview(correction, table) {
		if (!held) return null;
		const { look, input } = held;
		const before = linesOf(look, table);
		look.correct(correction);
		const after = linesOf(look, table);
		look.correct(input.correction);
		return { before: before.lines, after: after.lines, counts: [before.counts, after.counts] };
	},
	async apply(correction, report) {
		if (!held) return;
		held.input.correction = correction;
		held.look.correct(correction);
		await writeAgain(held, report);
	},
	async callBy(names, report) {
		if (!held) return;
		held.input.names = names;
		held.look.callBy(names);
		await writeAgain(held, report);
	}
};

/** The look last made, kept to be read again. */
let held: { look: Look; unwrapped: Unwrapped; gone: GoneFiles; input: LookInput; reached: Reach; stopped: boolean } | null = null;

/** What a look depends on beside its reach. */
const keyOf = ({ files, owner, zone, correction, choice, passphrases, takenAt }: LookInput): string =>
	JSON.stringify([
		files.map((f) => [f.path, f.file.size]),
		owner,
		zone,
		correction,
		choice.leftOut,
		choice.from,
		choice.to,
		choice.attachments,
		passphrases,
		takenAt
	]);

/** Two files of one name are told apart by their paths. */
function distinctNames<T extends { name: string; path: string }>(files: readonly T[]): T[] {
	const counts = new Map<string, number>();
	for (const f of files) counts.set(f.name, (counts.get(f.name) ?? 0) + 1);
	return files.map((f) => (counts.get(f.name)! > 1 ? { ...f, name: f.path } : f));
}

const INSIDE_AT_MOST = 20_000;
/** Locked containers that are named, at most. */
const LOCKED_AT_MOST = 200;

/** The tree of what was given, where that is more than the files themselves. */
function insideOf(unwrapped: Unwrapped): CaseRecord['inside'] {
	if (unwrapped.files.every((f) => !f.origin)) return [];
	return unwrapped.files
		.filter((f) => f.origin)
		.slice(0, INSIDE_AT_MOST)
		.map((f) => ({ path: f.path, size: (f.stored ?? f.source).size, modified: f.modified ?? null, origin: f.origin! }));
}

const PREVIEWED = 8;

function linesOf(look: Look, table: string): { lines: PreviewLine[]; counts: { messages: number; threads: number } } {
	const { stores, weave } = look.findings();
	const lines: PreviewLine[] = [];
	let messages = 0;
	for (const thread of weave.threads) messages += thread.messages.length;
	for (const store of stores) {
		const ids = new Set(store.harvest.tables.filter((t) => t.name === table).map((t) => t.index));
		const own = weave.threads.flatMap((t) => t.messages.filter((m) => stores[m.store] === store && ids.has(m.first.row.table)));
		const byRecord = own.sort((a, b) => (a.record ?? Infinity) - (b.record ?? Infinity));
		const step = Math.max(1, Math.floor(byRecord.length / PREVIEWED));
		for (let i = 0; i < byRecord.length && lines.length < PREVIEWED; i += step) {
			const { first, thread } = byRecord[i]!;
			lines.push({
				text: first.text?.slice(0, 120) ?? null,
				sentAt: first.sentAt,
				direction: first.direction,
				who: first.correspondent?.name ?? first.correspondent?.address ?? null,
				thread: weave.threads.find((t) => t.id === thread)?.title ?? ''
			});
		}
	}
	return { lines, counts: { messages, threads: weave.threads.length } };
}
expose(api);

/** The user stopped before all was opened: nothing was found, and nothing is lost. */
class StoppedOpening extends Error {}

/** What was found before stays; a look that was stopped can go on. */
async function endStopped({ caseId }: LookInput, report: (r: LookReport) => void): Promise<void> {
	await changeCase(caseId, (c) => {
		c.state = 'stopped';
	});
	report({ kind: 'ended', how: 'stopped' });
}

/** Says now and then what is being opened, and lets the page pause or stop it. */
function heardBy(report: (r: LookReport) => void): Heard {
	let last = performance.now();
	return async (opening) => {
		if (performance.now() - last < SLICE_MS) return;
		report({ kind: 'opening', taken: opening.taken, given: opening.given, files: opening.files });
		await breathe();
		while (paused) await new Promise((resolve) => setTimeout(resolve, 100));
		if (stopping) throw new StoppedOpening();
		last = performance.now();
	};
}

async function open(input: LookInput, report: (r: LookReport) => void): Promise<{ look: Look; unwrapped: Unwrapped; gone: GoneFiles }> {
	const gone = new GoneFiles();
	const heads = await readHeads(input.files.map((f) => f.file));
	const unwrapped = await unwrap(
		input.files.map((f, i) => ({ name: f.name, path: f.path, source: withHead(gone.watch(ahead.source(f.file), f.path), heads[i]!) })),
		input.passphrases,
		() => loadSolid(solidWasm),
		makeScratch,
		heardBy(report)
	);
	const stated = Object.keys(input.takenAt);
	const look = new Look(distinctNames(unwrapped.files), {
		reach: input.reach,
		owner: input.owner,
		zone: input.zone,
		correction: input.correction,
		names: input.names,
		leftOut: input.choice.leftOut,
		dates: { from: input.choice.from, to: input.choice.to },
		// What the user states counts before what a backup states.
		takenAt: new Map([
			...[...unwrapped.takenAt].filter(([path]) => !stated.some((s) => path.startsWith(`${s}/`))),
			...Object.entries(input.takenAt)
		]),
		devices: unwrapped.devices
	});
	return { look, unwrapped, gone };
}

/** Says which files are gone meanwhile; throws where a store is among them, or what was `lookedAt` before. */
function sayWhatIsGone({ look, gone }: { look: Look; gone: GoneFiles }, lookedAt: readonly string[] = []): void {
	const stores = look.groups.flatMap((g) => filesOf(g).flatMap((file) => look.files[file]?.path ?? []));
	const notes = gone.notes([...stores, ...lookedAt]);
	// Of a file that is gone nothing else is known.
	const names = new Set(notes.map((n) => n.detail?.['name']));
	const left = look.notes.filter((n) => n.file === undefined || !names.has(look.files[n.file]?.path));
	look.notes.splice(0, look.notes.length, ...left, ...notes);
}

async function run(input: LookInput, report: (r: LookReport) => void): Promise<void> {
	const started = performance.now();
	// The same again, only further: goes on where it stood.
	const same = held !== null && !held.stopped && keyOf(held.input) === keyOf(input) ? held : null;
	const opened = same ?? (await open(input, report));
	const { look, unwrapped } = opened;
	if (same) {
		look.goOnTo(input.reach);
		look.callBy(input.names);
	}
	// What was looked at before is not replaced by nothing.
	let lookedAt: readonly string[] = [];
	await changeCase(input.caseId, (c) => {
		lookedAt = c.lookedAt;
	});
	await noteSources(input, opened, null);
	report({ kind: 'opened' });
	if (!same) look.notes.push(...unwrapped.notes);
	sayWhatIsGone(opened, lookedAt);
	let sliceEnd = performance.now() + SLICE_MS;
	let lastWrite = performance.now();
	let writeTook = 0;
	let reached: Reach | null = null;
	let stopped = false;
	for (const event of look.run()) {
		const arrival = ahead.arrival();
		if (arrival) await arrival;
		const now = performance.now();
		if (event.kind === 'progress' && now >= sliceEnd) {
			report({ kind: 'progress', store: event.store, reach: event.reach, done: event.done, total: event.total, rows: event.rows });
			await breathe();
			sayWhatIsGone(opened);
			while (paused) await new Promise((resolve) => setTimeout(resolve, 100));
			sliceEnd = performance.now() + SLICE_MS;
		}
		const due = event.kind === 'findings' || (reached !== null && now - lastWrite > Math.max(WRITE_EVERY_MS, writeTook * 10));
		if (event.kind === 'findings') reached = event.reach;
		if (due || stopping) {
			const from = performance.now();
			await write(opened, input, reached ?? event.reach, started, report);
			writeTook = performance.now() - from;
			lastWrite = performance.now();
		}
		if (stopping) {
			stopped = true;
			break;
		}
	}
	held = { ...opened, input, reached: reached ?? 'used', stopped };
	await changeCase(input.caseId, (c) => {
		c.state = stopped ? 'stopped' : 'done';
		c.seconds = (performance.now() - started) / 1000;
	});
	report({ kind: 'ended', how: stopped ? 'stopped' : 'done' });
}

/** What was given, as far as it is known, with the places that it makes; `lines` of its stores, null before they are read. */
async function noteSources(
	input: LookInput,
	{ look, unwrapped, gone }: { look: Look; unwrapped: Unwrapped; gone: GoneFiles },
	lines: readonly SurveyLine[] | null,
	isSurvey = false
): Promise<void> {
	const given = input.files.map(({ path, file }) => ({ path, size: file.size }));
	const { backups } = unwrapped;
	const locked = unwrapped.locked.slice(0, LOCKED_AT_MOST);
	const files = unwrapped.files.map((f) => ({ path: f.path, size: (f.stored ?? f.source).size }));
	await changeCase(input.caseId, (c) => {
		c.locked = locked;
		c.inside = insideOf(unwrapped);
		// Whose copy it is a look tells, and a survey does not.
		const others = new Set(isSurvey ? c.sources.flatMap((s) => (s.what === 'other side' ? s.stores : [])) : []);
		const stores = (lines ?? []).map((line) => (others.has(line.path) ? { ...line, otherSide: true } : line));
		const sources = sourcesOf({ given, files, backups, locked, books: look.addressBooks(), stores });
		// What is left out of the look, or gone, was told what it is before; until anything is read that is so of all.
		const isLeft = (store: string): boolean => lines === null || input.choice.leftOut.includes(store) || gone.has(store);
		c.sources = withKnown(sources, c.sources, { given, isLeft });
		c.places = placesWith(c.sources, {
			places: c.places,
			offList: c.offList,
			given: given.map((g) => g.path),
			all: lines !== null,
			today: c.today ?? Date.now(),
			zone: c.zone
		});
	});
}

async function write(
	opened: { look: Look; unwrapped: Unwrapped; gone: GoneFiles },
	input: LookInput,
	reached: Reach,
	started: number,
	report: (r: LookReport) => void
): Promise<void> {
	const { look } = opened;
	const { caseId } = input;
	const { stores, weave } = look.findings();
	sayWhatIsGone(opened);
	const media = input.choice.attachments ? look.media : null;
	const before = new Map((await threadsOf(caseId)).map((t) => [t.id, t]));
	let messages = 0;
	let lost = 0;
	const order = new Map(weave.threads.map((t, i) => [t.id, i]));
	const asked = weave.threads.filter((t) => isWith(t, input.first));
	for (const thread of [...asked, ...weave.threads.filter((t) => !asked.includes(t))]) {
		const plain = plainThread(thread, weave);
		messages += plain.count;
		lost += plain.dropped + plain.remnant + plain.binned;
		const signature = `${signatureOf(thread)}${media ? '' : ' without files'}`;
		const known = before.get(thread.id);
		before.delete(thread.id);
		const record: ThreadRecord = {
			...plain,
			caseId,
			order: order.get(thread.id)!,
			chunks: Math.ceil(thread.messages.length / CHUNK),
			days: daysOf(thread),
			signature
		};
		if (known?.signature === signature && known.order === record.order && known.missing === record.missing) continue;
		const slim: SlimMessage[][] = [];
		const details: Detail[][] = [];
		for (let at = 0; at < thread.messages.length; at += CHUNK) {
			const chunk = thread.messages
				.slice(at, at + CHUNK)
				.map((m) => plainMessage(m, stores, look.files, { hex: true, stored: true, ...(media ? { media } : {}) }, weave));
			slim.push(chunk.map(({ sightings: _s, stored: _v, moreSightings: _m, ...rest }) => rest));
			details.push(
				chunk.map(({ id, sightings, stored, moreSightings }) => ({ id, sightings, stored, ...(moreSightings ? { moreSightings } : {}) }))
			);
		}
		await saveThread(record, slim, details);
	}
	await removeThreads(caseId, [...before.keys()]);
	await saveReadings(caseId, look.readings());
	const pattern = patternOf(weave);
	const notes = [...look.allNotes(), ...look.notesOfOthers()].map((n) => ({ text: describeNote(n), severity: n.severity }));
	const lostAnywhere = weave.threads.some((t) => t.messages.some((m) => m.standing !== 'kept'));
	for (const store of stores) {
		// An exported file has no space in which something deleted could be left.
		const isDatabase = !(store.harvest instanceof ExportHarvest);
		if (isDatabase && store.reading.messages.length > 0 && !lostAnywhere && (reached === 'freed' || reached === 'raw'))
			notes.push({ text: describeNote({ code: 'no-residue', severity: 'note', detail: { store: store.name } }), severity: 'note' });
	}
	await changeCase(caseId, (c) => {
		c.reached = reached;
		c.gaps = weave.gaps.slice(0, 20_000);
		c.notes = notes.slice(0, 200);
		c.account = look.account();
		c.families = weave.families.map(({ captures }) => ({
			captures,
			messages: captures.some((capture) => stores[capture.store]!.reading.messages.length > 0)
		}));
		c.compared = weave.compared.slice(0, 5000);
		c.lookedAt = input.files.map((f) => f.path);
		c.pattern = pattern;
		c.seconds = (performance.now() - started) / 1000;
	});
	await noteSources(input, opened, look.lines());
	report({ kind: 'saved', reach: reached, threads: weave.threads.length, messages, lost });
}

/** Writes the findings of the look that is held, read otherwise now. */
async function writeAgain(of: NonNullable<typeof held>, report: (r: LookReport) => void): Promise<void> {
	await write(of, of.input, of.reached, performance.now(), report);
	report({ kind: 'ended', how: 'done' });
}

const sumOf = (text: string, from: number): number => [...text].reduce((n, c) => (n * 31 + c.codePointAt(0)!) % 2147483647, from);

function signatureOf(thread: WovenThread): string {
	let sightings = 0;
	let standings = 0;
	let read = 0;
	for (const m of thread.messages) {
		read = sumOf(m.first.correspondent?.name ?? '', read);
		read = (read * 31 + (m.first.sentAt ?? 1) + (m.first.direction === 'out' ? 7 : 3) + (m.first.text?.length ?? 0)) % 2147483647;
		sightings += m.sightings.length;
		standings = (standings * 31 + (m.standing.length + m.grade.length)) | 0;
	}
	return `${thread.title}|${thread.members.map((m) => m.name).join()}|${thread.messages.length}|${sightings}|${standings}|${read}`;
}

const DAY = 86_400_000;
const SLOT = { kept: 1, binned: 2, dropped: 3, remnant: 4 } as const;

function daysOf(thread: WovenThread): ThreadRecord['days'] {
	const days = new Map<number, [number, number, number, number, number]>();
	for (const m of thread.messages) {
		if (m.first.sentAt === null || m.earlierWordingOf) continue;
		const day = Math.floor(m.first.sentAt / DAY);
		let counts = days.get(day);
		if (!counts) days.set(day, (counts = [day, 0, 0, 0, 0]));
		counts[SLOT[m.standing]]++;
	}
	return [...days.values()].sort((a, b) => a[0] - b[0]);
}
