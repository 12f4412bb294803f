/**
 * A passphrase as bytes. The format does not say in what form it is taken (APPNOTE 6.1.5: "the password"): programs take
 * it in the code page of their system, or in UTF-8 with accents composed or apart.
 */
import { decodeCodePage } from '../../bytes';

const CODE_PAGES = ['windows-1252', 'windows-1250', 'windows-1251', 'windows-1253', 'windows-1254', 'ibm866'];

const encoder = new TextEncoder();
const tables = new Map<string, ReadonlyMap<string, number>>();

/** The bytes that stand for each letter of a code page. */
function tableOf(codePage: string): ReadonlyMap<string, number> {
	let table = tables.get(codePage);
	if (!table) {
		const letters = decodeCodePage(
			Uint8Array.from({ length: 256 }, (_, byte) => byte),
			codePage
		);
		tables.set(codePage, (table = new Map([...letters].map((letter, byte) => [letter, byte]))));
	}
	return table;
}

/** All forms that a passphrase can have been taken in, the likeliest first; one where it is plain ASCII. */
export function passphraseForms(passphrase: string): Uint8Array[] {
	const forms = [passphrase, passphrase.normalize('NFC'), passphrase.normalize('NFD')].map((form) => encoder.encode(form));
	for (const codePage of CODE_PAGES) {
		const bytes = [...passphrase.normalize('NFC')].map((letter) => tableOf(codePage).get(letter));
		if (bytes.every((byte) => byte !== undefined)) forms.push(Uint8Array.from(bytes));
	}
	return [...new Map(forms.map((form) => [form.join(), form])).values()];
}
