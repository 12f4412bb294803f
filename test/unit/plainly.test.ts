/** Stores laid out plainly, copied up to three times: every message once with all that is known of it, and no number a gap that has been seen. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { contactLines } from '../../src/cli/contacts';
import { openPaths } from '../../src/cli/files';
import { messageLine } from '../../src/cli/lines';
import { Look } from '../../src/core/look';
import { GROWN } from '../vectors/grown-layouts';
import { JOINED } from '../vectors/joined-layouts';
import { LATER } from '../vectors/later-layouts';
import { RARER } from '../vectors/rarer-layouts';
import { ROOMED } from '../vectors/roomed-layouts';
import { ROUNDABOUT } from '../vectors/roundabout-layouts';
import { SHARED_OUT } from '../vectors/shared-out-layouts';
import { SPREAD } from '../vectors/spread-layouts';
import { STRINGS } from '../vectors/string-layouts';
import { TAKEN_APART } from '../vectors/taken-apart-layouts';
import { USUAL } from '../vectors/usual-layouts';
import { VARIED } from '../vectors/varied-layouts';
import { writePlainly, type Plain, type PlainCase } from '../vectors/plainly';

const SEEDS = Array.from({ length: 60 }, (_, i) => i + 1);
const JOINED_SEEDS = 56;
const ROOMED_SEEDS = 48;
const USUAL_SEEDS = 60;
const RARER_SEEDS = 36;
const STRINGS_SEEDS = 12;
const GROWN_SEEDS = 60;
const VARIED_SEEDS = 48;
const ROUNDABOUT_SEEDS = 60;
const TAKEN_APART_SEEDS = 50;
const LATER_SEEDS = 60;
const SPREAD_SEEDS = 36;
const SHARED_OUT_SEEDS = 36;

interface Line {
	id: string;
	thread: string;
	text: string | null;
	sentAt: string;
	direction: string;
	correspondent: string | null;
	person: string | null;
	standing: string;
	grade: string;
	captures?: { state: string }[];
	earlierWordingOf?: string;
	attachments: { sha256: string | null }[];
}

const AT_DESK = /@desk\.example$/;
const STANDINGS = { in: 'kept', binned: 'binned', out: 'dropped', before: 'dropped' };

const factsOf = (line: Line): object => ({
	direction: line.direction,
	// A number, or the account that is called by it; in rooms the first part of an address.
	correspondent: line.correspondent?.replace(/^(\d{9,})@chat\.example$/, '+$1').replace(AT_DESK, '') ?? null,
	person: line.person,
	standing: line.standing,
	grade: line.grade,
	states: line.captures?.map((c) => c.state) ?? null,
	files: line.attachments.map((a) => a.sha256)
});
const expected = (m: Plain): object => ({
	direction: m.out ? 'out' : 'in',
	correspondent: m.correspondent?.replace(AT_DESK, '') ?? null,
	person: m.person,
	standing: STANDINGS[m.states.at(-1)!],
	grade: 'whole',
	states: m.states.length > 1 ? m.states : null,
	files: m.sha256 === null ? [] : [m.sha256]
});

describe('stores laid out plainly', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-plainly-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	for (const seed of SEEDS) it(`seed ${seed}`, () => isReadRight(writePlainly(join(folder, String(seed)), seed)));
	for (const seed of SEEDS.slice(0, JOINED_SEEDS))
		it(`in several tables, seed ${seed}`, () => isReadRight(writePlainly(join(folder, `joined ${seed}`), seed, JOINED)));
	for (const seed of SEEDS.slice(0, ROOMED_SEEDS))
		it(`with rooms told by little, seed ${seed}`, () => isReadRight(writePlainly(join(folder, `roomed ${seed}`), seed, ROOMED)));
	for (const seed of SEEDS.slice(0, USUAL_SEEDS))
		it(`as grown programs have it, seed ${seed}`, () => isReadRight(writePlainly(join(folder, `usual ${seed}`), seed, USUAL)));
	for (const seed of SEEDS.slice(0, RARER_SEEDS))
		it(`of other habits, seed ${seed}`, () => isReadRight(writePlainly(join(folder, `rarer ${seed}`), seed, RARER)));
	for (const seed of SEEDS.slice(0, GROWN_SEEDS))
		it(`as programs have it that grew for years, seed ${seed}`, () =>
			isReadRight(writePlainly(join(folder, `grown ${seed}`), seed, GROWN)));
	for (const seed of SEEDS.slice(0, VARIED_SEEDS))
		it(`as others have it who put things elsewhere, seed ${seed}`, () =>
			isReadRight(writePlainly(join(folder, `varied ${seed}`), seed, VARIED)));
	for (const seed of SEEDS.slice(0, ROUNDABOUT_SEEDS))
		it(`as others have it who say things in a roundabout way, seed ${seed}`, () =>
			isReadRight(writePlainly(join(folder, `roundabout ${seed}`), seed, ROUNDABOUT)));
	for (const seed of SEEDS.slice(0, TAKEN_APART_SEEDS))
		it(`as others have it who take things apart, seed ${seed}`, () =>
			isReadRight(writePlainly(join(folder, `apart ${seed}`), seed, TAKEN_APART)));
	for (const seed of SEEDS.slice(0, SPREAD_SEEDS))
		it(`spread over columns and rows, seed ${seed}`, () => isReadRight(writePlainly(join(folder, `spread ${seed}`), seed, SPREAD)));
	for (const seed of SEEDS.slice(0, SHARED_OUT_SEEDS))
		it(`shared out by month, by room or by way, seed ${seed}`, () =>
			isReadRight(writePlainly(join(folder, `shared ${seed}`), seed, SHARED_OUT)));
	for (const seed of SEEDS.slice(0, LATER_SEEDS))
		it(`of programs that went on, seed ${seed}`, () => isReadRight(writePlainly(join(folder, `later ${seed}`), seed, LATER)));
	for (const seed of SEEDS.slice(0, STRINGS_SEEDS))
		it(`with strings kept once, seed ${seed}`, () => isReadRight(writePlainly(join(folder, `strings ${seed}`), seed, STRINGS)));
});

function isReadRight(made: PlainCase): void {
	// Given in another order than they were made in.
	const look = new Look(openPaths(made.folders.toReversed()), { reach: 'raw', owner: made.owner });
	for (const event of look.run()) void event;
	const { stores, weave } = look.findings();
	const lines = weave.threads.flatMap((t) =>
		t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as Line)
	);
	const now = lines.filter((l) => !l.earlierWordingOf && l.grade !== 'fragment');
	const threads = new Map<string, string>();
	const texts = new Set<string | null>();
	for (const m of made.messages) {
		for (const text of [m.text, ...m.wordings]) texts.add(text);
		const what = `${made.made}: ${m.text ?? '(a file alone)'}`;
		const same = now.filter((l) => l.text === m.text && Date.parse(l.sentAt) === m.at);
		const seen = m.states.some((s) => s === 'in' || s === 'binned');
		if (!seen) assert.equal(same.length <= 1 && same.every((l) => l.standing === 'remnant' || l.standing === 'dropped'), true, what);
		if (!seen) continue;
		assert.equal(same.length, 1, `${what}, so often`);
		assert.deepEqual(factsOf(same[0]!), expected(m), what);
		assert.equal(threads.get(m.thread) ?? same[0]!.thread, same[0]!.thread, `${what}: its thread`);
		threads.set(m.thread, same[0]!.thread);
	}
	assert.equal(new Set(threads.values()).size, threads.size, `${made.made}: threads`);
	const strange = now.filter((l) => l.text !== null && !texts.has(l.text));
	assert.deepEqual(
		strange.filter((l) => l.standing === 'kept' || l.standing === 'binned').map((l) => l.text),
		[],
		`${made.made}: never said`
	);
	if (made.people.length > 0) {
		const names = new Set(contactLines(look).flatMap((c) => (c as unknown as { name: string | null }).name ?? []));
		assert.deepEqual([...names].filter((n) => n !== 'Owen Farrow').sort(), [...made.people].sort(), `${made.made}: contacts`);
	}
	if (made.written === null) return;
	const counted = weave.gaps.reduce((n, gap) => n + gap.count, 0);
	assert.equal(now.length + counted <= made.written, true, `${made.made}: ${now.length} found and ${counted} in gaps`);
}
