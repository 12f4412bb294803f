/** Logs that a program keeps day by day: the lines have a time alone, the file's name the day, its folder's whom it is with. */
import assert from 'node:assert/strict';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { plainMessage } from '../../src/core/weave';

const DAY = 86_400_000;
const START = Date.UTC(2025, 2, 3);
const two = (n: number): string => String(n).padStart(2, '0');

interface Line {
	at: number;
	who: string;
	text: string;
}
const clock = (at: number): string => new Date(at).toISOString().slice(11, 19);
const halves = (at: number): string => {
	const hour = new Date(at).getUTCHours();
	return `${two(hour % 12 || 12)}${clock(at).slice(2)} ${hour < 12 ? 'AM' : 'PM'}`;
};
const date = (at: number): string => new Date(at).toISOString().slice(0, 10);

interface Form {
	name: (at: number, other: string) => string;
	line: (l: Line) => string;
	head?: (at: number, other: string) => string;
}
const FORMS: Record<string, Form> = {
	'the day in front, a folder for each person': {
		name: (at, other) => `${other}/${date(at)}.txt`,
		line: ({ at, who, text }) => `[${clock(at)}] ${who}: ${text}`
	},
	'with a time and a zone behind the day, and a head that states another time': {
		name: (at, other) => `${other}/${date(at)}.221500+0000GMT.txt`,
		line: ({ at, who, text }) => `(${halves(at)}) ${who}: ${text}`,
		head: (at, other) => `Conversation with ${other} at ${date(at)} 22:15:00`
	},
	'eight digits, names in brackets': {
		name: (at, other) => `${other}/${date(at).replace(/-/g, '')}.log`,
		line: ({ at, who, text }) => `${clock(at).slice(0, 5)} <${who}> ${text}`
	},
	'the day first, behind the name': {
		name: (at, other) => `${other} ${date(at).split('-').reverse().join('.')}.txt`,
		line: ({ at, who, text }) => `${clock(at)} ${who}\t${text}`
	}
};

describe('logs of days', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-days-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	const put = (path: string, lines: readonly string[]): void => {
		mkdirSync(dirname(path), { recursive: true });
		writeFileSync(path, `${lines.join('\n')}\n`);
	};
	function look(path: string): Look {
		const it = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of it.run()) void event;
		return it;
	}
	/** What was said on four days: on the second past midnight, on the third by one alone, on the fourth a single line. */
	const saidWith = (other: string): Line[][] => {
		const line = (day: number, minutes: number, who: string, what: string): Line => ({
			at: START + day * DAY + minutes * 60_000,
			who,
			text: `${what} says ${other.length} of ${day}`
		});
		return [
			[0, 1, 2, 3, 4, 5].map((i) => line(0, 600 + i * 7, i % 2 ? other : 'Odile Vance', `the boiler ${i}`)),
			[line(14, 1420, other, 'still up'), line(14, 1434, 'Odile Vance', 'yes, and cold'), line(14, 1445, other, 'past midnight')],
			[line(20, 480, other, 'nobody answers'), line(20, 490, other, 'nobody at all')],
			[line(26, 540, other, 'one line')]
		];
	};

	Object.entries(FORMS).forEach(([what, { name, line, head }], i) =>
		it(`are one conversation each, whoever wrote on a day: ${what}`, () => {
			const root = join(folder, `${i}`);
			const told = ['Greta Ferro', 'Marek Nair'].flatMap((other) => {
				const days = saidWith(other);
				for (const day of days) {
					const first = day[0]!.at;
					put(join(root, name(first, other)), [...(head ? [head(first, other)] : []), ...day.map(line)]);
				}
				const minutes = line(days[0]![0]!).startsWith('10:00 <');
				return days.flat().map((l) => [other, minutes ? Math.floor(l.at / 60_000) * 60_000 : l.at, l.who === other ? 'in' : 'out', l.text]);
			});
			const it = look(root);
			const { stores, weave } = it.findings();
			assert.deepEqual(
				weave.threads
					.flatMap((t) =>
						t.messages
							.map((m) => plainMessage(m, stores, it.files, { hex: false, stored: false }))
							.map((m) => [m.person, m.sentAt, m.direction, m.text])
					)
					.sort(),
				told.sort()
			);
			assert.deepEqual([stores.length, weave.threads.length], [2, 2], 'a log is one source, not one for each day');
			assert.deepEqual(it.notes, []);
			assert.deepEqual(
				it.account().map((a) => a.lines.map((l) => [l.space, l.rows, l.files])),
				[[['exported entries', 12, 4]], [['exported entries', 12, 4]]]
			);
		})
	);

	const asctime = (at: number, time: string): string =>
		new Date(at).toUTCString().replace(/^(\w+), (\d+) (\w+) (\d+).*$/, `$1 $3 $2 ${time}$4`);
	const HEADINGS: Record<string, (at: number, first: boolean) => string[]> = {
		'set off by signs': (at, first) => [first ? `--- Log opened ${asctime(at, '09:00:00 ')}` : `--- Day changed ${asctime(at, '')}`],
		'for each time that it was begun': (at, first) => [...(first ? [] : ['']), `Session Start: ${asctime(at, '09:00:00 ')}`],
		'in words alone': (at) => [`Messages of ${date(at)}`]
	};
	Object.entries(HEADINGS).forEach(([what, heading], i) =>
		it(`of several days are read by lines that say the day: ${what}`, () => {
			const byDay = ({ at }: Line): boolean => at % DAY >= 8 * 3_600_000;
			const days = saidWith('greta').map((day) => day.filter(byDay));
			const lines = days.flatMap((day, k) => [...heading(day[0]!.at, k === 0), ...day.map((l) => `[${clock(l.at)}] <${l.who}> ${l.text}`)]);
			put(join(folder, `several-${i}`, 'stairs.log'), lines);
			const it = look(join(folder, `several-${i}`));
			const { weave } = it.findings();
			assert.deepEqual(
				weave.threads.map((t) => t.messages.map((m) => [m.first.sentAt, m.first.text])),
				[days.flat().map((l) => [l.at, l.text])]
			);
		})
	);

	it('go on past midnight, but where a line says the next day', () => {
		const [evening, night] = [START + 23 * 3_600_000, START + DAY + 600_000];
		const line = (at: number, text: string): string => `[${clock(at)}] <greta> ${text}`;
		const start = (at: number): string => `Session Start: ${asctime(at, '09:00:00 ')}`;
		for (const between of [[], [start(night)]]) {
			const path = join(folder, `night ${between.length}`, 'greta', `${date(START)}.log`);
			put(path, [
				start(evening),
				line(evening, 'still up'),
				line(evening + 60_000, 'it is cold'),
				...between,
				line(night, 'after midnight'),
				line(night + 60_000, 'and so on')
			]);
			const { weave } = look(join(folder, `night ${between.length}`)).findings();
			assert.deepEqual(
				weave.threads.flatMap((t) => t.messages.map((m) => m.first.sentAt)),
				[evening, evening + 60_000, night, night + 60_000]
			);
		}
	});

	it('are none where a program tells what it did', () => {
		const levels = ['INFO', 'WARN', 'INFO', 'ERROR'];
		put(
			join(folder, 'service', '2025-03-04.log'),
			Array.from({ length: 40 }, (_, i) => `10:${two(i)}:07 ${levels[i % 4]}: request ${i} was answered in ${i * 3} ms`)
		);
		put(
			join(folder, 'service', '2025-03-05.log'),
			Array.from({ length: 40 }, (_, i) => `10:${two(i)}:07 worker-${i % 3}: request ${i} was answered in ${i * 3} ms`)
		);
		assert.deepEqual(look(join(folder, 'service')).findings().stores, []);
	});
});
