import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { firstBroken, logAsText, nextEntry, type LogEntry } from '../../src/core/log';

function made(n: number): LogEntry[] {
	const entries: LogEntry[] = [];
	for (let i = 0; i < n; i++)
		entries.push(
			nextEntry(entries.at(-1) ?? null, {
				at: Date.UTC(2025, 2, 3, 9, i),
				zone: 'Europe/Paris',
				who: 'The technician',
				step: 'look',
				says: `Step ${i}`
			})
		);
	return entries;
}

describe('the log', () => {
	it('holds as it was written, also through JSON', () => assert.equal(firstBroken(JSON.parse(JSON.stringify(made(20)))), null));
	for (const [what, change] of [
		['a changed word', (e: LogEntry[]) => (e[7] = { ...e[7]!, says: 'Something else' })],
		['a changed time', (e: LogEntry[]) => (e[7] = { ...e[7]!, at: e[7]!.at + 1 })],
		['an entry taken out', (e: LogEntry[]) => e.splice(7, 1)],
		['two entries changed about', (e: LogEntry[]) => e.splice(7, 2, e[8]!, e[7]!)],
		['an entry put in between', (e: LogEntry[]) => e.splice(7, 0, nextEntry(e[6]!, { at: 0, zone: 'UTC', who: 'x', step: 'x', says: 'x' }))]
	] as const)
		it(`shows ${what}`, () => {
			const entries = made(20);
			change(entries);
			const broken = firstBroken(entries);
			assert.ok(broken === 8 || broken === 9, String(broken));
		});
	it('is written in UTC and local time, one line a value whatever the text holds', () => {
		const text = logAsText(
			[nextEntry(null, { at: Date.UTC(2025, 2, 3, 9), zone: 'Europe/Paris', who: 'A\nB', step: 'x', says: 'One\r\ntwo' })],
			'Case'
		);
		assert.match(text, /2025-03-03T09:00:00.000Z {2}\(3 Mar 2025, 10:00:00, Europe\/Paris\) {2}A B/);
		assert.match(text, /One two/);
	});
});
