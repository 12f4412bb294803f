/** Databases written out as statements, and spreadsheets. */
import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { describe, it } from 'node:test';
import { strToU8, zipSync } from 'fflate';
import { readSql } from '../../src/core/harvest/exported/sql';
import type { Weave } from '../../src/core/weave';
import { lookAt } from '../vectors/look-at';

const ODILE = 'Odile Marchetti';
const PIET = 'Piet Hallorann';
const TAMSIN = 'Tamsin Okafor';

const threadsOf = async (files: Record<string, string | Uint8Array>, owner: string | null = PIET): Promise<Weave['threads']> =>
	(await lookAt(files, owner)).findings().weave.threads;

const said = (threads: Weave['threads']): string[][] =>
	threads
		.map((t) =>
			t.messages.map(({ first: m }) => `${m.direction === 'out' ? 'out' : (m.correspondent?.name ?? m.correspondent?.address)}: ${m.text}`)
		)
		.sort((a, b) => (a[0]! < b[0]! ? -1 : 1));

const at = (i: number): number => Date.UTC(2025, 0, 14, 10, i);
const TALK = Array.from({ length: 24 }, (_, i) => {
	const other = i % 6 < 3 ? ODILE : TAMSIN;
	return {
		n: i + 1,
		other,
		who: i % 2 === 0 ? other : PIET,
		at: at(i),
		text: i === 5 ? "It's the boiler\nagain (5)" : `The boiler is off, ${i}`
	};
});
const expected = [ODILE, TAMSIN].map((other) =>
	TALK.filter((m) => m.other === other).map((m) => `${m.who === PIET ? 'out' : m.who}: ${m.text}`)
);

describe('statements', () => {
	const values = TALK.map((m) => ({ ...m, room: m.other === ODILE ? 41 : 42, own: Number(m.who === PIET) }));
	const schema = `CREATE TABLE person(_id INTEGER PRIMARY KEY, name TEXT, phone TEXT);
CREATE TABLE room(_id INTEGER PRIMARY KEY, person INTEGER REFERENCES person(_id));
CREATE TABLE message(_id INTEGER PRIMARY KEY, room INTEGER, own INTEGER, sent INTEGER, body TEXT);
INSERT INTO person VALUES(7,'${ODILE}','+447700900107'),(8,'${TAMSIN}','+447700900114');
INSERT INTO room VALUES(41,7),(42,8);\n`;
	const rows = values
		.map((m) => `INSERT INTO message VALUES(${m.n},${m.room},${m.own},${m.at},'${m.text.replaceAll("'", "''")}');`)
		.join('\n');

	it("as the engine's own shell writes a store", async () => {
		const dump = execFileSync('sqlite3', [':memory:'], { input: `${schema}${rows}\n.dump`, encoding: 'utf8' });
		const threads = await threadsOf({ 'backup.sql': dump }, null);
		assert.deepEqual(said(threads), expected);
		const [message] = threads.flatMap((t) => t.messages).filter((m) => m.first.text === TALK[8]!.text);
		const { offset, length } = message!.sightings[0]!;
		const bytes = new TextEncoder().encode(dump).slice(offset, offset + length);
		assert.equal(new TextDecoder().decode(bytes), `(9,41,0,${at(8)},'The boiler is off, 8')`);
	});
	it('with strokes before signs, and names of columns', async () => {
		const stroked = values.map((m) => `(${m.n},${m.room},${m.own},${m.at},'${m.text.replaceAll("'", "\\'").replaceAll('\n', '\\n')}')`);
		const dump = `-- written out\nSET NAMES utf8;\nCREATE TABLE \`person\` (\`id\` int NOT NULL, \`name\` text, \`phone\` varchar(40), PRIMARY KEY (\`id\`)) ENGINE=X;
CREATE TABLE \`message\` (\`id\` int NOT NULL, \`person\` int, \`own\` tinyint, \`sent\` bigint, \`body\` text, PRIMARY KEY (\`id\`)) ENGINE=X;
INSERT INTO \`person\` (\`id\`, \`name\`, \`phone\`) VALUES (41,'${ODILE}','+447700900107'),(42,'${TAMSIN}','+447700900114');
INSERT INTO \`message\` (\`id\`, \`person\`, \`own\`, \`sent\`, \`body\`) VALUES ${stroked.join(',')};\n`;
		assert.deepEqual(said(await threadsOf({ 'dump.sql': dump }, null)), expected);
	});
	it('with lines of values parted by tabs', async () => {
		const lines = values.map((m) =>
			[m.n, m.room, m.own === 1 ? 't' : 'f', new Date(m.at).toISOString(), m.text.replaceAll('\n', '\\n')].join('\t')
		);
		const dump = `SET client_encoding = 'UTF8';\nCREATE TABLE public.person (id integer, name text, phone text);\nCREATE TABLE public.message (id integer, person integer, outgoing boolean, sent timestamp, body text);
COPY public.person (id, name, phone) FROM stdin;\n41\t${ODILE}\t+447700900107\n42\t${TAMSIN}\t+447700900114\n\\.\n
COPY public.message (id, person, outgoing, sent, body) FROM stdin;\n${lines.join('\n')}\n\\.\n`;
		assert.deepEqual(said(await threadsOf({ 'dump.sql': dump }, null)), expected);
	});
	it('values of every sort, and a text that is cut', () => {
		const [table] = readSql(
			"CREATE TABLE t(a, b, c);\nINSERT INTO t VALUES(NULL,-1.5,X'00ff');\nINSERT INTO \"t\"(c,a) VALUES(replace('a\\nb','\\n',char(10)),unistr('\\000ab\\u00e9')), (1,'it''s -- no /* comment'), ('cut of"
		);
		assert.deepEqual(
			table!.rows.map((r) => r.values),
			[
				[null, -1.5, new Uint8Array([0, 255])],
				['\nb\u00e9', undefined, 'a\nb'],
				["it's -- no /* comment", undefined, 1],
				[undefined, undefined, 'cut of']
			]
		);
		assert.deepEqual(
			table!.rows.map((r) => r.isPart),
			[false, false, false, true]
		);
	});
	it('brackets within brackets without end are given up', () => {
		assert.deepEqual(readSql(`CREATE TABLE t(a);\nINSERT INTO t VALUES(${'f('.repeat(200_000)}`), []);
	});
});

describe('spreadsheets', () => {
	const head = ['Conversation', 'Date', 'From', 'Text'];
	const serial = (ms: number): number => (ms - Date.UTC(1899, 11, 30)) / 86_400_000;
	const escape = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;');
	const package_ = (sheets: Record<string, string>, strings: string[], more = ''): Uint8Array =>
		zipSync({
			'[Content_Types].xml': strToU8('<Types/>'),
			'xl/workbook.xml': strToU8(
				`<workbook xmlns:r="r">${more}<sheets>${Object.keys(sheets)
					.map((name, i) => `<sheet name="${name}" sheetId="${i + 1}" r:id="rId${i + 1}"/>`)
					.join('')}</sheets></workbook>`
			),
			'xl/_rels/workbook.xml.rels': strToU8(
				`<Relationships>${Object.keys(sheets)
					.map((_, i) => `<Relationship Id="rId${i + 1}" Target="worksheets/sheet${i + 1}.xml"/>`)
					.join('')}</Relationships>`
			),
			'xl/styles.xml': strToU8(
				'<styleSheet><numFmts><numFmt numFmtId="164" formatCode="dd/mm/yyyy\\ hh:mm:ss"/></numFmts><cellXfs><xf numFmtId="0"/><xf numFmtId="164"/></cellXfs></styleSheet>'
			),
			'xl/sharedStrings.xml': strToU8(
				`<sst>${strings.map((s) => `<si><r><t>${escape(s.slice(0, 2))}</t></r><r><t xml:space="preserve">${escape(s.slice(2))}</t></r></si>`).join('')}</sst>`
			),
			...Object.fromEntries(
				Object.values(sheets).map((rows, i) => [
					`xl/worksheets/sheet${i + 1}.xml`,
					strToU8(`<worksheet><sheetData>${rows}</sheetData></worksheet>`)
				])
			)
		});
	const strings: string[] = [];
	const shared = (text: string): number => (strings.includes(text) ? strings.indexOf(text) : strings.push(text) - 1);
	const sheet = (rows: (string | number)[][]): string =>
		rows
			.map(
				(cells, r) =>
					`<row r="${r + 1}">${cells
						.map((v, c) =>
							v === '' ? '' : `<c r="${'ABCD'[c]}${r + 1}" ${typeof v === 'number' ? `s="1"><v>${v}</v>` : `t="s"><v>${shared(v)}</v>`}</c>`
						)
						.join('')}</row>`
			)
			.join('');

	it('of a package, times as days of a style', async () => {
		const rows = TALK.map((m) => [m.other, serial(m.at), m.who, m.text]);
		const threads = await threadsOf({ 'messages.xlsx': package_({ Messages: sheet([head, ...rows]) }, strings) });
		assert.deepEqual(said(threads), expected);
		assert.deepEqual(
			threads.flatMap((t) => t.messages.map((m) => m.first.sentAt)).sort(),
			TALK.map((m) => m.at)
		);
	});
	it('a sheet for each conversation, and one of something else', async () => {
		const of = (other: string): string =>
			sheet([['Date', 'From', 'Text'], ...TALK.filter((m) => m.other === other).map((m) => [serial(m.at), m.who, m.text])]);
		const sheets = { [ODILE]: of(ODILE), [TAMSIN]: of(TAMSIN), Notes: sheet([['Note'], ['made by hand']]) };
		assert.deepEqual(said(await threadsOf({ 'messages.xlsx': package_(sheets, strings) })), expected);
	});
	it('of an open document, in a package and in one file', async () => {
		const cell = (v: string): string =>
			`<table:table-cell office:value-type="string">${v
				.split('\n')
				.map((p) => `<text:p>${escape(p)}</text:p>`)
				.join('')}</table:table-cell>`;
		const dated = (ms: number): string =>
			`<table:table-cell office:value-type="date" office:date-value="${new Date(ms).toISOString().slice(0, 19)}"><text:p>then</text:p></table:table-cell>`;
		const rows = TALK.map(
			(m) =>
				`<table:table-row>${cell(m.other)}${dated(m.at)}${cell(m.who)}${cell(m.text)}<table:table-cell table:number-columns-repeated="16000"/></table:table-row>`
		);
		const body = `<office:body><office:spreadsheet><table:table table:name="Messages"><table:table-row>${head.map(cell).join('')}</table:table-row>${rows.join('')}</table:table></office:spreadsheet></office:body>`;
		const parts = {
			mimetype: strToU8('application/vnd.oasis.opendocument.spreadsheet'),
			'content.xml': strToU8(`<office:document-content>${body}</office:document-content>`)
		};
		assert.deepEqual(said(await threadsOf({ 'messages.ods': zipSync(parts) })), expected);
		assert.deepEqual(
			said(await threadsOf({ 'messages.fods': `<?xml version="1.0"?>\n<office:document>${body}</office:document>` })),
			expected
		);
	});
	it('of rows within rows without end are none, and hold nothing up', async () => {
		const deep = `<?xml version="1.0"?><office:document office:d="2025-01-14">${'<table:table-row>'.repeat(150_000)}`;
		assert.deepEqual(await threadsOf({ 'deep.xml': deep }), []);
	});
});
