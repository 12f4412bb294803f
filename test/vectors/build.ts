/** Builds one vector: a story in a layout, put through a situation, with its truth and the oracle of bytes still there. */
import { copyFileSync, existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createDatabase, memoryEngine, type Engine } from './engine';
import type { Layout } from './layouts';
import { Random } from './random';
import { makeStory, type Story, type StoryMessage } from './story';

export interface Situation {
	name: string;
	pragmas?: string[];
	wal?: boolean;
	/** After the messages were written: what is done to them. */
	act(w: World): void;
	options?: { messages?: number; longTexts?: boolean };
	/** Needs side files, which the engine for UTF-16 cannot keep. */
	sideFiles?: boolean;
}

export interface World {
	db: Engine;
	r: Random;
	story: Story;
	layout: Layout;
	remove(m: StoryMessage): void;
	edit(m: StoryMessage, text: string): void;
	insertMore(n: number): void;
	live(): StoryMessage[];
	/** Takes the files as they are now; the rest of the act changes nothing that is looked at. */
	snapshot(): void;
	group(act: () => void): void;
}

export interface TruthMessage extends StoryMessage {
	deleted: boolean;
	/** Whether the text's bytes still stand in one of the files. */
	there: boolean;
	/** Earlier wordings, oldest first. */
	earlier: string[];
}

export interface Vector {
	name: string;
	layout: Layout;
	story: Story;
	files: { name: string; bytes: Uint8Array }[];
	truth: TruthMessage[];
	/** Every text that was ever stored: anything else reported is false. */
	texts: Set<string>;
}

export const SITUATIONS: readonly Situation[] = [
	{ name: 'nothing deleted', act: () => undefined },
	{
		name: 'single rows',
		act: (w) =>
			w.group(() =>
				w
					.live()
					.filter(() => w.r.chance(0.12))
					.forEach((m) => w.remove(m))
			)
	},
	{
		name: 'a whole thread',
		act: (w) => {
			const talk = w.r.int(0, 3);
			w.group(() =>
				w
					.live()
					.filter((m) => m.talk === talk)
					.forEach((m) => w.remove(m))
			);
		}
	},
	{
		name: 'oldest first',
		act: (w) =>
			w.group(() =>
				w
					.live()
					.slice(0, Math.floor(w.live().length * 0.4))
					.forEach((m) => w.remove(m))
			)
	},
	{ name: 'everything', act: (w) => w.group(() => w.live().forEach((m) => w.remove(m))) },
	{
		name: 'deleted, then more written',
		act: (w) => {
			w.group(() =>
				w
					.live()
					.filter(() => w.r.chance(0.2))
					.forEach((m) => w.remove(m))
			);
			w.insertMore(40);
		}
	},
	{
		name: 'edited',
		act: (w) =>
			w
				.live()
				.filter(() => w.r.chance(0.05))
				.forEach((m) => w.edit(m, `${m.text} (put right)`))
	},
	{
		name: 'log not yet taken over',
		wal: true,
		sideFiles: true,
		act: (w) => {
			w.group(() =>
				w
					.live()
					.filter(() => w.r.chance(0.1))
					.forEach((m) => w.remove(m))
			);
			w.insertMore(10);
			w.snapshot();
		}
	},
	{
		name: 'log partly taken over',
		wal: true,
		sideFiles: true,
		act: (w) => {
			w.group(() =>
				w
					.live()
					.filter(() => w.r.chance(0.1))
					.forEach((m) => w.remove(m))
			);
			w.db.all('pragma wal_checkpoint(restart)');
			w.insertMore(5);
			w.group(() =>
				w
					.live()
					.slice(0, 5)
					.forEach((m) => w.remove(m))
			);
			w.snapshot();
		}
	},
	{
		name: 'journal kept',
		pragmas: ['journal_mode=persist'],
		sideFiles: true,
		act: (w) => {
			w.insertMore(5);
			w.group(() =>
				w
					.live()
					.filter(() => w.r.chance(0.1))
					.forEach((m) => w.remove(m))
			);
			w.snapshot();
		}
	},
	{
		name: 'long texts',
		options: { longTexts: true },
		act: (w) =>
			w.group(() =>
				w
					.live()
					.filter(() => w.r.chance(0.15))
					.forEach((m) => w.remove(m))
			)
	},
	{
		name: 'auto-vacuum',
		pragmas: ['auto_vacuum=full'],
		act: (w) =>
			w.group(() =>
				w
					.live()
					.slice(10, 120)
					.forEach((m) => w.remove(m))
			)
	},
	{
		name: 'secure delete',
		pragmas: ['secure_delete=on'],
		act: (w) =>
			w.group(() =>
				w
					.live()
					.filter(() => w.r.chance(0.1))
					.forEach((m) => w.remove(m))
			)
	},
	{
		name: 'vacuumed',
		act: (w) => {
			w.group(() =>
				w
					.live()
					.filter(() => w.r.chance(0.1))
					.forEach((m) => w.remove(m))
			);
			w.db.exec('vacuum');
		}
	},
	{
		name: 'pages of 512',
		pragmas: ['page_size=512'],
		act: (w) =>
			w.group(() =>
				w
					.live()
					.filter(() => w.r.chance(0.12))
					.forEach((m) => w.remove(m))
			)
	},
	{
		name: 'pages of 65536',
		pragmas: ['page_size=65536'],
		act: (w) =>
			w.group(() =>
				w
					.live()
					.filter(() => w.r.chance(0.12))
					.forEach((m) => w.remove(m))
			)
	},
	{
		name: 'pages of 1024, one by one',
		pragmas: ['page_size=1024'],
		act: (w) =>
			w
				.live()
				.filter(() => w.r.chance(0.15))
				.forEach((m) => w.remove(m))
	}
];

export function buildVector(layout: Layout, situation: Situation, seed: number): Vector | null {
	if (layout.encoding && situation.sideFiles) return null;
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-vector-'));
	const path = join(folder, 'store.db');
	const taken = join(folder, 'taken.db');
	const story = makeStory(seed, {
		messages: (situation.options?.messages ?? 300) + 60,
		groups: layout.groups ? 2 : 0,
		longTexts: situation.options?.longTexts ?? false
	});
	const first = story.messages.slice(0, -60);
	const later = story.messages.slice(-60);
	const r = new Random(seed + 7);
	const truth = new Map<number, TruthMessage>();
	let snapped = false;
	try {
		const pragmas = [
			...(layout.encoding ? [`encoding='${layout.encoding}'`] : []),
			...(situation.pragmas ?? []),
			...(situation.wal ? ['journal_mode=wal', 'wal_autocheckpoint=0'] : [])
		];
		const db = layout.encoding ? memoryEngine(path, pragmas) : createDatabase(path, pragmas);
		layout.setUp(db, story);
		const write = (m: StoryMessage): void => {
			layout.insert(db, story, m);
			truth.set(m.id, { ...m, deleted: false, there: false, earlier: [] });
		};
		db.exec('begin');
		first.forEach(write);
		db.exec('commit');
		if (situation.wal) db.all('pragma wal_checkpoint(truncate)');
		const files: Vector['files'] = [];
		const world: World = {
			db,
			r,
			story,
			layout,
			remove: (m) => {
				layout.remove(db, story, m);
				truth.get(m.id)!.deleted = true;
			},
			edit: (m, text) => {
				layout.edit(db, story, m, text);
				const t = truth.get(m.id)!;
				t.earlier.push(t.text);
				t.text = text;
			},
			insertMore: (n) => {
				for (const m of later.splice(0, n)) write(m);
			},
			live: () => [...truth.values()].filter((m) => !m.deleted),
			snapshot: () => {
				snapped = true;
				for (const ending of ['', '-wal', '-journal']) {
					if (!existsSync(path + ending)) continue;
					copyFileSync(path + ending, taken + ending);
					files.push({ name: `store.db${ending}`, bytes: readFileSync(taken + ending) });
				}
			},
			group: (act) => {
				db.exec('begin');
				act();
				db.exec('commit');
			}
		};
		situation.act(world);
		db.close();
		if (!snapped) files.push({ name: 'store.db', bytes: readFileSync(path) });
		markThere([...truth.values()], files, layout);
		const texts = new Set([...truth.values()].flatMap((m) => [m.text, ...m.earlier]));
		return { name: `${layout.name} · ${situation.name}`, layout, story, files, truth: [...truth.values()], texts };
	} finally {
		rmSync(folder, { recursive: true, force: true });
	}
}

/** The oracle: a text longer than a few characters whose bytes stand whole in one of the files (all of it, or all parts around page joins). */
function markThere(truth: TruthMessage[], files: Vector['files'], layout: Layout): void {
	const buffers = files.map((f) => Buffer.from(f.bytes));
	for (const m of truth) {
		const stored = layout.name === 'json' ? JSON.stringify(m.text).slice(1, -1) : m.text;
		const needle =
			layout.encoding === 'UTF-16be' ? Buffer.from(stored, 'utf16le').swap16() : Buffer.from(stored, layout.encoding ? 'utf16le' : 'utf8');
		m.there = needle.length >= 8 && buffers.some((b) => b.includes(needle));
	}
}
