/** Stores of few rows in which a number, a word or a list can be taken for another: each message in its thread, at its time, with its file. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { messageLine } from '../../src/cli/lines';
import { Look } from '../../src/core/look';
import { createDatabase } from '../vectors/engine';
import { SMALL_LAYOUTS, SMALL_OWNER, smallTruth, type SmallMessage } from '../vectors/small-stores';

interface Line {
	id: string;
	thread: string;
	text: string | null;
	sentAt: string;
	direction: string;
	correspondent: string | null;
	attachments: { name: string | null; size: number | null }[];
	earlierWordingOf?: string;
}

describe('small stores', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-small-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** `--owner` is not given where the store states it. */
	const linesOf = (path: string): Line[] => {
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		const { stores, weave } = look.findings();
		return weave.threads.flatMap((t) =>
			t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as Line)
		);
	};

	for (const [name, layout] of Object.entries(SMALL_LAYOUTS)) {
		describe(name, () => {
			const { rooms, messages } = smallTruth(layout);
			let lines: Line[];
			let current: Line[];
			before(() => {
				const path = join(folder, `${name}.db`);
				const db = createDatabase(path);
				layout.write(db, messages, rooms);
				db.close();
				lines = linesOf(path);
				current = lines.filter((l) => !l.earlierWordingOf).sort((a, b) => a.sentAt.localeCompare(b.sentAt));
			});

			it('has each message once, at its time, the way it went', () => {
				assert.deepEqual(
					current.map((l) => [l.text, l.sentAt, l.direction]),
					[...messages].sort((a, b) => a.at - b.at).map((m) => [m.text, new Date(m.at).toISOString(), m.who ? 'in' : 'out'])
				);
			});

			it('has a thread for each room, and the writer of what came', () => {
				const lineOf = (m: SmallMessage): Line => current.find((l) => Date.parse(l.sentAt) === m.at)!;
				const threads = rooms.map((room) => new Set(messages.filter((m) => m.room === room).map((m) => lineOf(m).thread)));
				assert.deepEqual(
					threads.map((t) => t.size),
					rooms.map(() => 1)
				);
				assert.equal(new Set(threads.flatMap((t) => [...t])).size, rooms.length);
				const isBy = (m: SmallMessage): boolean => {
					const said = lineOf(m).correspondent ?? '';
					return said.includes(m.who!.number.slice(1)) || said.includes(m.who!.name.toLowerCase().replace(/\W+/g, '.'));
				};
				assert.deepEqual(
					messages.filter((m) => m.who && !isBy(m)).map((m) => m.at),
					[]
				);
				assert.ok(!lines.some((l) => l.correspondent?.includes(SMALL_OWNER.number)));
			});

			if (layout.files)
				it('has its file at each message that has one, and at no other', () => {
					assert.deepEqual(
						current.filter((l) => l.attachments.length > 0).map((l) => Date.parse(l.sentAt)),
						messages.filter((m) => m.file).map((m) => m.at)
					);
					assert.ok(current.every((l) => l.attachments.length <= 1));
				});

			if (layout.edits)
				it('has what was said before each edit as an earlier wording', () => {
					const edited = messages.filter((m) => m.before);
					const saidBefore = lines.flatMap((l) =>
						l.earlierWordingOf ? [[l.text, current.find((c) => c.id === l.earlierWordingOf)?.text]] : []
					);
					assert.deepEqual(saidBefore.sort(), edited.map((m) => [m.before!.text, m.text]).sort());
				});
		});
	}
});
