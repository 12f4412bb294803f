/** Address books: the same persons written in the forms that people bring, and as the stores of phones and desk programs keep them. */
import type { Engine } from './engine';

export interface BookPerson {
	given: string;
	family: string;
	numbers: string[];
	emails: string[];
}

export const PERSONS: readonly BookPerson[] = [
	{ given: 'Odile', family: 'Marchetti', numbers: ['+33639980417', '+441632960011'], emails: ['odile@marrow.example'] },
	{ given: 'Noor', family: 'al-Khatib', numbers: ['+447700900134'], emails: [] },
	{ given: 'Ana María', family: 'de la Cruz', numbers: ['+447700900155'], emails: ['ana@works.example'] },
	{ given: 'نور', family: 'الخطيب', numbers: ['+447700900166', '+441632960012'], emails: [] },
	{ given: '文', family: '李', numbers: ['+447700900177'], emails: ['wen@works.example'] },
	{ given: 'Łukasz', family: 'Brønsted', numbers: ['+447700900188'], emails: [] },
	// The same last digits as another's, of another country.
	{ given: 'Bram', family: 'Vesterholt', numbers: ['+497700900134'], emails: [] }
];

export const nameOf = (p: BookPerson): string => `${p.given} ${p.family}`;

/** A number as people write it, in one of several ways. */
export function written(number: string, way: number): string {
	if (!number.startsWith('+44')) return number;
	const rest = number.slice(3);
	return [
		number,
		`+44 ${rest.slice(0, 4)} ${rest.slice(4)}`,
		`0${rest}`,
		`(0${rest.slice(0, 4)}) ${rest.slice(4, 7)}-${rest.slice(7)}`,
		`0044${rest}`,
		`tel:+44-${rest.slice(0, 4)}-${rest.slice(4)}`,
		`+44 (0) ${rest.slice(0, 4)} ${rest.slice(4)}`
	][way % 7]!;
}

export interface BookForm {
	form: string;
	name: string;
	bytes: () => Uint8Array;
}

const utf8 = (text: string): Uint8Array => new TextEncoder().encode(text);
const utf16 = (text: string): Uint8Array => new Uint8Array(Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from(text, 'utf16le')]));
const rows = (list: readonly (readonly string[])[], sign: string): string => list.map((r) => r.join(sign)).join('\r\n') + '\r\n';

/** Columns under these headings; `cells` by heading. */
function columns(headings: readonly string[], cells: (p: BookPerson, i: number) => string[], sign: string): string {
	return rows([headings, ...PERSONS.map(cells)], sign);
}

export const first = (list: readonly string[], i: number): string => (list[0] ? written(list[0], i) : '');
export const second = (list: readonly string[], i: number): string => (list[1] ? written(list[1], i + 1) : '');
const parts = (p: BookPerson, i: number): string[] => [p.given, p.family, first(p.numbers, i), second(p.numbers, i), p.emails[0] ?? ''];

const HEADINGS: readonly (readonly string[])[] = [
	['First Name', 'Last Name', 'Mobile Phone', 'Home Phone', 'E-mail Address'],
	['Vorname', 'Nachname', 'Handy', 'Festnetz', 'E-Mail'],
	['Prénom', 'Nom', 'Portable', 'Téléphone', 'Courriel'],
	['Nombre', 'Apellidos', 'Móvil', 'Teléfono', 'Correo electrónico'],
	['Имя', 'Фамилия', 'Мобильный', 'Телефон', 'Эл. почта'],
	['名', '姓', '手机', '电话', '邮箱'],
	['Imię', 'Nazwisko', 'Telefon komórkowy', 'Telefon domowy', 'E-mail'],
	// Headings that nobody knows: told from the values.
	['aa', 'bb', 'cc', 'dd', 'ee']
];

export const BOOK_FORMS: readonly BookForm[] = [
	...HEADINGS.map((headings, k): BookForm => ({
		form: `columns: ${headings[0]}`,
		name: 'book.csv',
		bytes: () => utf8(columns(headings, parts, k % 2 ? ';' : ','))
	})),
	{ form: 'columns in UTF-16', name: 'book.csv', bytes: () => utf16(columns(HEADINGS[1]!, parts, '\t')) },
	{
		form: 'columns with what is no name beside it',
		name: 'book.csv',
		bytes: () =>
			utf8(
				columns(
					[
						'Title',
						'Name',
						'Birthday',
						'Company',
						'Phone 1 - Type',
						'Phone 1 - Value',
						'Phone 2 - Type',
						'Phone 2 - Value',
						'E-mail',
						'Notes'
					],
					(p, i) => [
						'Dr',
						nameOf(p),
						`0${i + 1}.04.19${60 + i}`,
						'Marrow Lane',
						'Mobile',
						first(p.numbers, i),
						'Home',
						second(p.numbers, i),
						p.emails[0] ?? '',
						'Met at the boiler'
					],
					','
				)
			)
	},
	{
		form: 'columns without headings',
		name: 'book.csv',
		bytes: () =>
			utf8(
				rows(
					PERSONS.flatMap((p) => [...p.numbers, ...p.emails].map((a) => [nameOf(p), a])),
					','
				)
			)
	},
	...[' - ', ': ', ' ', '\t', ' = '].map((sign): BookForm => ({
		form: `lines with "${sign}"`,
		name: 'names.txt',
		bytes: () =>
			utf8(
				rows(
					PERSONS.flatMap((p, i) => [...p.numbers.map((n) => written(n, i)), ...p.emails].map((a) => [nameOf(p), a])),
					sign
				)
			)
	})),
	{
		form: 'lines with the number first',
		name: 'names',
		bytes: () => utf8(PERSONS.flatMap((p) => [...p.numbers, ...p.emails].map((a) => `${a} ${nameOf(p)}\n`)).join(''))
	},
	{
		form: 'entries of JSON',
		name: 'book.json',
		bytes: () =>
			utf8(
				JSON.stringify({
					version: 2,
					people: PERSONS.map((p, i) => ({
						id: i,
						displayName: nameOf(p),
						phoneNumbers: p.numbers.map((n) => ({ type: 'mobile', value: written(n, i) })),
						emails: p.emails.map((value) => ({ value }))
					}))
				})
			)
	},
	{
		form: 'names by number in JSON',
		name: 'book.json',
		bytes: () => utf8(JSON.stringify(Object.fromEntries(PERSONS.flatMap((p) => [...p.numbers, ...p.emails].map((a) => [a, nameOf(p)])))))
	},
	{
		form: 'cards in JSON',
		name: 'book.json',
		bytes: () =>
			utf8(
				JSON.stringify(
					PERSONS.map((p) => [
						'vcard',
						[
							['version', {}, 'text', '4.0'],
							['n', {}, 'text', [p.family, p.given, '', '', '']],
							['fn', {}, 'text', nameOf(p)],
							...p.numbers.map((n) => ['tel', { type: 'cell' }, 'uri', `tel:${n}`]),
							...p.emails.map((e) => ['email', {}, 'text', e])
						]
					])
				)
			)
	},
	{
		form: 'a property list',
		name: 'book.plist',
		bytes: () =>
			utf8(
				`<?xml version="1.0" encoding="UTF-8"?><!DOCTYPE plist><plist version="1.0"><array>${PERSONS.map(
					(p) =>
						`<dict><key>First</key><string>${p.given}</string><key>Last</key><string>${p.family}</string><key>Phone</key><array>${p.numbers
							.map((n) => `<string>${n}</string>`)
							.join('')}</array><key>Email</key><array>${p.emails.map((e) => `<string>${e}</string>`).join('')}</array></dict>`
				).join('')}</array></plist>`
			)
	}
];

export interface BookStore {
	layout: string;
	write: (db: Engine) => void;
}

/** Address books as stores: the layouts that phones and desk programs keep them in. */
export const BOOK_STORES: readonly BookStore[] = [
	{
		layout: 'entries of several kinds in one column',
		write(db) {
			db.exec('create table raw_contacts(_id integer primary key, account int)');
			db.exec('create table mimetypes(_id integer primary key, mimetype text)');
			db.exec('create table data(_id integer primary key, mimetype_id int, raw_contact_id int, data1 text, data2 text, data3 text)');
			['item/name', 'item/phone', 'item/mail'].forEach((m, i) => db.run('insert into mimetypes values(?,?)', [i + 1, m]));
			const put = (kind: number, who: number, ...values: (string | null)[]): void =>
				void db.run('insert into data(mimetype_id, raw_contact_id, data1, data2, data3) values(?,?,?,?,?)', [kind, who, ...values]);
			PERSONS.forEach((p, i) => {
				db.run('insert into raw_contacts values(?,1)', [i + 1]);
				put(1, i + 1, nameOf(p), p.given, p.family);
				for (const n of p.numbers) put(2, i + 1, written(n, i), '2', null);
				for (const e of p.emails) put(3, i + 1, e, '1', null);
			});
		}
	},
	{
		layout: 'properties by name, a time among them',
		write(db) {
			db.exec('create table properties(card text, name text, value text)');
			PERSONS.forEach((p, i) => {
				const card = `0000000${i}-0000-4000-8000-00000000000${i}`;
				const put = (name: string, value: string): void => void db.run('insert into properties values(?,?,?)', [card, name, value]);
				put('DisplayName', nameOf(p));
				put('FirstName', p.given);
				put('LastName', p.family);
				p.numbers.forEach((n, k) => put(k ? 'HomePhone' : 'CellularNumber', written(n, i)));
				for (const e of p.emails) put('PrimaryEmail', e);
				put('LastModifiedDate', String(1_700_000_000 + i));
			});
		}
	},
	{
		layout: 'parts of names with a time, and their values beside',
		write(db) {
			db.exec('create table person(ROWID integer primary key, First text, Last text, Organization text, CreationDate integer)');
			db.exec('create table multivalue(UID integer primary key, record_id int, property int, label int, value text)');
			PERSONS.forEach((p, i) => {
				db.run('insert into person values(?,?,?,?,?)', [
					i + 1,
					p.given,
					p.family,
					i === 2 ? 'Marrow Lane; the Office, 2nd floor' : null,
					600_000_000 + i
				]);
				for (const n of p.numbers)
					db.run('insert into multivalue(record_id, property, label, value) values(?,3,1,?)', [i + 1, written(n, i)]);
				for (const e of p.emails) db.run('insert into multivalue(record_id, property, label, value) values(?,4,1,?)', [i + 1, e]);
			});
		}
	},
	{
		layout: 'numbers and addresses in tables of their own, with labels',
		write(db) {
			db.exec('create table ZPERSON(Z_PK integer primary key, Z_ENT int, ZFIRSTNAME text, ZLASTNAME text, ZMODIFIED real)');
			db.exec('create table ZPHONE(Z_PK integer primary key, ZOWNER int, ZLABEL text, ZFULL text)');
			db.exec('create table ZMAIL(Z_PK integer primary key, ZOWNER int, ZADDRESS text)');
			PERSONS.forEach((p, i) => {
				db.run('insert into ZPERSON values(?,22,?,?,?)', [i + 5, p.given, p.family, 7e8 + i + 0.5]);
				p.numbers.forEach((n, k) =>
					db.run('insert into ZPHONE(ZOWNER, ZLABEL, ZFULL) values(?,?,?)', [i + 5, k ? 'home' : 'mobile', written(n, i)])
				);
				for (const e of p.emails) db.run('insert into ZMAIL(ZOWNER, ZADDRESS) values(?,?)', [i + 5, e]);
			});
		}
	},
	{
		layout: 'lists as JSON beside the name',
		write(db) {
			db.exec('create table Contact(uid text primary key, displayName text, emails text, phones text, updated integer)');
			PERSONS.forEach((p, i) =>
				db.run('insert into Contact values(?,?,?,?,?)', [
					`6f03c5cd05fc3aacb85d6c413a1aa24${i}`,
					nameOf(p),
					JSON.stringify(p.emails.map((value) => ({ type: 'home', value }))),
					JSON.stringify(p.numbers.map((n) => ({ type: 'mobile', value: written(n, i) }))),
					1_700_000_000_000 + i
				])
			);
		}
	},
	{
		layout: 'whole cards',
		write(db) {
			db.exec('create table cards(id integer primary key, card text)');
			PERSONS.forEach((p, i) =>
				db.run('insert into cards values(?,?)', [
					i + 1,
					`BEGIN:VCARD\r\nVERSION:3.0\r\nFN:${nameOf(p)}\r\n${p.numbers.map((n) => `TEL;TYPE=CELL:${written(n, i)}\r\n`).join('')}${p.emails
						.map((e) => `EMAIL:${e}\r\n`)
						.join('')}END:VCARD\r\n`
				])
			);
		}
	}
];
