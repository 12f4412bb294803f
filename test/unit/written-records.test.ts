/** Records that a program writes as one text into one column: each message read whole, with its time, way and other side, lost ones too. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import fc from 'fast-check';
import { messageLine } from '../../src/cli/lines';
import { openComposed, readComposed } from '../../src/core/interpret/composed';
import { payloadsIn } from '../../src/core/interpret/payloads';
import type { Row } from '../../src/core/model';
import { createDatabase } from '../vectors/engine';
import { lookAt } from '../vectors/look-at';
import { Random } from '../vectors/random';

const OWNER = '+447700900300';
const PERSONS = ['Odile Marchetti', 'Tamsin Okafor', 'Noor al-Khatib', 'Li Wen'].map((name, i) => ({ name, number: `+44770090041${i}` }));
const WORDS =
	'boiler meter charge valve größer завтра credit plant heating 你好 failure notice tenant 👍 R&D <soon> "quoted" a|b 3,5;'.split(' ');

interface Said {
	at: number;
	isOut: boolean;
	other: string;
	text: string;
}

const random = new Random(5);
const SAID: readonly Said[] = Array.from({ length: 120 }, (_, i) => ({
	at: Date.UTC(2025, 0, 10, 11) + i * 731_000,
	isOut: i % 3 === 0,
	other: PERSONS[i % PERSONS.length]!.number,
	text: `${Array.from({ length: random.int(1, 11) }, () => random.pick(WORDS)).join(' ')} no ${i}`
}));
const isDeleted = (i: number): boolean => i % 12 === 5;

const iso = (ms: number): string => `${new Date(ms).toISOString().slice(0, 19)}Z`;
const ends = (s: Said): [from: string, to: string] => (s.isOut ? [OWNER, s.other] : [s.other, OWNER]);
const xml = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;');
const headOf = (s: Said): string => `From: ${ends(s)[0]}\nTo: ${ends(s)[1]}\nDate: ${new Date(s.at).toUTCString().replace('GMT', '+0000')}`;
const quoted = (text: string): string =>
	[...Buffer.from(text)]
		.map((b) => (b > 126 || b === 61 || b < 32 ? `=${b.toString(16).toUpperCase().padStart(2, '0')}` : String.fromCharCode(b)))
		.join('');

const FORMS: Record<string, (s: Said, i: number) => string | Uint8Array> = {
	'a list whose places have their meaning': (s, i) => JSON.stringify([i, s.at, ...ends(s), s.text, null]),
	'such a list, as bytes': (s) => Buffer.from(JSON.stringify([s.other, s.isOut, s.text, iso(s.at)])),
	'an element with attributes and elements': (s) =>
		`<message from="${ends(s)[0]}" to="${ends(s)[1]}" time="${iso(s.at)}"><body>${xml(s.text)}</body></message>`,
	'an element with its text in it': (s, i) =>
		`<m id="${i}" peer="${s.other}" way="${s.isOut ? 'out' : 'in'}" at="${s.at}">${xml(s.text)}</m>`,
	'elements alone, behind a declaration': (s) =>
		`<?xml version="1.0"?>\n<entry>\n <sender>${ends(s)[0]}</sender>\n <recipient>${ends(s)[1]}</recipient>\n <sent>${iso(s.at)}</sent>\n <text><![CDATA[${s.text}]]></text>\n</entry>`,
	'parts between strokes, the text behind': (s) => [iso(s.at), s.isOut ? 'OUT' : 'IN', s.other, s.text].join('|'),
	'parts between strokes, the text between them': (s, i) => [i, s.isOut ? 'sent' : 'received', s.text, s.other, s.at].join('|'),
	'parts between tabs, as bytes': (s) => Buffer.from([s.other, s.isOut ? 'sent' : 'received', s.at, s.text].join('\t')),
	'parts between separators of units': (s) => [s.at, ...ends(s), s.text].join('\u001f'),
	'pairs of a form': (s) => new URLSearchParams({ from: ends(s)[0], to: ends(s)[1], time: String(s.at), text: s.text }).toString(),
	'a pair on each line': (s) => `from=${ends(s)[0]}\nto=${ends(s)[1]}\nsent=${iso(s.at)}\nbody=${s.text}`,
	'a head with a body below': (s) => `${headOf(s)}\n\n${s.text}`,
	'a head with a body in quoted-printable': (s) =>
		`${headOf(s)}\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n${quoted(s.text)}\r\n`,
	'a head with two bodies': (s) =>
		`${headOf(s)}\nMIME-Version: 1.0\nContent-Type: multipart/alternative; boundary="b1"\n\n--b1\nContent-Type: text/plain; charset=utf-8\nContent-Transfer-Encoding: base64\n\n${Buffer.from(s.text).toString('base64')}\n--b1\nContent-Type: text/html\n\n<p>${xml(s.text)}</p>\n--b1--\n`,
	'documents in digits to the base of 64': (s) =>
		Buffer.from(JSON.stringify({ from: ends(s)[0], to: ends(s)[1], text: s.text, time: s.at })).toString('base64')
};

/** Those in which each record has its fields one after the other, so that of one that is cut it is known which are whole. */
const CUT = Object.keys(FORMS).filter((form) => !/digits|quoted|two bodies/.test(form));

describe('records written as one text', () => {
	let folder: string;
	before(() => void (folder = mkdtempSync(join(tmpdir(), 'written-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	function store(write: (s: Said, i: number) => string | Uint8Array): Uint8Array {
		const path = join(folder, 'store.db');
		rmSync(path, { force: true });
		const db = createDatabase(path, ['secure_delete=off', 'page_size=8192']);
		db.exec('create table person(id integer primary key, number text, name text); create table message(id integer primary key, data text)');
		for (const [i, { name, number }] of PERSONS.entries()) db.run('insert into person values(?,?,?)', [i + 1, number, name]);
		for (const [i, s] of SAID.entries()) db.run('insert into message values(?,?)', [i + 1, write(s, i)]);
		for (const i of SAID.keys()) if (isDeleted(i)) db.run('delete from message where id=?', [i + 1]);
		db.close();
		return new Uint8Array(readFileSync(path));
	}

	for (const [form, write] of Object.entries(FORMS))
		it(`reads ${form}`, async () => {
			const file = store(write);
			// The engine moves rows when it makes room: what it wrote over is gone.
			const isThere = (s: Said, i: number): boolean => Buffer.from(file).includes(write(s, i) as Buffer);
			const look = await lookAt({ 'store.db': file }, OWNER);
			const { stores, weave } = look.findings();
			const lines = weave.threads.flatMap((t) =>
				t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null))
			) as unknown as {
				text: string;
				sentAt: string;
				direction: string;
				person: string;
				standing: string;
			}[];
			const said = (s: Said): string =>
				JSON.stringify([s.text, Math.floor(s.at / 1000), s.isOut ? 'out' : 'in', PERSONS.find((p) => p.number === s.other)!.name]);
			const found = (standing: RegExp): string[] =>
				lines
					.filter((l) => standing.test(l.standing))
					.map((l) => JSON.stringify([l.text, Math.floor(Date.parse(l.sentAt) / 1000), l.direction, l.person]))
					.sort();
			assert.deepEqual(
				found(/kept/),
				SAID.filter((_, i) => !isDeleted(i))
					.map(said)
					.sort()
			);
			const lost = SAID.filter((s, i) => isDeleted(i) && isThere(s, i));
			assert.ok(lost.length > 4);
			assert.deepEqual(found(/remnant/), lost.map(said).sort());
		});

	it('tells of a record that breaks off, wherever it does, what is whole and what is not', () => {
		const plain = (form: string, i: number): string => {
			const value = FORMS[form]!(SAID[i]!, i);
			return typeof value === 'string' ? value : Buffer.from(value).toString();
		};
		fc.assert(
			fc.property(fc.constantFrom(...CUT), fc.nat(SAID.length - 1), fc.double({ min: 0, max: 0.999, noNaN: true }), (form, i, share) => {
				const how = readComposed(SAID.map((_, k) => plain(form, k)))!;
				const text = plain(form, i);
				const whole = openComposed(how, text, false)!.fields;
				const part = openComposed(how, text.slice(0, Math.floor(text.length * share)), true);
				for (const [name, value] of Object.entries(part?.fields ?? {})) {
					if (part!.ending?.[0] === name)
						assert.ok(String(whole[name]).startsWith(String(value).replace(/[\ud800-\udbff]$/, '')), `${form}: ${name}`);
					else assert.deepEqual(value, whole[name], `${form}: ${name}`);
				}
			}),
			{ numRuns: 2000 }
		);
	});

	it('leaves as they are what people wrote, lists of members, keys and pages', () => {
		const many = (write: (s: Said, i: number) => string): string[] => SAID.map(write);
		const others: Record<string, string[]> = {
			texts: many((s) => s.text),
			'texts with strokes': many((s) => `${s.text} | ${s.text} | again`),
			'lists of numbers': many((s) => JSON.stringify([s.other, OWNER, '+447700900499'])),
			keys: many((s, i) => `msg|${s.other}|${i}`),
			pages: many((s) => `<p class="said">${xml(s.text)}</p><p>${xml(s.text)}</p>`),
			answers: many((s) => `Note: ${s.text}`),
			'two paragraphs': many((s) => `Hello: it is me\n\n${s.text}`)
		};
		for (const [what, texts] of Object.entries(others)) assert.equal(readComposed(texts), null, what);
	});

	it('is not held up by what is nested without end', () => {
		const hostile = [
			'<a b="1">'.repeat(20_000),
			`[${'['.repeat(50_000)}`,
			`a=1&${'b'.repeat(100_000)}`,
			'A: 1\n'.repeat(50_000),
			`<m x="1">${'<'.repeat(90_000)}<>`,
			`<m>${'<a'.padEnd(90_000, 'a')}`,
			`<m>${'<![CDATA['.repeat(9000)}`,
			`a=1&b=2&c=${'%41'.repeat(100_000)}x`
		];
		for (const text of hostile) {
			readComposed([text, text, text]);
			for (const how of [...(['listed', 'element', 'headed'] as const).map((kind) => ({ kind })), { kind: 'pairs', by: '&' } as const])
				openComposed(how, text, true);
		}
	});

	it('takes fields for fields, whatever they are called', () => {
		const names = ['constructor', 'valueOf', 'toString'];
		const fields = Object.fromEntries(names.map((name, i) => [name, String(i + 1)]));
		const opened = (how: Parameters<typeof openComposed>[0], text: string): unknown => openComposed(how, text, false)?.fields;
		assert.deepEqual(opened({ kind: 'pairs', by: '&' }, names.map((name) => `${name}=${fields[name]}`).join('&')), fields);
		assert.deepEqual(opened({ kind: 'headed' }, `${names.map((name) => `${name}: ${fields[name]}`).join('\n')}\n\nsaid`), {
			...fields,
			body: 'said'
		});
	});
});

describe('what is no text, as an element among texts', () => {
	it('says what it says however many letters are written as references, and resolves no other', () => {
		const rowOf = (kind: number, text: string): Row => ({
			table: 1,
			tableKnown: true,
			rowid: kind,
			values: [kind, text],
			cut: -1,
			standing: 'kept',
			grade: 'whole',
			sightings: []
		});
		const elements = [
			'<card name="Fish &amp; Chips &amp; Co"><note>a &lt; b &gt; c &#38; d &else;</note></card>',
			'<card name="K&#233;v"><note>R&amp;D &amp;amp; more</note></card>'
		];
		const rows = [...SAID.slice(0, 10).map((s) => rowOf(1, s.text.replaceAll('<', ''))), ...elements.map((text) => rowOf(7, text))];
		const payloads = payloadsIn(rows, (row) => row.values[1], 2)!;
		assert.deepEqual(rows.slice(-2).map(payloads.said), ['a < b > c & d &else;', 'R&D &amp; more']);
		assert.deepEqual(rows.slice(-2).map(payloads.attributes[0]!.read), ['Fish & Chips & Co', 'Kév']);
	});
});
