/** What leaves: CSV that spreadsheets read and do not run, pages made of data, sums. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import fc from 'fast-check';
import Papa from 'papaparse';
import { pageData, recordCsv, recordSchema, sumsFile, writtenTime, type BundleRecord, type RecordMessage } from '../../src/core/bundle';

const message = (text: string | null, more: Partial<RecordMessage> = {}): RecordMessage => ({
	id: 'm1',
	text,
	textCut: false,
	sentAt: Date.UTC(2025, 0, 30, 17, 44, 16),
	zoned: true,
	direction: 'in',
	correspondent: '+33639980417',
	person: 'Odile Marchetti',
	standing: 'kept',
	grade: 'whole',
	table: 't',
	record: 7,
	sightings: [{ source: 'a.db', path: 'a.db', offset: 10, length: 20, method: 'row-in-use', standing: 'kept', grade: 'whole' }],
	...more
});
const record = (messages: RecordMessage[], more: Partial<BundleRecord> = {}): BundleRecord => ({
	caseName: 'Case',
	owner: 'Piet Hallorann',
	zone: 'Europe/Brussels',
	madeAt: Date.UTC(2025, 2, 3),
	showSightings: true,
	showGaps: true,
	sources: [{ name: 'a.db', path: 'a.db', size: 1, sha256: 'ab'.repeat(32) }],
	remarks: [],
	threads: [
		{ id: 't', title: 'Odile Marchetti', address: '+33639980417', group: false, members: [], total: messages.length, messages, gaps: [] }
	],
	...more
});
const cells = (csv: string): string[][] => Papa.parse<string[]>(csv.replace(/^\ufeff/, ''), { skipEmptyLines: true }).data;

describe('CSV', () => {
	it('brings back any text a message can hold, but for an apostrophe before what would be run', () => {
		fc.assert(
			fc.property(fc.string({ unit: 'grapheme', maxLength: 60 }), (text) => {
				const cell = cells(recordCsv(record([message(text)])))[1]![8]!;
				assert.ok(cell === text || cell === `'${text}`);
				assert.doesNotMatch(cell, /^[=+\-@\t\r]/);
			})
		);
	});
	it('disarms formulas however they are dressed', () => {
		for (const bad of ['=1+1', '+cmd', '-2', '@SUM(A1)', '\t=1', ' =1', '\n=1', '＝1+1', '|x', '%0A'])
			assert.ok(cells(recordCsv(record([message(bad)])))[1]![8]!.startsWith("'"), JSON.stringify(bad));
	});
	it('says how much is gone in the middle of a text, and writes both of its parts', () => {
		const row = cells(recordCsv(record([message('The credit', { textCut: true, textRest: { text: 'in January.', lost: 1 } })])))[1]!;
		assert.equal(row[8], 'The credit [… 1 byte overwritten …] in January.');
		assert.equal(row[9], 'part gone in the middle');
	});
	it('names nobody as the writer of a message whose way is not known', () => {
		const writers = (more: Partial<RecordMessage>): string | undefined => cells(recordCsv(record([message('ok', more)])))[1]![5];
		assert.equal(writers({ direction: 'in' }), 'Odile Marchetti');
		assert.equal(writers({ direction: 'out' }), 'Piet Hallorann');
		assert.equal(writers({ direction: null }), 'Writer not known: Odile Marchetti or Piet Hallorann');
		assert.equal(writers({ direction: null, person: null, correspondent: null }), 'Direction not known');
	});
	it('ends lines as the standard says and has one width', () => {
		const csv = recordCsv(record([message('a\nb "c", d'), message(null)]));
		assert.ok(csv.startsWith('\ufeff') && csv.endsWith('\r\n'));
		assert.equal(new Set(cells(csv).map((r) => r.length)).size, 1);
	});
});

describe('pages', () => {
	it('state date, time and offset on every message, over the turn of the clocks', () => {
		const summer = Date.UTC(2025, 5, 1, 10);
		const data = pageData(record([message('winter'), message('summer', { sentAt: summer })]));
		assert.deepEqual(
			data.threads[0]!.lines.map((l) => `${l.date} ${l.time}`),
			['30 Jan 2025 18:44:16', '01 Jun 2025 12:00:00']
		);
		assert.match(data.threads[0]!.under, /UTC\+1 and UTC\+2/);
		assert.equal(writtenTime(summer, 'Europe/Brussels').offset, 'UTC+2');
	});
	it('say what was left out', () => {
		const r = record([message('one')]);
		r.threads[0]!.total = 5;
		assert.match(pageData(r).threads[0]!.excerpt, /1 of 5 messages.*4 messages of this thread were left out/);
	});
	it('set each text in its own language, so that it runs the right way', () => {
		const langs = pageData(record(['سأرسل لك', '七点半', 'שלום', 'hello', '123 😀'].map((t) => message(t)))).threads[0]!.lines.map(
			(l) => l.lang
		);
		assert.deepEqual(langs, ['ar', 'zh', 'he', 'en', 'en']);
	});
	it('keep markup and commands of evidence as text', () => {
		const text = '#panic("x") $ *bold* <script> \\ "quoted"';
		assert.equal(pageData(record([message(text)])).threads[0]!.lines[0]!.text, text);
	});
	it('put gaps in their place and mark what is not certain', () => {
		const at = Date.UTC(2025, 0, 30, 17, 44, 16);
		const r = record([message('before', { sentAt: at }), message('after', { sentAt: at + 60_000 })]);
		const gap = { table: 't', from: 8, to: 9, count: 2, after: at, before: at + 60_000, certain: false, beside: false };
		r.threads[0]!.gaps = [gap];
		const lines = pageData(r).threads[0]!.lines;
		assert.deepEqual(
			lines.map((l) => l.kind),
			['message', 'gap', 'message']
		);
		assert.match(lines[1]!.text, /Record numbers 8 to 9 are accounted for nowhere.*or another/);
		r.threads[0]!.gaps = [{ ...gap, beside: true }];
		assert.match(pageData(r).threads[0]!.lines[1]!.text, /^Numbers 8 to 9 of the messages’ own count are accounted for nowhere/);
	});
});

describe('borders', () => {
	it('refuse a record that is none', () => {
		assert.ok(recordSchema.safeParse(record([message('x')])).success);
		assert.ok(!recordSchema.safeParse({ ...record([]), threads: [{ id: 1 }] }).success);
		assert.ok(!recordSchema.safeParse(null).success);
	});
	it('write sums as the ordinary command reads them', () => {
		assert.equal(sumsFile([{ name: 'a.pdf', sha256: 'f'.repeat(64) }]), `${'f'.repeat(64)}  a.pdf\n`);
	});
});
