/** Address books in formats with a structure of their own: directory entries, elements, pages, sheets, statements. */
import { strToU8, zipSync } from 'fflate';
import { first, nameOf, PERSONS, second, written, type BookForm, type BookPerson } from './books';

const utf8 = (text: string): Uint8Array => new TextEncoder().encode(text);
const ofAll = (write: (p: BookPerson, i: number) => string): string => PERSONS.map(write).join('');
const each = (list: readonly string[], write: (text: string) => string): string => list.map(write).join('');

/** An attribute of a directory entry: in Base64 where it is no plain text, its lines of at most so many characters. */
function attribute(name: string, value: string): string {
	const line = /^[\x21-\x7e][\x20-\x7e]*$/.test(value) ? `${name}: ${value}` : `${name}:: ${Buffer.from(value).toString('base64')}`;
	return `${(line.match(/^.{1,40}|.{1,39}/g) ?? []).join('\n ')}\n`;
}

const GRID_HEAD = ['Name', 'Phone', 'Phone 2', 'E-mail', 'Note'];
const GRID = PERSONS.map((p, way) => [nameOf(p), first(p.numbers, way), second(p.numbers, way), p.emails[0] ?? '', 'Met at the boiler']);

const sheetXml = (rows: readonly (readonly string[])[]): string =>
	`<worksheet><sheetData>${rows
		.map((row) => `<row>${row.map((v) => (v === '' ? '<c/>' : `<c t="inlineStr"><is><t>${v}</t></is></c>`)).join('')}</row>`)
		.join('')}</sheetData></worksheet>`;

export const STRUCTURED_FORMS: readonly BookForm[] = [
	{
		form: 'entries of a directory',
		name: 'book.ldif',
		bytes: () =>
			utf8(
				`version: 1\n# the office\n\n${ofAll(
					(p, way) =>
						attribute('dn', `cn=${nameOf(p)},mail=none-${way}@elsewhere.example`) +
						'objectclass: top\nobjectclass: person\n' +
						attribute('givenName', p.given) +
						attribute('sn', p.family) +
						attribute('cn', nameOf(p)) +
						p.numbers.map((n, k) => attribute(k ? 'homePhone' : 'mobile', written(n, way))).join('') +
						each(p.emails, (e) => attribute('mail', e)) +
						'modifytimestamp: 1735689600\n\n'
				)}dn: cn=Everybody\nobjectclass: groupOfNames\ncn: Everybody\nmail: all@works.example\nmember: cn=${nameOf(PERSONS[1]!)}\n`
			)
	},
	{
		form: 'cards in XML',
		name: 'book.xml',
		bytes: () =>
			utf8(
				`<?xml version="1.0" encoding="UTF-8"?>\n<vcards xmlns="urn:ietf:params:xml:ns:vcard-4.0">${ofAll(
					(p) =>
						`<vcard><fn><text>${nameOf(p)}</text></fn><n><surname>${p.family}</surname><given>${p.given}</given><additional/></n>${each(
							p.numbers,
							(n) => `<tel><parameters><type><text>cell</text></type></parameters><uri>tel:${n}</uri></tel>`
						)}${each(p.emails, (e) => `<email><text>${e}</text></email>`)}</vcard>\n`
				)}</vcards>`
			)
	},
	{
		form: 'elements with attributes',
		name: 'book.xml',
		bytes: () =>
			utf8(
				`<addressbook>${ofAll(
					(p, way) =>
						`<entry name="${nameOf(p)}">${each(p.numbers, (n) => `<phone kind="mobile" number="${written(n, way)}"/>`)}${each(
							p.emails,
							(e) => `<mail address="${e}"/>`
						)}</entry>\n`
				)}</addressbook>`
			)
	},
	{
		form: 'elements within elements',
		name: 'book.xml',
		bytes: () =>
			utf8(
				`<people><exported>2025-03-01</exported>${ofAll(
					(p, way) =>
						`<contact><firstName>${p.given}</firstName><lastName>${p.family}</lastName><phones>${each(
							p.numbers,
							(n) => `<phone type="home">${written(n, way)}</phone>`
						)}</phones><emails>${each(p.emails, (e) => `<email>${e}</email>`)}</emails></contact>\n`
				)}</people>`
			)
	},
	{
		form: 'a table of a page',
		name: 'book.html',
		bytes: () =>
			utf8(
				`<!doctype html><html><body><h1>Address book</h1><table><tr>${each(GRID_HEAD, (h) => `<th>${h}</th>`)}</tr>${GRID.map(
					(row) => `<tr>${each(row, (v) => `<td>${v}</td>`)}</tr>\n`
				).join('')}</table></body></html>`
			)
	},
	{
		form: 'a sheet of a workbook',
		name: 'book.xlsx',
		bytes: () =>
			zipSync({
				'xl/workbook.xml': strToU8('<workbook xmlns:r="r"><sheets><sheet name="Persons" r:id="a"/></sheets></workbook>'),
				'xl/_rels/workbook.xml.rels': strToU8('<Relationships><Relationship Id="a" Target="worksheets/sheet1.xml"/></Relationships>'),
				'xl/worksheets/sheet1.xml': strToU8(sheetXml([GRID_HEAD, ...GRID]))
			})
	},
	{
		form: 'a table of a document',
		name: 'book.ods',
		bytes: () =>
			zipSync({
				mimetype: strToU8('application/vnd.oasis.opendocument.spreadsheet'),
				'content.xml': strToU8(
					`<office:document-content xmlns:office="o" xmlns:table="t" xmlns:text="x"><table:table table:name="Persons">${[GRID_HEAD, ...GRID]
						.map(
							(row) =>
								`<table:table-row>${each(row, (v) => `<table:table-cell><text:p>${v}</text:p></table:table-cell>`)}</table:table-row>`
						)
						.join('')}</table:table></office:document-content>`
				)
			})
	},
	{
		form: 'a list of YAML, numbers in it that are none of arithmetic',
		name: 'book.yaml',
		bytes: () =>
			utf8(
				`exported: 2025-03-01\npeople:\n${ofAll(
					(p) =>
						`  - name: "${nameOf(p)}"\n    phones:\n${each(p.numbers, (n) => `      - ${n}\n`)}${each(p.emails, (e) => `    email: ${e}\n`)}`
				)}`
			)
	},
	{
		form: 'lines of JSON',
		name: 'book.json',
		bytes: () =>
			utf8(
				ofAll(
					(p, way) =>
						`${JSON.stringify({ id: way, name: { first: p.given, last: p.family }, tel: p.numbers.map((n) => written(n, way)), mail: p.emails })}\n`
				)
			)
	},
	{
		form: 'blocks of lines',
		name: 'book.txt',
		bytes: () =>
			utf8(
				ofAll(
					(p, way) =>
						`Nom: ${nameOf(p)}\n${p.numbers.map((n, k) => `${k ? 'Domicile' : 'Portable'}: ${written(n, way)}\n`).join('')}${each(
							p.emails,
							(e) => `Courriel: ${e}\n`
						)}\n`
				)
			)
	},
	{
		form: 'blocks of lines with nothing between them',
		name: 'book.txt',
		bytes: () =>
			utf8(
				ofAll(
					(p, way) =>
						`Vorname: ${p.given}\nNachname: ${p.family}\n${each(p.numbers, (n) => `Mobil: ${written(n, way)}\n`)}${each(p.emails, (e) => `E-Mail: ${e}\n`)}`
				)
			)
	},
	{
		form: 'a table ruled with strokes',
		name: 'book.md',
		bytes: () =>
			utf8(
				`# Persons\n\n| ${GRID_HEAD.join(' | ')} |\n|${'---|'.repeat(GRID_HEAD.length)}\n${GRID.map((row) => `| ${row.join(' | ')} |\n`).join('')}`
			)
	},
	{
		form: 'statements',
		name: 'book.sql',
		bytes: () =>
			utf8(
				`CREATE TABLE contact(id INTEGER PRIMARY KEY, given TEXT, family TEXT, mobile TEXT, home TEXT, email TEXT);\n${ofAll(
					(p, way) =>
						`INSERT INTO contact VALUES(${way + 1},${[p.given, p.family, first(p.numbers, way), second(p.numbers, way), p.emails[0] ?? '']
							.map((v) => `'${v}'`)
							.join(',')});\n`
				)}`
			)
	}
];
