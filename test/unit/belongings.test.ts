/** What belongs to messages is read with them, in whatever way a store keeps it: wordings, reactions, bin, files, members. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { composeBelongings, OWNER, type Belonging } from '../vectors/belongings';

const SEEDS = Array.from({ length: 48 }, (_, i) => i + 1);

describe('stores whose messages have belongings', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-belongings-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	for (const seed of SEEDS)
		it(`seed ${seed}`, () => {
			const store = composeBelongings(join(folder, `${seed}.db`), seed);
			const look = new Look(openPaths([store.path]), { reach: 'raw', owner: OWNER });
			for (const event of look.run()) void event;
			const woven = look.findings().weave.threads.flatMap((t) => t.messages.map((m) => ({ m, thread: t.id })));
			const main = new Map(woven.filter(({ m }) => !m.earlierWordingOf).map((w) => [w.m.first.text, w]));
			const threads = new Map<number, Set<string>>();
			const wrongWith = (said: Belonging): string[] => {
				const found = main.get(said.text);
				if (!found) return ['missing'];
				const { first, standing } = found.m;
				const members = store.talks[said.talk]!;
				const other = said.out ? (members.length > 1 ? null : members[0]!) : said.who;
				const wrong: string[] = [];
				if (Math.floor((first.sentAt ?? 0) / 1000) !== said.at) wrong.push('time');
				if (first.direction !== (said.out ? 'out' : 'in')) wrong.push('way');
				if (other === null ? first.correspondent !== null : !isPerson(first.correspondent, other)) wrong.push('who');
				if (standing !== (said.binned ? 'binned' : 'kept')) wrong.push(`standing ${standing}`);
				if (said.file && !first.files.some((f) => f.name === said.file)) wrong.push('file');
				if (said.reaction && !first.attached.some((a) => a.what === said.reaction)) wrong.push('reaction');
				const wordings = woven.filter(({ m }) => m.earlierWordingOf === found.m).map(({ m }) => m.first.text);
				if ((said.earlier ?? wordings[0] ?? null) !== (wordings[0] ?? null)) wrong.push('wording');
				threads.set(said.talk, (threads.get(said.talk) ?? new Set()).add(found.thread));
				return wrong;
			};
			const isPerson = (party: { address: string | null; name: string | null } | null, p: number): boolean =>
				party !== null && [store.address(p), `+44770090031${p + 1}`].includes(party.address ?? '') && party.name === store.name(p);
			const wrong = store.messages.filter((m) => !m.gone).flatMap((m) => wrongWith(m).map((what) => ({ what, text: m.text })));
			assert.deepEqual(wrong.slice(0, 3), [], `${wrong.length} things are wrong (${store.made})`);
			for (const ids of threads.values()) assert.equal(ids.size, 1, `a conversation is in several threads (${store.made})`);
			assert.equal(
				new Set([...threads.values()].map((ids) => [...ids][0])).size,
				store.talks.length,
				`threads run together (${store.made})`
			);
			const drafts = woven.filter(({ m }) => m.first.text?.startsWith('Not sent yet'));
			assert.equal(drafts.length, 0, `what was never sent is no message (${store.made})`);
			const texts = new Set(store.messages.flatMap((m) => [m.text, m.earlier]));
			const invented = woven.filter(({ m }) => m.first.text !== null && m.grade !== 'fragment' && !texts.has(m.first.text));
			assert.deepEqual(
				invented.map(({ m }) => m.first.text),
				[],
				store.made
			);
			const raw = readFileSync(store.path);
			const there = store.messages.filter((m) => m.gone && raw.includes(m.text));
			const lost = there.filter((m) => !main.has(m.text));
			assert.ok(lost.length <= 1, `${lost.length} of ${there.length} deleted are not found (${store.made})`);
		});
});
