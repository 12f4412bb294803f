/** Profile folders of desk programs: who wrote in whose conversation, and which received file is which message's. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { plainMessage, type Message } from '../../src/core/weave';
import { profile, type Profiled } from '../vectors/profiles';

const SEEDS = Array.from({ length: 48 }, (_, i) => i + 1);

describe('profile folders composed at random', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-profiles-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	for (const seed of SEEDS)
		it(`seed ${seed}`, () => {
			const { folder: place, made, messages } = profile(join(folder, String(seed)), seed);
			const found = read(place);
			const threads = new Map<string, string>();
			for (const m of messages) {
				const what = `${made}: ${m.id} ${m.text ?? '(a file alone)'}`;
				const same = found.filter((f) => f.text === m.text && f.sentAt === m.at * 1000);
				if (!m.there && same.length === 0) continue;
				assert.equal(same.length, 1, `${what}, so often`);
				assert.deepEqual(factsOf(same[0]!), expected(m), what);
				const thread = m.group ? 'group' : m.name!;
				threads.set(thread, threads.get(thread) ?? same[0]!.thread);
				assert.equal(same[0]!.thread, threads.get(thread), what);
				if (!m.deleted) assert.deepEqual(filesOf(same[0]!), m.file ? [m.file.sha256] : [], what);
			}
			assert.equal(new Set(threads.values()).size, threads.size, made);
			const said = new Set(messages.map((m) => m.text));
			assert.deepEqual(
				found.filter((f) => f.grade !== 'fragment' && !said.has(f.text)).map((f) => f.text),
				[],
				made
			);
		});
});

function read(place: string): Message[] {
	const look = new Look(openPaths([place]), { reach: 'raw', owner: null });
	for (const event of look.run()) void event;
	const { stores, weave } = look.findings();
	const options = { hex: false, stored: false, media: look.media };
	return weave.threads.flatMap((t) => t.messages.map((m) => plainMessage(m, stores, look.files, options)));
}

const factsOf = (m: Message): unknown => ({
	direction: m.direction,
	correspondent: m.correspondent,
	person: m.person,
	isKept: m.standing === 'kept'
});
const expected = (m: Profiled): unknown => ({
	direction: m.out ? 'out' : 'in',
	correspondent: m.address,
	person: m.name,
	isKept: !m.deleted
});
const filesOf = (m: Message): (string | null)[] => (m.attachments ?? []).map((a) => a.sha256);
