import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import ICAL from 'ical.js';
import {
	calendarOf,
	CATALOGUE,
	clocksOf,
	countPlaces,
	emptyLoss,
	parseVagueDate,
	rankPlaces,
	readCatalogue,
	readLoss,
	sayJudgement,
	type Can,
	type Place,
	type Situation
} from '../../src/core/prospects';

const TODAY = Date.UTC(2025, 2, 3, 12);
const iso = (ms: number | null): string => (ms === null ? '' : new Date(ms).toISOString().slice(0, 10));

describe('dates as people say them', () => {
	const cases: [string, string, string][] = [
		['28 January to 3 February 2025', '2025-01-28', '2025-02-03'],
		['28 to 30 January 2025', '2025-01-28', '2025-01-30'],
		['28-30 January 2025', '2025-01-28', '2025-01-30'],
		['between 28 Jan 2024 and 2 Mar 2025', '2024-01-28', '2025-03-02'],
		['2025-01-28 – 2025-02-03', '2025-01-28', '2025-02-03'],
		['about 10 Feb 2025', '2025-02-07', '2025-02-13'],
		['before March 2024', '', '2024-02-29'],
		['until 3 March 2024', '', '2024-03-03'],
		['after 1.2.2025', '2025-02-02', ''],
		['since 1/2/2025', '2025-02-01', ''],
		['in spring 2024', '2024-03-01', '2024-05-31'],
		['winter 2024', '2024-12-01', '2025-02-28'],
		['January 28, 2025', '2025-01-28', '2025-01-28'],
		['late January 2025', '2025-01-21', '2025-01-31'],
		['2024', '2024-01-01', '2024-12-31'],
		['29 February 2024', '2024-02-29', '2024-02-29'],
		['yesterday', '2025-03-02', '2025-03-02'],
		['3 days ago', '2025-02-28', '2025-02-28'],
		['', '', '']
	];
	for (const [text, from, to] of cases) {
		it(`reads “${text}”`, () => {
			const read = parseVagueDate(text, TODAY, 'UTC');
			assert.ok(read.ok, `${text} is read`);
			assert.deepEqual([iso(read.span.from), iso(read.span.to)], [from, to]);
		});
	}
	for (const text of [
		'30 February 2025',
		'32 January 2025',
		'some day',
		'about',
		'5 March',
		'3 February 2025 to 28 January 2025',
		'13/13/2025'
	])
		it(`refuses “${text}” with one line`, () => {
			const read = parseVagueDate(text, TODAY, 'UTC');
			assert.ok(!read.ok && read.problem.length > 10 && !read.problem.includes('\n'));
		});
	it('counts days in the zone of the case', () => {
		const read = parseVagueDate('30 January 2025', TODAY, 'Asia/Tokyo');
		assert.ok(read.ok);
		assert.equal(new Date(read.span.from!).toISOString(), '2025-01-29T15:00:00.000Z');
		assert.equal(new Date(read.span.to!).toISOString(), '2025-01-30T14:59:59.999Z');
	});
});

describe('the loss', () => {
	it('points out what contradicts itself, at its field', () => {
		const loss = { ...emptyLoss(), sent: '28 January to 3 February 2025', lastSeen: '10 January 2025', noticed: '2 January 2025' };
		const { problems } = readLoss(loss, TODAY, 'UTC');
		assert.deepEqual(
			problems.map((p) => p.field),
			['lastSeen', 'noticed', 'noticed']
		);
		assert.deepEqual(
			readLoss({ ...loss, lastSeen: '', noticed: '1 May 2025' }, TODAY, 'UTC').problems.map((p) => p.field),
			['noticed']
		);
	});
	it('puts the deletion between last seen and noticed missing', () => {
		const { spans, problems } = readLoss(
			{ ...emptyLoss(), sent: '28 January to 3 February 2025', lastSeen: '10 February 2025', noticed: '25 February 2025' },
			TODAY,
			'UTC'
		);
		assert.deepEqual(problems, []);
		assert.deepEqual([iso(spans.lost.from), iso(spans.lost.to)], ['2025-02-10', '2025-02-25']);
	});
});

const SENT = { from: Date.UTC(2025, 0, 28), to: Date.UTC(2025, 1, 3, 23, 59) };
const LOST = { from: Date.UTC(2025, 1, 10), to: Date.UTC(2025, 1, 25, 23, 59) };
const situation = (more: Partial<Situation> = {}): Situation => ({
	spans: { sent: SENT, lost: LOST },
	today: TODAY,
	zone: 'UTC',
	counted: new Map(),
	order: [],
	...more
});
const place = (id: string, kind: string, taken = '', more: Partial<Place> = {}): Place => ({
	id,
	kind,
	name: id,
	note: '',
	taken,
	span: null,
	source: null,
	capture: null,
	offer: null,
	tried: null,
	...more
});
const verdictOf = (p: Place, s = situation()) => rankPlaces([p], CATALOGUE.kinds, s)[0]!.verdict;

describe('the verdict on a place', () => {
	const table: [string, string, Can][] = [
		['computer-backup', '5 January 2025', 'cannot'],
		['computer-backup', '9 February 2025', 'all'],
		['computer-backup', '31 January 2025', 'some'],
		['computer-backup', '15 February 2025', 'may'],
		['computer-backup', '1 March 2025', 'may'],
		['computer-backup', '', 'may'],
		['restore-computer', '9 February 2025', 'all'],
		['bin', '', 'all'],
		['chat-daily', '', 'may'],
		['chat-weekly', '', 'all'],
		['freed-space', '', 'may'],
		['disk', '1 January 2025', 'cannot'],
		['disk', '19 February 2025', 'may'],
		['other-side', '', 'may'],
		['export', '1 January 2025', 'cannot'],
		['provider', '', 'may']
	];
	for (const [kind, taken, can] of table)
		it(`${kind}${taken ? ` of ${taken}` : ''}: ${can}`, () => assert.equal(verdictOf(place('x', kind, taken)).can, can));

	it('says cannot once every copy of a rolling backup is younger than the loss', () => {
		assert.equal(verdictOf(place('x', 'chat-daily'), situation({ today: Date.UTC(2025, 2, 10) })).can, 'cannot');
		assert.equal(verdictOf(place('x', 'chat-daily'), situation({ today: Date.UTC(2025, 1, 12) })).can, 'all');
	});
	it('says cannot once a bin has emptied, and may while it is emptying', () => {
		const at = (today: number): Can => verdictOf(place('x', 'bin'), situation({ today })).can;
		assert.equal(at(Date.UTC(2025, 2, 11)), 'all');
		assert.equal(at(Date.UTC(2025, 2, 20)), 'may');
		assert.equal(at(Date.UTC(2025, 3, 2)), 'cannot');
	});
	it('ranks the harmless before the harmful, the newest copy first, what cannot last', () => {
		const ranked = rankPlaces(
			[
				place('restore', 'restore-computer', '9 February 2025'),
				place('old', 'computer-backup', '5 January 2025'),
				place('nine', 'computer-backup', '9 February 2025'),
				place('five', 'computer-backup', '5 February 2025'),
				place('freed', 'freed-space')
			],
			CATALOGUE.kinds,
			situation()
		);
		assert.deepEqual(
			ranked.map((r) => r.place.id),
			['nine', 'five', 'freed', 'restore', 'old']
		);
		assert.equal(ranked.find((r) => r.place.id === 'restore')!.verdict.notNeeded, 'nine');
	});
	it('keeps the user’s own order, and puts what yielded nothing behind what is open', () => {
		const places = [place('a', 'computer-backup', '9 February 2025'), place('b', 'freed-space'), place('c', 'other-side')];
		const ids = (s: Situation, list = places): string[] => rankPlaces(list, CATALOGUE.kinds, s).map((r) => r.place.id);
		assert.deepEqual(ids(situation({ order: ['c', 'b', 'a'] })), ['c', 'b', 'a']);
		const tried = { at: TODAY, result: 'nothing' as const, note: '', byLook: false };
		assert.equal(ids(situation(), [{ ...places[0]!, tried }, places[1]!]).at(-1), 'a');
	});
});

describe('counted prospects', () => {
	const numbers = Array.from({ length: 34 }, (_, n) => ({
		after: SENT.from + n * 3_600_000 * 4,
		before: null,
		foundIn: n < 3 ? ['phone'] : []
	}));
	it('counts what each place can still hold, and changes the others when one gives some', () => {
		const places = [
			{ id: 'backup', capture: 'backup', source: null, tried: null, takenAt: Date.UTC(2025, 1, 9), lostSince: LOST.from },
			{ id: 'early', capture: null, source: null, tried: null, takenAt: SENT.from + 10 * 4 * 3_600_000, lostSince: LOST.from },
			{ id: 'phone', capture: 'phone', source: null, tried: null, takenAt: null, lostSince: LOST.from }
		];
		const counted = countPlaces(places, numbers);
		assert.deepEqual(counted.get('backup'), { missing: 34, canHold: 31, yielded: 0 });
		assert.deepEqual(counted.get('early'), { missing: 34, canHold: 7, yielded: null });
		assert.deepEqual(counted.get('phone'), { missing: 34, canHold: null, yielded: 3 });
		const after = countPlaces(
			places,
			numbers.map((n, i) => (i < 20 ? { ...n, foundIn: [...n.foundIn, 'backup'] } : n))
		);
		assert.equal(after.get('early')!.canHold, 0);
		assert.equal(after.get('backup')!.yielded, 20);
		assert.equal(verdictOf(place('early', 'computer-backup', '30 January 2025'), situation({ counted: after })).can, 'cannot');
		assert.equal(verdictOf(place('backup', 'computer-backup', '9 February 2025'), situation({ counted })).says, 'can hold 31 of the 34');
	});
});

describe('clocks', () => {
	it('lists what runs out, the most urgent first, and writes a calendar that reads back', () => {
		const ranked = rankPlaces(
			[place('bin', 'bin'), place('weekly', 'chat-weekly'), place('pc', 'computer-backup', '9 February 2025')],
			CATALOGUE.kinds,
			situation()
		);
		const clocks = clocksOf(ranked, TODAY);
		assert.deepEqual(
			clocks.map((c) => [c.placeId, c.daysLeft]),
			[
				['bin', 8],
				['weekly', 13],
				['pc', null]
			]
		);
		const read = new ICAL.Component(ICAL.parse(calendarOf(clocks, 'A case; with, marks', TODAY, 'UTC')));
		const events = read.getAllSubcomponents('vevent').map((e) => new ICAL.Event(e));
		assert.deepEqual(
			events.map((e) => e.startDate.toString()),
			['2025-03-12', '2025-03-17']
		);
		assert.match(events[0]!.summary, /A case; with, marks/);
	});
});

describe('the catalogue', () => {
	it('has what the trade knows, each with its steps', () => {
		assert.ok(CATALOGUE.kinds.length >= 20);
		for (const kind of CATALOGUE.kinds) assert.ok(kind.steps.length > 0 && kind.can.length > 10, kind.id);
		const ids = new Set(CATALOGUE.kinds.map((k) => k.id));
		for (const kind of CATALOGUE.kinds) for (const closed of kind.closes) assert.ok(ids.has(closed), `${kind.id} closes ${closed}`);
	});
	it('takes what is right of a file with errors and says what is not', () => {
		const good = CATALOGUE.kinds[0]!;
		const read = readCatalogue(JSON.stringify({ format: 'ombudsman-catalogue', version: 1, kinds: [good, { id: 'x' }, 7] }));
		assert.equal(read.kinds.length, 1);
		assert.equal(read.problems.length, 2);
		assert.match(read.problems[0]!, /^Kind 2: /);
		assert.equal(readCatalogue('{').kinds.length, 0);
		assert.equal(readCatalogue('[]').problems.length, 1);
	});
});

describe('the judgement', () => {
	const asked = {
		inUse: 400,
		back: 22,
		missing: 9,
		threadFound: true,
		partners: ['Odile Marchetti'],
		withWords: 2,
		words: ['credit'],
		looked: true
	};
	it('says in one sentence what is there, what is missing and where it may be', () => {
		const ranked = rankPlaces([place('Backup on the laptop', 'computer-backup', '9 February 2025')], CATALOGUE.kinds, situation());
		assert.equal(
			sayJudgement(asked, ranked),
			'22 deleted messages with Odile Marchetti were brought back, 2 of them with the words asked for; 9 record numbers of that stretch are still missing. The next best place is Backup on the laptop: it can hold all.'
		);
		assert.match(sayJudgement({ ...asked, looked: false }, []), /^Nothing was looked at yet/);
		assert.match(sayJudgement({ ...asked, threadFound: false }, []), /^No thread with Odile Marchetti was found/);
		assert.match(sayJudgement({ ...asked, missing: null }, []), /cannot be known/);
	});
});
