/** What Odile brings: her conversation with Piet as her phone exports it, zipped with its pictures, and her address book. */
import { zipSync } from 'fflate';
import { gauge, thermometer } from './pictures';

export interface Line {
	at: number;
	writer: string;
	text: string;
	file?: string;
}

/** Her clock runs ahead of his. */
const AHEAD = 41_000;
/** Only she has them: they were sent while the plant's mast was down, and never came. */
const HERS: readonly Line[] = [
	{ at: Date.UTC(2025, 0, 30, 18, 20, 5), writer: 'Odile Marchetti', text: 'Then please send it to all of us, not only to me.' },
	{ at: Date.UTC(2025, 1, 1, 9, 2, 44), writer: 'Odile Marchetti', text: 'The hall this morning:', file: 'hall-14-degrees.png' }
];
const FILES: Record<string, Uint8Array> = { 'meter-at-shut-off.png': gauge(0), 'hall-14-degrees.png': thermometer(14) };

/** As her phone writes it, in Brussels' time. */
export function exported(lines: readonly Line[]): Uint8Array {
	const clock = new Intl.DateTimeFormat('en-GB', { timeZone: 'Europe/Brussels', dateStyle: 'short', timeStyle: 'medium' });
	const all = [...lines, ...HERS].sort((a, b) => a.at - b.at);
	const text = all
		.map((l) => `${clock.format(l.at + AHEAD).replace(',', '')} | ${l.writer}: ${l.file ? `(picture: ${l.file})\n` : ''}${l.text}\n`)
		.join('');
	const mtime = Date.UTC(2025, 2, 1, 12);
	return zipSync(
		{
			'Conversation with Piet Hallorann.txt': [new TextEncoder().encode(text), { mtime }],
			...Object.fromEntries(Object.entries(FILES).map(([name, bytes]) => [name, [bytes, { mtime }] as [Uint8Array, { mtime: number }]]))
		},
		{ level: 9 }
	);
}

export function addressBook(people: readonly { name: string | null; address: string }[]): string {
	return people
		.filter((p) => p.name !== null)
		.map((p) => {
			const number = p.address.startsWith('+') ? `TEL;TYPE=cell:${p.address}` : `EMAIL:${p.address}`;
			return ['BEGIN:VCARD', 'VERSION:4.0', `FN:${p.name}`, number, 'END:VCARD', ''].join('\r\n');
		})
		.join('');
}
