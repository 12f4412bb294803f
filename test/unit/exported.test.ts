/** Exported conversations: the same messages out of every form, and nothing taken for a conversation that is none. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import fc from 'fast-check';
import { MemorySource } from '../../src/core/bytes';
import { openExport } from '../../src/core/harvest';
import { Look } from '../../src/core/look';
import type { Woven } from '../../src/core/weave';
import { RECORD_FORMS, TEXT_FORMS, WESTERN, type ExportForm, type Said } from '../vectors/exports';
import { HEADED_FORMS } from '../vectors/headed-exports';
import { PAGE_FORMS } from '../vectors/pages';

const OWNER = 'Piet Hallorann';
const bytesOf = (content: string | Uint8Array): Uint8Array => (typeof content === 'string' ? new TextEncoder().encode(content) : content);

function look(files: Record<string, string | Uint8Array>, owner: string | null = OWNER): { look: Look; messages: Woven[] } {
	const given = Object.entries(files).map(([path, content]) => ({
		name: path.slice(path.lastIndexOf('/') + 1),
		path,
		source: new MemorySource(bytesOf(content))
	}));
	const it = new Look(given, { reach: 'raw', owner });
	for (const event of it.run()) void event;
	return { look: it, messages: it.findings().weave.threads.flatMap((t) => t.messages) };
}

const TEXTS = [
	'The heating is off again, nine days now.',
	'One month is credited: I promise.',
	'ok',
	'See you at 10:30, then',
	'Who has the key?\nBram or me?\n\nSay so here.',
	'😀 👍',
	'Meter: 4,312.5 - as of today',
	'see heating.pdf, page 3',
	'12.01.2025 was the first day',
	'[sic] he said <nothing>'
];
/** Nine weeks with days above and below twelve. */
function story(count: number): Said[] {
	let at = Date.UTC(2025, 0, 3, 0, 4, 5);
	return Array.from({ length: count }, (_, i) => {
		at += (7 + ((i * 37) % 2900)) * 60_000 + (i % 60) * 1000;
		const writer = i % 2 ? OWNER : i % 10 === 4 ? 'Bram Vesterholt' : 'Odile Marchetti';
		return { at, writer, text: TEXTS[i % TEXTS.length]! + (i % 3 && i % TEXTS.length !== 4 ? ` (${i})` : '') };
	});
}

function holds(form: ExportForm, said: readonly Said[], messages: readonly Woven[]): void {
	const got = messages.map((m) => [m.first.sentAt, m.first.direction, m.first.text]);
	const want = said.map((s) => [Math.floor(s.at / form.unit) * form.unit, s.writer === OWNER ? 'out' : 'in', s.text]);
	const sorted = (list: unknown[][]): string[] => list.map((x) => JSON.stringify(x)).sort();
	assert.deepEqual(sorted(got), sorted(want));
	const writers = new Set(
		messages.filter((m) => m.first.direction === 'in').map((m) => m.first.correspondent?.name ?? m.first.correspondent?.address)
	);
	assert.deepEqual([...writers].sort(), [...new Set(said.map((s) => s.writer))].filter((w) => w !== OWNER).sort());
	assert.equal(new Set(messages.map((m) => m.thread)).size, 1);
}

describe('the same conversation out of every form', () => {
	for (const form of [...TEXT_FORMS, ...HEADED_FORMS, ...RECORD_FORMS, ...PAGE_FORMS]) {
		it(form.name, () => holds(form, story(60), look({ [form.file]: form.write(story(60)) }).messages));
	}
	for (const form of [...TEXT_FORMS, ...HEADED_FORMS]) {
		it(`${form.name}: five messages are enough`, () => {
			const few = story(5).map((s, i) => ({ ...s, at: Date.UTC(2025, 0, 14, 9, i * 7) }));
			holds(form, few, look({ [form.file]: form.write(few) }).messages);
		});
	}
	it('what a name begins or ends with is part of it: no zone, no half of the day, no bracket of the head', () => {
		const said = story(24).map((s) => ({
			...s,
			writer: s.writer === OWNER ? OWNER : ['Hugo Zander', 'Zita', 'A. B. Costa', 'Nils (work)'][(s.at / 1000) % 4]!
		}));
		for (const form of [...TEXT_FORMS, ...HEADED_FORMS]) holds(form, said, look({ [form.file]: form.write(said) }).messages);
	});
	it('bytes of a Western code page', () => {
		const said = story(12).map((s) => ({ ...s, text: 'Wärme für drei Wochen, café' }));
		holds(WESTERN, said, look({ 'talk.txt': WESTERN.write(said) }).messages);
	});
});

it('of two who only write to each other the named one is the owner; yes and no tell the way', () => {
	const said = story(12).map((s) => ({ ...s, writer: s.writer === OWNER ? OWNER : 'Odile Marchetti' }));
	const other = (s: Said): string => (s.writer === OWNER ? 'Odile Marchetti' : OWNER);
	const rows = (head: string, row: (s: Said) => string[]): string =>
		[
			head,
			...said.map((s) =>
				row(s)
					.map((c) => `"${c}"`)
					.join(',')
			)
		].join('\n');
	const pair = rows('From,To,Sent,Words', (s) => [s.writer, other(s), String(s.at), s.text!]);
	const flag = rows('Date,Contact,Outgoing,Words', (s) => [
		new Date(s.at).toISOString(),
		'Odile Marchetti',
		s.writer === OWNER ? 'yes' : 'no',
		s.text!
	]);
	for (const content of [pair, flag])
		for (const { first } of look({ 'talk.csv': content }).messages) {
			const s = said.find((x) => x.text === first.text && x.at === first.sentAt)!;
			assert.equal(first.direction, s.writer === OWNER ? 'out' : 'in');
			assert.equal(first.correspondent?.name ?? first.correspondent?.address, 'Odile Marchetti');
		}
});

it('dates in digits are neither files nor numbers; a named file behind a label lies beside', () => {
	const said = story(12);
	const rows = said.map((s, i) => {
		const day = new Date(s.at).toISOString().slice(0, 10).split('-').reverse().map(Number).join('.');
		return `${day};${new Date(s.at).toISOString().slice(11, 16)};${s.writer};"${s.text}";${i === 3 ? 'scan.jpg' : ''}`;
	});
	const { messages } = look({ 'talk.csv': ['Date;Time;Name;Text;File', ...rows].join('\n'), 'scan.jpg': 'x' });
	assert.equal(messages.length, 12);
	assert.deepEqual(
		messages.flatMap((m) => m.first.files.map((f) => f.name)),
		['scan.jpg']
	);
	const labelled = look({
		'talk.txt': TEXT_FORMS[0]!.write([...said.slice(0, 5), { ...said[5]!, text: 'Attachment: plan.jpg\nthe cellar' }]),
		'plan.jpg': 'x'
	}).messages.at(-1)!;
	assert.deepEqual([labelled.first.text, labelled.first.files.map((f) => f.name)], ['the cellar', ['plan.jpg']]);
});

it('a conversation whose texts all have the same number of commas is no table', () => {
	const said = story(60).map((s) => ({ ...s, text: 'off again, nine days now, as before' }));
	holds(TEXT_FORMS[1]!, said, look({ 'talk.txt': TEXT_FORMS[1]!.write(said) }).messages);
});
it('values in columns are read whatever the file is called', () => {
	holds(RECORD_FORMS[2]!, story(30), look({ 'talk.txt': RECORD_FORMS[2]!.write(story(30)) }).messages);
});

describe('what a sighting says', () => {
	it('names the bytes of its message', () => {
		for (const form of [TEXT_FORMS[1]!, TEXT_FORMS[7]!, RECORD_FORMS[0]!, RECORD_FORMS[2]!, RECORD_FORMS[3]!, RECORD_FORMS[4]!]) {
			const bytes = bytesOf(form.write(story(20)));
			const { messages } = look({ [form.file]: bytes });
			for (const m of messages) {
				const [s] = m.sightings;
				const there = new TextDecoder().decode(bytes.subarray(s!.offset, s!.offset + s!.length));
				assert.ok(there.includes(m.first.text!.split('\n')[0]!.slice(0, 12).replace('<', '')), `${form.name}: ${there}`);
				assert.ok(s!.length < 600, form.name);
			}
		}
	});
	it('times without a zone say so, times with one do not', () => {
		assert.ok(look({ 'a.txt': TEXT_FORMS[0]!.write(story(9)) }).messages.every((m) => !m.first.zoned));
		assert.ok(look({ 'a.txt': TEXT_FORMS[3]!.write(story(9)) }).messages.every((m) => m.first.zoned));
		assert.ok(look({ 'a.csv': RECORD_FORMS[2]!.write(story(9)) }).messages.every((m) => !m.first.zoned));
	});
});

const dash = (at: string, rest: string): string => `${at} - ${rest}\n`;

describe('what is no message', () => {
	it('lines of the program itself are told apart', () => {
		const { messages } = look({
			'a.txt':
				dash('14/01/2025, 09:00', 'Messages in this conversation stay here. Learn more.') +
				dash('14/01/2025, 09:01', 'Odile Marchetti added Bram Vesterholt') +
				dash('14/01/2025, 09:02', 'Odile Marchetti: Good morning') +
				dash('14/01/2025, 09:03', `${OWNER}: Morning`) +
				dash('14/01/2025, 09:04', 'Odile Marchetti changed the subject to: Heat, day 9') +
				dash('14/01/2025, 09:05', 'Odile Marchetti: It is cold')
		});
		assert.deepEqual(
			messages.map((m) => m.first.text),
			['Good morning', 'Morning', 'It is cold']
		);
	});
	it('names with values behind an equals sign are no text, whatever times they hold', () => {
		const entry = (n: number): string =>
			`[[message]]\nid = ${n}\nat = 2025-01-14T10:0${n}:00Z\nfrom = "Odile Marchetti"\ntext = "It is cold, ${n}"\n\n`;
		const { messages } = look({ 'a.toml': `title = "Rota"\n\n${[1, 2, 3, 4, 5].map(entry).join('')}` });
		// Records they are, and read as such.
		assert.deepEqual(
			messages.map(({ first: { text, sentAt } }) => [text, sentAt]),
			[1, 2, 3, 4, 5].map((n) => [`It is cold, ${n}`, Date.UTC(2025, 0, 14, 10, n)])
		);
		const settings = ['window', 'sound', 'zone', 'printer'].map(
			(name, n) => `[${name}]\nlast = 2025-01-14 10:0${n}:00\nfrom = Odile Marchetti\n`
		);
		assert.deepEqual(look({ 'a.ini': settings.join('\n') }).messages, []);
	});
	it('a time that somebody wrote by itself ends no day', () => {
		const day = (n: number): string =>
			`\n--- ${n} January 2025 ---\n\n09:00 Odile Marchetti: When, on the ${n}th?\n10:30\n10:01 ${OWNER}: Yes\n10:30\n`;
		const { messages } = look({ 'a.txt': day(14) + day(15) + day(16) });
		assert.deepEqual(
			messages.map((m) => m.first.text),
			[14, 15, 16].flatMap((n) => [`When, on the ${n}th?\n10:30`, 'Yes\n10:30'])
		);
	});
	it('a date that somebody wrote into a message begins no new one', () => {
		const { messages } = look({
			'a.txt': [0, 1, 2, 3]
				.map((i) => dash(`14/01/2025, 09:0${i}`, `Odile Marchetti: No heat since\n2025-01-05 10:00 in all flats: yours too\nday ${i}`))
				.join('')
		});
		assert.equal(messages.length, 4);
		assert.match(messages[0]!.first.text!, /since\n2025-01-05 10:00 in all flats: yours too\nday 0$/);
	});
	it('prose, settings, source text and lists are no conversations', () => {
		const none = {
			'notes.txt': 'On 14/01/2025, 10:00 the plant failed.\nIt was cold.\n\nSee also 15/01/2025, 11:00 - the report: all of it.\n'.repeat(
				3
			),
			'settings.json':
				'{"theme":"dark","window":{"width":800,"height":600},"recent":[{"path":"/a/b.txt","opened":1736845200000},{"path":"/c/d.txt","opened":1736845300000}]}',
			'program.log': Array.from({ length: 40 }, (_, i) => `2025-01-14 10:00:${i + 10} INFO started step ${i} of forty\n`).join(''),
			'list.csv': 'name,number\nOdile Marchetti,+33 6 39 98 04 17\nBram Vesterholt,+31 97 010 24 00 12\n',
			'code.xml': '<project><module name="a"/><module name="b"/><module name="c"/></project>'
		};
		for (const [name, content] of Object.entries(none)) assert.deepEqual(look({ [name]: content }).messages, [], name);
	});
});

describe('files that came with messages', () => {
	const said: Said[] = [
		{ at: Date.UTC(2025, 0, 14, 9, 0), writer: 'Odile Marchetti', text: null, file: 'PIC-0001.jpg' },
		{ at: Date.UTC(2025, 0, 14, 9, 1), writer: OWNER, text: 'The boiler\nfrom below', file: 'PIC-0002.jpg' },
		{ at: Date.UTC(2025, 0, 14, 9, 2), writer: OWNER, text: null, file: '' },
		{ at: Date.UTC(2025, 0, 14, 9, 3), writer: 'Odile Marchetti', text: null, file: 'Heating plan, floor 2.pdf' },
		{ at: Date.UTC(2025, 0, 14, 9, 4), writer: 'Odile Marchetti', text: null, file: '' }
	];
	for (const form of [TEXT_FORMS[0]!, TEXT_FORMS[1]!, TEXT_FORMS[4]!])
		it(`are taken out of the text: ${form.name}`, () => {
			const { messages } = look({ 'talk/chat.txt': form.write(said), 'talk/PIC-0001.jpg': 'x', 'talk/Heating plan, floor 2.pdf': 'y' });
			assert.deepEqual(
				messages.map((m) => [m.first.text, m.first.files.map((f) => f.name)]),
				said.map((s) => [s.text, s.file === undefined ? [] : [s.file || null]])
			);
		});
});

it('pictures that came with a conversation are not said to be no databases; what is unknown is, and a picture alone', () => {
	const png = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 0, 0, 0, 13, 73, 72, 68, 82);
	const noise = Uint8Array.from({ length: 400 }, (_, i) => (i * 2654435761) >>> 13);
	const remarks = (files: Record<string, string | Uint8Array>): unknown[] => look(files).look.notes.map((n) => n.detail?.['name']);
	const talk = TEXT_FORMS[0]!.write(story(9));
	assert.deepEqual(remarks({ 'talk/chat.txt': talk, 'talk/scan.png': png, 'talk/thing.bin': noise }), ['thing.bin']);
	assert.deepEqual(remarks({ 'scan.png': png }), ['scan.png']);
});

describe('which number is the day', () => {
	const order = (dates: string[]): string | undefined =>
		openExport(
			{
				name: 'a.txt',
				source: new MemorySource(bytesOf(dates.map((x, i) => dash(`${x}, 10:0${i % 10}`, `Odile Marchetti: number ${i}`)).join('')))
			},
			0,
			new Set()
		)?.dates[0]?.order;
	it('by a number that can only be the day', () => {
		assert.equal(order(['01/02/2025', '13/02/2025']), 'dmy');
		assert.equal(order(['02/01/2025', '02/13/2025']), 'mdy');
	});
	it('by the order of the lines', () => {
		assert.equal(order(['01/03/2025', '02/03/2025', '05/03/2025', '01/04/2025', '02/04/2025']), 'dmy');
		assert.equal(order(['03/01/2025', '03/02/2025', '03/05/2025', '04/01/2025', '04/02/2025']), 'mdy');
	});
	it('by how close they lie, also with two-digit years in front', () => {
		assert.equal(order(['25/01/10', '25/01/11', '25/01/12', '25/02/01']), 'ymd');
		assert.equal(order(['02/01/25', '02/02/25', '02/05/25']), 'mdy');
	});
});

describe('years of other calendars', () => {
	const first = (date: string): string =>
		new Date(
			look({ 'a.txt': ['08:00', '08:05', '09:10'].map((t, i) => dash(`${date}, ${t}`, `Odile Marchetti: number ${i}`)).join('') })
				.messages[0]!.first.sentAt!
		).toISOString();
	// The same day as the host's own calendars write it.
	for (const [calendar, written] of [
		['persian', '1403/10/25'],
		['islamic-umalqura', '1446/07/14'],
		['buddhist', '14/01/2568']
	] as const)
		it(`of the ${calendar} calendar`, () => {
			const at = Date.UTC(2025, 0, 14);
			const parts = new Intl.DateTimeFormat(`en-u-ca-${calendar}-nu-latn`, {
				timeZone: 'UTC',
				year: 'numeric',
				month: '2-digit',
				day: '2-digit'
			}).formatToParts(at);
			for (const type of ['year', 'month', 'day'])
				assert.ok(written.includes(parts.find((p) => p.type === type)!.value.padStart(2, '0')), `${type} of ${written}`);
			assert.equal(first(written), '2025-01-14T08:00:00.000Z');
		});
	it('of the Hebrew calendar, months from Tishrei', () => assert.equal(first('5785/04/14'), '2025-01-14T08:00:00.000Z'));
	it('but no day that there is not', () => {
		assert.equal(look({ 'a.txt': dash('1403/13/25, 08:00', 'Odile Marchetti: number') }).messages.length, 0);
	});
});

describe('whose device it is', () => {
	const two = TEXT_FORMS[0]!.write(story(10).filter((s) => s.writer !== 'Bram Vesterholt'));
	it('the file is called after the other side', () => {
		const { messages } = look({ 'Talk with Odile Marchetti.txt': two }, null);
		assert.deepEqual(
			new Set(messages.map((m) => `${m.first.direction} ${m.first.correspondent?.name}`)),
			new Set(['in Odile Marchetti', 'out Odile Marchetti'])
		);
	});
	it('the user gives a number, an address book its name', () => {
		const card = `BEGIN:VCARD\r\nVERSION:3.0\r\nFN:${OWNER}\r\nTEL:+44 7700 900199\r\nEND:VCARD\r\n`;
		const { messages } = look({ 'talk.txt': two, 'people.vcf': card }, '+447700900199');
		assert.deepEqual(new Set(messages.map((m) => m.first.direction)), new Set(['in', 'out']));
	});
	it('nothing says it: the way is not known, and nobody is left out', () => {
		const { messages } = look({ 'talk.txt': two }, null);
		assert.ok(messages.every((m) => m.first.direction === null && m.first.correspondent !== null));
	});
	it('who writes in every conversation', () => {
		const other = TEXT_FORMS[1]!.write(story(10).map((s) => ({ ...s, writer: s.writer === OWNER ? OWNER : 'Li Wen' })));
		assert.ok(look({ 'a.txt': two, 'b.txt': other }, null).messages.every((m) => m.first.direction !== null));
	});
});

it('never throws, hangs or invents on damaged exports', () => {
	const all = [...TEXT_FORMS, ...HEADED_FORMS, ...RECORD_FORMS, ...PAGE_FORMS].map((f) => bytesOf(f.write(story(12))));
	let changed = 0;
	fc.assert(
		fc.property(
			fc.nat(all.length - 1),
			fc.array(fc.tuple(fc.nat(), fc.integer({ min: 0, max: 255 })), { minLength: 1, maxLength: 12 }),
			fc.nat(),
			(which, edits, cut) => {
				const bytes = all[which]!.slice();
				for (const [at, value] of edits) bytes[at % bytes.length] = value;
				const given = bytes.subarray(0, bytes.length - (cut % (bytes.length >> 1)));
				if (given.some((b, i) => b !== all[which]![i])) changed++;
				const harvest = openExport({ name: 'a.txt', source: new MemorySource(given) }, 0, new Set());
				for (const step of harvest?.run('used') ?? []) void step;
				for (const row of harvest?.book.rows ?? [])
					for (const s of row.sightings) assert.ok(s.offset >= 0 && s.length >= 0 && s.offset + s.length <= given.length);
			}
		),
		{ numRuns: 150, seed: 3 }
	);
	assert.ok(changed > 100);
});
