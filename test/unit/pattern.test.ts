/** The pattern of a loss, told from real stores from which messages were deleted in different ways. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { patternOf, type LossPattern } from '../../src/core/weave';
import { createDatabase } from '../vectors/engine';

const DAY = 86_400_000;
const NOW = Date.UTC(2025, 2, 1, 12);

describe('the pattern of a loss', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-pattern-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** 300 messages over 100 days with three people, then what `deletion` deletes. */
	function pattern(name: string, deletion: string): LossPattern {
		const path = join(folder, `${name}.db`);
		const db = createDatabase(path, ['page_size=4096']);
		db.exec('create table letters(id integer primary key autoincrement, who text, body text, sent integer, mine integer)');
		for (let n = 1; n <= 300; n++)
			db.run('insert into letters(who, body, sent, mine) values(?,?,?,?)', [
				`+44770090012${n % 3}`,
				`The ${['boiler', 'meter', 'board', 'charge'][n % 4]} is spoken of again, ${n}`,
				Math.floor((NOW - (300 - n) * (DAY / 3)) / 1000),
				n % 5 ? 0 : 1
			]);
		if (deletion) db.exec(`delete from letters where ${deletion}`);
		db.close();
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		return patternOf(look.findings().weave);
	}

	it('nothing lost', () => assert.equal(pattern('nothing', '').kind, 'nothing-lost'));
	it('everything', () => assert.equal(pattern('everything', '1').kind, 'everything'));
	it('swept away by age, and the rule that fits', () => {
		const p = pattern('age', `sent < ${Math.floor((NOW - 30 * DAY) / 1000)}`);
		assert.equal(p.kind, 'by-age');
		assert.match(p.says, /nothing from before 30 January 2025 is in use.*keeps 30 days/);
		assert.match(p.supports.join(' '), /from 3 threads/);
	});
	it('a thread deleted whole, by its name', () => {
		const p = pattern('thread', "who = '+447700900121'");
		assert.equal(p.kind, 'whole-threads');
		assert.match(p.says, /One thread was deleted whole: \+447700900121/);
	});
	it('singled out between others', () => {
		const p = pattern('single', 'id in (50, 83, 84, 140, 201, 222)');
		assert.equal(p.kind, 'singled-out');
		assert.match(p.supports.join(' '), /6 of 6 have messages in use before and after them/);
	});
	it('no one pattern, where there is none, and what speaks against one', () => {
		const p = pattern('mixed', `who = '+447700900121' or (id > 280 and who = '+447700900122') or id in (30, 90, 150)`);
		assert.equal(p.kind, 'mixed');
	});
});
