/** Backups of one phone lined up in time: every message with its standing, its captures and between which it went; names from the phone's own address book; pictures by the paths that are stated. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { messageLine } from '../../src/cli/lines';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { unwrap } from '../../src/core/unwrap';
import { treeLines } from '../../src/cli/tree';
import { HOLDERS, LIST_FORMS, Phone, type Talked } from '../vectors/backups';

const DATES = [Date.UTC(2025, 0, 5, 9), Date.UTC(2025, 1, 1, 9), Date.UTC(2025, 1, 20, 9)];
const iso = (ms: number | null): string | null => (ms === null ? null : new Date(ms).toISOString());

interface Line {
	text: string | null;
	sentAt: string | null;
	direction: string | null;
	correspondent: string | null;
	person: string | null;
	standing: string;
	captures?: { state: string }[];
	lastSeen: string | null;
	firstMissing: string | null;
	attachments: { sha256: string | null; link: string | null }[];
}

async function linesOf(paths: string[]): Promise<Line[]> {
	const unwrapped = await unwrap(openPaths(paths), []);
	const look = new Look(unwrapped.files, { reach: 'raw', owner: null, takenAt: unwrapped.takenAt });
	for (const event of look.run()) void event;
	const { stores, weave } = look.findings();
	return weave.threads.flatMap((t) =>
		t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as Line)
	);
}

/** The line that this message must give, of these backups. */
function expected(m: Talked, dates: readonly number[]): Line {
	const states = dates.map((_, i) => (m.heldBy.has(i) ? (m.heldBy.get(i) ? 'in' : 'out') : 'before'));
	const last = states.lastIndexOf('in');
	const missing = m.alive ? -1 : states.findIndex((s, i) => i > last && s === 'out');
	return {
		text: m.text,
		sentAt: iso(m.at * 1000),
		direction: m.mine ? 'out' : 'in',
		correspondent: HOLDERS[m.with]!.number,
		person: HOLDERS[m.with]!.name,
		standing: m.alive ? 'kept' : 'dropped',
		captures: states.map((state) => ({ state })),
		lastSeen: missing < 0 ? null : iso(dates[last]!),
		firstMissing: missing < 0 ? null : iso(dates[missing]!),
		attachments: m.picture ? [{ sha256: m.picture.sha256, link: 'stated path' }] : []
	};
}

const slim = (line: Line): Line => ({
	text: line.text,
	sentAt: line.sentAt,
	direction: line.direction,
	correspondent: line.correspondent,
	person: line.person,
	standing: line.standing,
	captures: (line.captures ?? []).map(({ state }) => ({ state })),
	lastSeen: line.lastSeen,
	firstMissing: line.firstMissing,
	attachments: line.attachments.map(({ sha256, link }) => ({ sha256, link }))
});

describe('backups of one phone', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-backups-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	for (const seed of [3, 8])
		it(`are lined up by what they state, whatever they are called (seed ${seed})`, async () => {
			const phone = new Phone(join(folder, `phone-${seed}`), seed);
			phone.write(120, DATES[0]! / 1000);
			phone.backup('second', DATES[0]!);
			phone.remove((m) => m.id % 11 === 4);
			phone.write(50, DATES[1]! / 1000);
			phone.backup('first', DATES[1]!);
			phone.remove((m) => m.with === 1);
			phone.write(25, DATES[2]! / 1000);
			phone.backup('third', DATES[2]!);
			const lines = await linesOf([join(folder, `phone-${seed}`, 'backups')]);
			const byText = new Map(lines.map((l) => [l.text, slim(l)]));
			assert.equal(lines.length, phone.messages.length, 'each message once, and nothing else');
			for (const m of phone.messages) assert.deepEqual(byText.get(m.text), expected(m, DATES));
		});

	for (const list of LIST_FORMS)
		it(`a partial one holds what did not change since the one before (listed as ${list})`, async () => {
			const place = join(folder, `partial ${list}`);
			const phone = new Phone(place, 5, list);
			phone.write(60, DATES[0]! / 1000);
			phone.backup('one', DATES[0]!);
			phone.backup('two', DATES[1]!, true);
			phone.remove((m) => m.id % 7 === 2);
			phone.backup('three', DATES[2]!, true);
			const lines = await linesOf([join(place, 'backups')]);
			assert.equal(lines.length, phone.messages.length);
			for (const line of lines) {
				const m = phone.messages.find((x) => x.text === line.text)!;
				assert.deepEqual(slim(line), expected(m, DATES), 'what two did not change, it held all the same');
			}
			const tree = (await treeLines(await unwrap(openPaths([join(place, 'backups')]), []), [], 'clock.txt', true)) as { path: string }[];
			const within = list.startsWith('area') || list === 'rows' ? 'HomeDomain/' : '';
			assert.deepEqual(
				tree.map((l) => l.path),
				['one', 'three', 'two'].map((b) => join(place, 'backups', b, `${within}Library/Preferences/clock.txt`))
			);
		});
});
