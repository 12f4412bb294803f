/** When copies of a store were taken: by when their files were last changed, where that agrees with what they hold. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import { bracketOf } from '../../src/core/weave';
import { createDatabase } from '../vectors/engine';

const HOUR = 3_600_000;
const START = Date.UTC(2025, 0, 14, 6);
const OTHERS = ['+447700900117', '+447700900124', '+447700900131'];
/** What was sent when: one message each hour. */
const sentAt = (i: number): number => START + i * HOUR;

describe('when copies were taken', () => {
	let folder: string;
	const copies: Uint8Array[] = [];
	before(() => {
		folder = mkdtempSync(join(tmpdir(), 'ombudsman-when-'));
		const path = join(folder, 'letters.db');
		const db = createDatabase(path);
		db.exec('create table letters(id integer primary key, number text, sent_at integer, direction text, body text)');
		const write = (from: number, to: number): void => {
			for (let i = from; i < to; i++)
				db.run('insert into letters values(?,?,?,?,?)', [
					i + 1,
					OTHERS[i % 3]!,
					sentAt(i),
					i % 4 < 2 ? 'in' : 'out',
					`The boiler is off again, ${i}`
				]);
			copies.push(new Uint8Array(readFileSync(path)));
		};
		write(0, 30);
		db.run('delete from letters where id in (7, 12)');
		write(30, 45);
		db.run('delete from letters where id = 31');
		write(45, 60);
		db.close();
	});
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** The times of the captures, with the files' times given, and between which of them the message of a number was lost. */
	function read(
		modified: readonly (number | null)[],
		takenAt?: ReadonlyMap<string, number>
	): { times: (number | null)[]; lost: (n: number) => (number | null)[] } {
		const files = copies.map((bytes, i) => {
			const path = `copy ${i}/letters.db`;
			return { name: 'letters.db', path, source: new MemorySource(bytes), modified: modified[i]! };
		});
		const look = new Look(files, { reach: 'raw', owner: null, ...(takenAt ? { takenAt } : {}) });
		for (const event of look.run()) void event;
		const { weave } = look.findings();
		const [family] = weave.families;
		assert.equal(family!.captures.length, 3);
		const all = weave.threads.flatMap((t) => t.messages);
		const lost = (n: number): (number | null)[] => {
			const { lastSeen, firstMissing } = bracketOf(
				all.find((m) => m.first.sentAt === sentAt(n - 1))!,
				family!
			);
			return [lastSeen, firstMissing];
		};
		return { times: family!.captures.map((c) => c.time), lost };
	}
	const newest = [sentAt(29), sentAt(44), sentAt(59)];

	it('takes the files’ times where each lies between what its copy holds and what the next has beyond it', () => {
		const times = newest.map((at) => at + HOUR / 2);
		const found = read(times);
		assert.deepEqual(found.times, times);
		assert.deepEqual(found.lost(7), [times[0], times[1]]);
		assert.deepEqual(found.lost(31), [times[1], times[2]]);
	});

	it('goes by what is inside where all files were copied at one later time', () => {
		const copied = Date.UTC(2026, 5, 1);
		assert.deepEqual(read([copied, copied + 1000, copied + 2000]).times, newest);
	});

	it('goes by what is inside where a file is older than what it holds, or has no time', () => {
		assert.deepEqual(read([newest[0]! - HOUR, newest[1]!, newest[2]!]).times, newest);
		assert.deepEqual(read([newest[0]!, null, newest[2]!]).times, newest);
	});

	it('takes them beside what is stated of another copy', () => {
		const stated = newest[1]! + HOUR / 3;
		const times = [newest[0]! + HOUR / 2, Date.UTC(2026, 5, 1), newest[2]! + HOUR / 2];
		assert.deepEqual(read(times, new Map([['copy 1', stated]])).times, [times[0], stated, times[2]]);
	});
});
