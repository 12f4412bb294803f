/** Times as stores write them: whichever form a column has, each value is read exactly, and nothing else is taken for one. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { timesInKeys } from '../../src/core/interpret/id-times';
import { readTimes, timeOf } from '../../src/core/interpret/time';
import { Look } from '../../src/core/look';
import type { Row, Value } from '../../src/core/model';
import { createDatabase } from '../vectors/engine';

const TIMES = Array.from({ length: 30 }, (_, i) => Date.UTC(2025, 0, 3, 8, 15, 7) + i * 37 * 3_600_000);
const two = (n: number): string => String(n).padStart(2, '0');
const MONTHS = 'January February March April'.split(' ');
const DAYS = 'Sun Mon Tue Wed Thu Fri Sat'.split(' ');

/** Parts of a time in UTC: year, month, day, hours, minutes, seconds. */
function parts(ms: number): [string, string, string, string, string, string] {
	const d = new Date(ms);
	return [
		`${d.getUTCFullYear()}`,
		two(d.getUTCMonth() + 1),
		two(d.getUTCDate()),
		two(d.getUTCHours()),
		two(d.getUTCMinutes()),
		two(d.getUTCSeconds())
	];
}
function bytes(size: 4 | 8, write: (view: DataView) => void): Uint8Array {
	const out = new Uint8Array(size);
	write(new DataView(out.buffer));
	return out;
}

const FORMS: Record<string, (ms: number) => Value> = {
	'a number of digits': (ms) => Number(parts(ms).join('')),
	'a number of digits with ms': (ms) => BigInt(`${parts(ms).join('')}000`),
	'a text of digits': (ms) => parts(ms).join(''),
	'day, month, year': (ms) => (([y, mo, d, h, mi, s]): string => `${d}.${mo}.${y} ${h}:${mi}:${s}`)(parts(ms)),
	'month, day, year, half a day': (ms) =>
		(([y, mo, d, h, mi, s]): string => `${mo}/${d}/${y} ${two(Number(h) % 12 || 12)}:${mi}:${s} ${Number(h) < 12 ? 'AM' : 'PM'}`)(
			parts(ms)
		),
	'month, day, year': (ms) => (([y, mo, d, h, mi, s]): string => `${mo}/${d}/${y} ${h}:${mi}:${s}`)(parts(ms)),
	'a month by its name': (ms) => (([y, mo, d, h, mi, s]): string => `${d} ${MONTHS[Number(mo) - 1]} ${y} at ${h}:${mi}:${s}`)(parts(ms)),
	'the year behind': (ms) =>
		(([y, mo, d, h, mi, s]): string =>
			`${DAYS[new Date(ms).getUTCDay()]} ${MONTHS[Number(mo) - 1]!.slice(0, 3)} ${d} ${h}:${mi}:${s} ${y}`)(parts(ms)),
	'as logs have it': (ms) =>
		(([y, mo, d, h, mi, s]): string => `${d}/${MONTHS[Number(mo) - 1]!.slice(0, 3)}/${y}:${h}:${mi}:${s} +0000`)(parts(ms)),
	'wrapped in JSON': (ms) => `/Date(${ms})/`,
	'eight bytes, the first the most': (ms) => bytes(8, (v) => v.setBigInt64(0, BigInt(ms))),
	'eight bytes, the last the most, since 1601': (ms) => bytes(8, (v) => v.setBigInt64(0, BigInt(ms + 11_644_473_600_000) * 10_000n, true)),
	'eight bytes of a real': (ms) => bytes(8, (v) => v.setFloat64(0, ms / 1000)),
	'to the base of 16': (ms) => ms.toString(16),
	'to the base of 16, with its mark': (ms) => `0x${(ms / 1000).toString(16).toUpperCase()}`,
	'below nought': (ms) => -ms / 1000,
	'below nought, in a unit that takes more than a double': (ms) => -BigInt(ms) * 1_000_000n,
	'four bytes': (ms) => bytes(4, (v) => v.setInt32(0, ms / 1000))
};

describe('times', () => {
	for (const [what, write] of Object.entries(FORMS))
		it(`are read: ${what}`, () => {
			const values = TIMES.map(write);
			const reading = readTimes(values);
			assert.deepEqual(
				values.map((v) => reading && timeOf(v, reading)),
				TIMES
			);
		});

	it('are not read where digits are numbers of telephones, keys or digests', () => {
		assert.equal(readTimes(TIMES.map((_, i) => 447700900100 + i)), null);
		assert.equal(readTimes(TIMES.map((_, i) => `+4477009001${10 + i}`)), null);
		const digest = (i: number): string => ((0x9e3779b97f4a7c15n * BigInt(i + 1)) & 0xffffffffffffffffn).toString(16).padStart(16, '0');
		assert.equal(readTimes(TIMES.map((_, i) => digest(i))), null);
		assert.equal(readTimes(TIMES.map((_, i) => digest(i).slice(0, 8))), null);
		assert.equal(readTimes(TIMES.map((_, i) => (0x1a2b30 + i).toString(16).padStart(8, '0'))), null);
		assert.equal(readTimes(TIMES.map((_, i) => bytes(8, (v) => v.setBigUint64(0, 0x9e3779b97f4a7c15n * BigInt(i + 1), true)))), null);
	});

	it('are not read of keys with a time and a count in them, of which nothing says from when it is counted', () => {
		const key = (ms: number, i: number): bigint => ((BigInt(ms) - 1420070400000n) << 22n) | (BigInt(i % 3) << 12n) | BigInt(i % 5);
		const times = Array.from({ length: 60 }, (_, i) => Date.UTC(2025, 0, 14) + i * 5_432_109);
		assert.equal(readTimes(times.map(key)), null);
		assert.equal(readTimes(times.map((ms, i) => String(key(ms, i)))), null);
		// Of a clock that counts in millionths of a millisecond the last digits are any, or nought.
		const nanoseconds = times.map((ms, i) => BigInt(ms) * 1_000_000n + BigInt((i * 7_919_317) % 1_000_000));
		assert.equal(readTimes(nanoseconds)?.label, 'nanoseconds since 1970');
		assert.equal(readTimes(times.map((ms) => BigInt(ms) * 1_000_000n))?.label, 'nanoseconds since 1970');
	});

	for (const [what, bits, unit] of [
		['milliseconds above 22 bits', 22n, 1],
		['seconds above 32 bits', 32n, 1000]
	] as const)
		it(`are read in keys of 64 bits: ${what}`, () => {
			const at = (i: number): number => Date.UTC(2025, 0, 14) + i * 5_432_000;
			const rows = Array.from({ length: 40 }, (_, i) => ({
				values: [(BigInt(at(i) / unit) << bits) | BigInt(i % 7)],
				cut: -1
			})) as unknown as Row[];
			const read = timesInKeys(rows, 0)?.read;
			assert.deepEqual(
				rows.map((row) => read?.(row)),
				rows.map((_, i) => at(i))
			);
			assert.equal(
				timesInKeys(
					rows.map((row) => ({ ...row, values: [(row.values[0] as bigint) >> 3n] })),
					0
				),
				null
			);
		});

	for (const how of ['eight bytes of a real', 'to the base of 16'] as const)
		it(`are read as they are stored where the user states what they count from: ${how}`, () => {
			const folder = mkdtempSync(join(tmpdir(), 'ombudsman-times-'));
			const path = join(folder, 'store.db');
			const db = createDatabase(path);
			db.exec('create table message(id integer primary key, who text, mine integer, at, body text)');
			const rows = TIMES.map((at, i) => [i + 1, `+44770090010${i % 3}`, i % 2, FORMS[how]!(at), `The boiler is cold again ${i}`]);
			for (const row of rows) db.run('insert into message values(?,?,?,?,?)', row);
			db.close();
			const declared = ['id', 'who', 'mine', 'at', 'body'];
			const columns = [
				{ column: 'at', role: 'time' as const, time: how === 'to the base of 16' ? 'milliseconds since 2001' : 'seconds since 2001' }
			];
			const look = new Look(openPaths([path]), {
				reach: 'raw',
				owner: null,
				correction: { format: 'ombudsman-reading', version: 1, tables: [{ table: 'message', declared, columns }] }
			});
			for (const event of look.run()) void event;
			const times = look.findings().weave.threads.flatMap((t) => t.messages.map((m) => m.first.sentAt! - Date.UTC(2001, 0, 1)));
			rmSync(folder, { recursive: true, force: true });
			assert.deepEqual(
				times.sort((a, b) => a - b),
				TIMES
			);
		});

	it('in digits beside a conversation are no number of whom it is with', () => {
		const folder = mkdtempSync(join(tmpdir(), 'ombudsman-times-'));
		const path = join(folder, 'store.db');
		const db = createDatabase(path);
		db.exec(`create table person(id integer primary key, name text, number text); create table talk(id integer primary key, topic text, made text);
			create table talk_person(talk_id integer, person_id integer);
			create table message(id integer primary key, talk_id integer, person_id integer, mine integer, at text, body text)`);
		for (let i = 1; i <= 4; i++) {
			db.run('insert into person values(?,?,?)', [i, `Maud ${'ABCD'[i - 1]}olland`, `+44770090010${i}`]);
			db.run('insert into talk values(?,null,?)', [i, String(TIMES[0]! + i * 1000)]);
			db.run('insert into talk_person values(?,?)', [i, i]);
		}
		TIMES.forEach((at, i) =>
			db.run('insert into message values(?,?,?,?,?,?)', [
				i + 1,
				1 + (i % 4),
				i % 3 ? 1 + (i % 4) : null,
				Number(i % 3 === 0),
				String(at),
				`The boiler is cold again ${i}`
			])
		);
		db.close();
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		const messages = look.findings().weave.threads.flatMap((t) => t.messages);
		rmSync(folder, { recursive: true, force: true });
		assert.equal(messages.length, TIMES.length);
		for (const { first } of messages) assert.match(first.correspondent?.address ?? '', /^\+44770090010[1-4]$/, first.text!);
	});
});
