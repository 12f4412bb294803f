/** Address books, and the names they give. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import fc from 'fast-check';
import { AddressBook, isVcard, readList, readVcards } from '../../src/core/people';

const card = (...lines: string[]): string => ['BEGIN:VCARD', ...lines, 'END:VCARD', ''].join('\r\n');
const only = (text: string) => {
	const cards = readVcards(text);
	assert.equal(cards.length, 1);
	return cards[0]!;
};

describe('vCards', () => {
	it('reads version 4, folded lines, groups, uris and escapes', () => {
		const c = only(
			card(
				'VERSION:4.0',
				'FN:Odile March',
				' etti',
				'N:Marchetti;Odile;;;',
				'item1.TEL;VALUE=uri:tel:+33-6-39-98-04-17',
				'EMAIL:odile@marrow.example',
				'IMPP:handle:odile.m'
			)
		);
		assert.deepEqual(
			[c.name, c.numbers, c.emails, c.handles],
			['Odile Marchetti', ['+33-6-39-98-04-17'], ['odile@marrow.example'], ['odile.m']]
		);
		assert.equal(only(card('VERSION:3.0', 'FN:Plant desk\\, day shift', 'TEL:1')).name, 'Plant desk, day shift');
	});
	it('reads version 2.1 with quoted-printable, soft line ends and another charset', () => {
		assert.equal(
			only(
				card(
					'VERSION:2.1',
					'N;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:=D8=A7=D9=84=D8=AE=D8=B7=D9=8A=D8=A8;=D9=86=',
					'=D9=88=D8=B1',
					'TEL;CELL:+1 555 0100 173'
				)
			).name,
			'نور الخطيب'
		);
		assert.equal(only(card('VERSION:2.1', 'FN;CHARSET=ISO-8859-1;QUOTED-PRINTABLE:Andr=E9', 'TEL:123456')).name, 'André');
	});
	it('takes the name from its parts where none is formatted, and a number without a name', () => {
		assert.equal(only(card('VERSION:3.0', 'N:Okafor;Tamsin;Ada;;', 'TEL:+447700900271')).name, 'Tamsin Ada Okafor');
		assert.equal(only(card('VERSION:3.0', 'TEL:+447700900938')).name, null);
	});
	it('says where each card lies in the file, in bytes', () => {
		const text = card('VERSION:3.0', 'FN:李雯', 'TEL:1') + card('VERSION:3.0', 'FN:Bram', 'TEL:2');
		const bytes = new TextEncoder().encode(text);
		for (const c of readVcards(text)) {
			const part = new TextDecoder().decode(bytes.subarray(c.offset, c.offset + c.length));
			assert.ok(part.startsWith('BEGIN:VCARD') && part.endsWith('END:VCARD') && part.includes(c.name!), part);
		}
	});
	it('takes any text without failing, and a cut card as far as it goes', () => {
		assert.equal(only('BEGIN:VCARD\nVERSION:3.0\nFN:Yusuf Demirkan\nTEL:+4477').name, 'Yusuf Demirkan');
		fc.assert(
			fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (body) => {
				for (const c of readVcards(`BEGIN:VCARD\n${body}`)) assert.ok(c.offset >= 0);
			}),
			{ numRuns: 200 }
		);
		assert.equal(isVcard('Dear Sir'), false);
	});
});

describe('lists', () => {
	it('finds names beside numbers, whatever the columns are called', () => {
		const cards = readList('Nom;Téléphone;Note\nOdile Marchetti;+33 6 39 98 04 17;\nTamsin Okafor;07700 900271;stairs\n')!;
		assert.deepEqual(
			cards.map((c) => [c.name?.split(' ')[0], c.numbers]),
			[
				['Odile', ['+33 6 39 98 04 17']],
				['Tamsin', ['07700 900271']]
			]
		);
	});
	it('is no list where lines are a text', () =>
		assert.equal(readList('Dear Sir, I write to you.\nThe boiler is off.\nYours, Bram\n'), null));
});

it('names of three parts, whatever the middle one is called', () => {
	for (const head of [
		'Vorname;Weitere Vornamen;Nachname',
		'Nome;Secondo nome;Cognome',
		'given;additional;family',
		'Imię;Drugie imię;Nazwisko'
	]) {
		const cards = readList(`${head};Tel\nOdile;Maria;Marchetti;+33639980417\nLi;;Wen;+447700900177\n`) ?? [];
		assert.deepEqual(
			cards.map((c) => c.name),
			['Odile Maria Marchetti', 'Li Wen'],
			head
		);
	}
});

describe('the names a book gives', () => {
	const book = new AddressBook(
		readVcards(
			card('VERSION:3.0', 'FN:Tamsin Okafor', 'TEL:07700 900271') +
				card('VERSION:3.0', 'FN:Odile Marchetti', 'TEL:+33 6 39 98 04 17', 'EMAIL:Odile@Marrow.example') +
				card('VERSION:3.0', 'FN:One', 'TEL:+447700900999') +
				card('VERSION:3.0', 'FN:Another', 'TEL:+44 7700 900999')
		),
		['+447700900111', '+447700900122', '+33639980417']
	);
	it('knows a number however it is written, its country told from the evidence', () => {
		for (const form of ['+447700900271', '07700900271', '0044 7700 900 271', '(07700) 900271'])
			assert.equal(book.nameOf(form), 'Tamsin Okafor', form);
		assert.equal(book.callingCode, '44');
		assert.equal(book.nameOf('odile@marrow.EXAMPLE'), 'Odile Marchetti');
	});
	it('knows the number that a handle begins with, where the evidence has it with its country', () => {
		assert.equal(book.nameOf('33639980417@talk.example'), 'Odile Marchetti');
		assert.equal(book.nameOf('33639980417:3@talk.example'), 'Odile Marchetti');
		assert.equal(book.keyOf('33639980417@talk.example'), '+33639980417');
		assert.equal(book.keyOf('33639980418@talk.example'), '33639980418@talk.example');
	});
	it('tells the country from numbers that stand there in both forms, where as many are of another', () => {
		const [one, two, other] = ['+447700900134', '+447700900155', '+497700900134'];
		const cards = readVcards(card('VERSION:3.0', 'FN:Noor', `TEL:${one}`) + card('VERSION:3.0', 'FN:Bram', `TEL:${other}`));
		const seen = [other, '+497700900999', '07700900155', two];
		assert.equal(new AddressBook(cards, seen).nameOf('07700900134'), 'Noor');
		assert.equal(new AddressBook(cards, seen.toReversed()).nameOf('07700900134'), 'Noor');
	});
	it('counts a number once however often it is written, and those that are in the books in both forms', () => {
		const cards = readVcards(
			card('VERSION:3.0', 'FN:Noor', 'TEL:+49.1722.555.049', 'TEL:+49 1512 8865 838') +
				card('VERSION:3.0', 'FN:Bram', 'TEL:00447702555049', 'TEL:00447700900725')
		);
		const one = new AddressBook(cards, ['+447700900725', '+447702555049', '01722555049', '015128865838']);
		assert.equal(one.nameOf('01722555049'), 'Noor');
		assert.equal(one.nameOf('015128865838'), 'Noor');
	});
	it('never takes two people for one because their numbers end alike', () => {
		assert.equal(book.nameOf('+1 700 900271'), null);
		assert.equal(book.nameOf('+337700900271'), null);
	});
	it('names nobody by a number that two people have', () => assert.equal(book.nameOf('+447700900999'), null));
});

describe('lists with handles', () => {
	it('takes what stands under a heading of addresses for one, be it a number or not', () => {
		const cards = readList('Name;Phone;E-mail\nOdile Marchetti;+44 7700 900111;\nWen Li;;wren_12\nBram Vesterholt;;bram@works.example\n')!;
		assert.deepEqual(
			cards.map((c) => [c.name, c.numbers, c.emails, c.handles]),
			[
				['Odile Marchetti', ['+44 7700 900111'], [], []],
				['Wen Li', [], [], ['wren_12']],
				['Bram Vesterholt', [], ['bram@works.example'], []]
			]
		);
		assert.equal(new AddressBook(cards, []).nameOf('WREN_12'), 'Wen Li');
	});
	it('takes no word for a handle where no heading says that it is an address', () => {
		const cards = readList('Name,Town,Phone\nOdile Marchetti,Lowfield,+447700900111\nWen Li,Overby,+447700900122\n')!;
		assert.deepEqual(
			cards.map((c) => c.handles),
			[[], []]
		);
	});
});
