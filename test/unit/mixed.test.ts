/**
 * Copies of a phone's store, the same account's store of another layout on a desk computer, and what one of the other
 * side exported, given together: every message once, with the phone's captures, its own time, its thread and its file.
 */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { messageLine } from '../../src/cli/lines';
import { Look } from '../../src/core/look';
import { writePlainly, type Plain, type PlainCase } from '../vectors/plainly';
import { ROOMED } from '../vectors/roomed-layouts';
import { USUAL } from '../vectors/usual-layouts';

const PAIRS: [phone: string, desk: string][] = [
	['beside', 'members'],
	['beside', 'talks'],
	['members', 'talks'],
	['members', 'beside'],
	['talks', 'members'],
	['talks', 'beside']
];
const SEEDS = [1, 2, 3, 4];
/** The phone's program in one of these, the desk's in one of those. */
const USUAL_PAIRS: [phone: string, desk: string][] = [
	['parts', 'members'],
	['accounts', 'happenings'],
	['bits', 'talks'],
	['happenings', 'bits'],
	['beside', 'parts']
];
const LAYOUTS = { ...ROOMED, ...USUAL };
const OWNER_NAME = 'Owen Farrow';

interface Line {
	thread: string;
	text: string | null;
	sentAt: string | null;
	direction: string;
	person: string | null;
	standing: string;
	grade: string;
	captures?: { state: string }[];
	firstMissing: string | null;
	earlierWordingOf?: string;
	attachments: { sha256: string | null }[];
}

describe('a phone, a desk computer and an export together', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-mixed-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	for (const [phone, desk] of [...PAIRS, ...USUAL_PAIRS])
		for (const seed of SEEDS)
			it(`${phone} on the phone, ${desk} on the desk, seed ${seed}`, () => {
				const here = join(folder, `${phone} ${desk} ${seed}`);
				const ofPhone = writePlainly(join(here, 'phone'), seed, { [phone]: LAYOUTS[phone]! });
				const ofDesk = writePlainly(join(here, 'desk'), seed, { [desk]: LAYOUTS[desk]! });
				const exported = writeExport(join(here, 'conversation.txt'), ofPhone);
				areReadTogether([...ofPhone.folders, ofDesk.folders[0]!, ...exported.paths], ofPhone, exported.messages);
			});
});

/** What the one with most messages exported, to the minute, all that was there at the end. */
function writeExport(path: string, { messages }: PlainCase): { paths: string[]; messages: Set<Plain> } {
	const single = messages.filter((m) => m.text !== null && m.sha256 === null && m.states.at(-1) === 'in' && m.thread.startsWith('u_'));
	const talks = [...new Set(single.map((m) => m.thread))].map((thread) => single.filter((m) => m.thread === thread));
	const [most] = talks.sort((a, b) => b.length - a.length);
	if (!most || most.length < 6 || most.every((m) => m.out) || most.every((m) => !m.out)) return { paths: [], messages: new Set() };
	const name = most.find((m) => !m.out)!.person ?? 'Agathe Zimmer';
	const stamp = (at: number): string => new Date(at).toISOString().slice(0, 16).replace('T', ' ');
	writeFileSync(path, most.map((m) => `${stamp(m.at)} - ${m.out ? OWNER_NAME : name}: ${m.text!}\n`).join(''));
	return { paths: [path], messages: new Set(most) };
}

function areReadTogether(paths: string[], made: PlainCase, exported: ReadonlySet<Plain>): void {
	const look = new Look(openPaths(paths), { reach: 'raw', owner: made.owner, zone: 'UTC' });
	for (const event of look.run()) void event;
	const { stores, weave } = look.findings();
	const lines = weave.threads
		.flatMap((t) => t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, 'UTC') as unknown as Line))
		.filter((l) => !l.earlierWordingOf && l.grade !== 'fragment');
	const threads = new Map<string, Set<string>>();
	let checked = 0;
	for (const m of made.messages.filter((one) => one.states.includes('in'))) {
		const what = `${made.made}: ${m.text ?? '(a file alone)'}`;
		const same = lines.filter((l) => [m.text, ...m.wordings].includes(l.text) && Math.abs(Date.parse(l.sentAt!) - m.at) < 60_000);
		const own = same.filter((l) => m.text !== null || l.attachments.some((a) => a.sha256 === m.sha256));
		assert.equal(own.length, 1, `${what}, so often`);
		const [line] = own;
		assert.equal(Date.parse(line!.sentAt!), m.at, `${what}: its own time${exported.has(m) ? ', not the export’s' : ''}`);
		assert.equal(line!.direction, m.out ? 'out' : 'in', `${what}: its way`);
		// The desk's copy is as old as the phone's oldest.
		const inUse = m.states.at(-1) === 'in' || m.states[0] === 'in';
		assert.equal(line!.standing, inUse ? 'kept' : 'dropped', `${what}: its standing`);
		if (m.states.length > 1)
			assert.deepEqual(
				line!.captures?.map((c) => c.state),
				m.states,
				`${what}: its captures`
			);
		if (m.states.at(-1) === 'out') assert.notEqual(line!.firstMissing, null, `${what}: when it went`);
		if (m.sha256 !== null) assert.equal(line!.attachments[0]?.sha256, m.sha256, `${what}: its file`);
		threads.set(m.thread, (threads.get(m.thread) ?? new Set()).add(line!.thread));
		checked++;
	}
	assert.equal(checked > 20, true, 'messages were compared');
	assert.deepEqual(
		[...threads.values()].map((ids) => ids.size),
		[...threads].map(() => 1),
		`${made.made}: a thread each`
	);
	assert.equal(new Set([...threads.values()].flatMap((ids) => [...ids])).size, threads.size, `${made.made}: threads apart`);
}
