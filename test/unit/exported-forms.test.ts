/** Exports whose parts stand where others have them not: files behind texts, names below stamps, points in times, dates that another file decides. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Woven } from '../../src/core/weave';
import { lookAt } from '../vectors/look-at';

const ODILE = 'Odile Marchetti';
const PIET = 'Piet Hallorann';

async function look(files: Record<string, string | Uint8Array>, owner: string | null = PIET): Promise<Woven[]> {
	const one = await lookAt(files, owner);
	const messages = one.findings().weave.threads.flatMap((t) => t.messages);
	return messages.sort((a, b) => a.first.sentAt! - b.first.sentAt!);
}

const texts = (messages: readonly Woven[]): unknown[] => messages.map((m) => m.first.text);
const times = (messages: readonly Woven[]): unknown[] => messages.map((m) => new Date(m.first.sentAt!).toISOString().slice(0, 16));
/** The other side of each, or "out". */
const sides = (messages: readonly Woven[]): unknown[] =>
	messages.map(({ first: { direction, correspondent } }) =>
		direction === 'out' ? 'out' : (correspondent?.name ?? correspondent?.address)
	);
const files = (messages: readonly Woven[]): unknown[] => messages.map((m) => m.first.files.map((f) => f.name));

describe('files that messages came with', () => {
	it('named behind what was said, several to a message', async () => {
		const talk = [
			`[14/01/2025 10:01] ${ODILE}: The boiler\n<enclosed: Boiler 1.png>\n<enclosed: Boiler 2.png>`,
			`[14/01/2025 10:02] ${PIET}: See http://house.example/a.php?b=1\nrota.pdf (file attached)`,
			`[14/01/2025 10:03] ${ODILE}: It is all in\nnotes.txt`,
			`[14/01/2025 10:04] ${PIET}: <enclosed: Boiler 3.png>`
		];
		const messages = await look({ 'talk.txt': talk.join('\n') });
		assert.deepEqual(texts(messages), ['The boiler', 'See http://house.example/a.php?b=1', 'It is all in\nnotes.txt', null]);
		assert.deepEqual(files(messages), [['Boiler 1.png', 'Boiler 2.png'], ['rota.pdf'], [], ['Boiler 3.png']]);
	});
});

describe('names and stamps', () => {
	it('a name below its stamp, also where the file breaks off behind one', async () => {
		const said = ['The boiler', 'is off', 'again\nsince noon', 'I come'];
		const talk = said.map((t, i) => `14.01.2025 10:0${i}\n${i === 3 ? PIET : ODILE}\n${t}\n\n`).join('');
		for (const end of ['', '14.01.2025 10:07\n']) {
			const messages = await look({ 'talk.txt': talk + end });
			assert.deepEqual(texts(messages).slice(0, 4), said);
			assert.deepEqual(sides(messages).slice(0, 4), [ODILE, ODILE, ODILE, 'out']);
		}
	});
	it('names of no letters: pictures, or a full stop', async () => {
		const who = ['😎', ODILE, '😎❤️', '.', ODILE, '😎', '.'];
		for (const form of [(w: string, at: string) => `${w} (14.1.2025, ${at}): `, (w: string, at: string) => `[14.1.2025, ${at}] ${w}: `]) {
			const talk = who.map((w, i) => `${form(w, `10:0${i}`)}The boiler, ${i}`).join('\n');
			const messages = await look({ 'talk.txt': talk });
			assert.deepEqual(
				texts(messages),
				who.map((_, i) => `The boiler, ${i}`)
			);
			assert.deepEqual(sides(messages), who);
		}
	});
	it('short names, and ones that end like a month, before dates in one element', async () => {
		const who = ['Ana', 'Ana May', PIET, 'Ana', PIET, 'Ana May'];
		const rows = who.map((w, i) => `<dt>${w} <small>2025-01-14T10:0${i}:00</small></dt><dd>The boiler, ${i}</dd>`);
		const messages = await look({ 'page.html': `<html><body><dl>${rows.join('\n')}</dl></body></html>` });
		assert.deepEqual(
			sides(messages),
			who.map((w) => (w === PIET ? 'out' : w))
		);
	});
	it('labels are no mail, and months may be shortened as people do', async () => {
		const lines = [ODILE, PIET, ODILE].map((who, i) => `From: ${who}\nDate: Do, 1${i} Okto 2024 7:0${i}\nText: Der Kessel, ${i}\n`);
		const messages = await look({ 'talk.txt': lines.join('\n') });
		assert.deepEqual(texts(messages), ['Der Kessel, 0', 'Der Kessel, 1', 'Der Kessel, 2']);
		assert.deepEqual(times(messages), ['2024-10-10T07:00', '2024-10-11T07:01', '2024-10-12T07:02']);
	});
	it('six lines of six words each, of names with two small words between, are a conversation', async () => {
		const who = ['Dr. Brandvold', 'Ada S.', 'Mirela van der Velde', 'Ada S.', 'Ada S.', 'Катя В.'];
		const messages = await look(
			{ 'talk.txt': who.map((w, i) => `2025/1/14 10:0${i} - ${w}: the boiler is off, ${i}`).join('\n') },
			'Ada S.'
		);
		assert.equal(messages.length, 6);
	});
});

describe('a page', () => {
	const line = (who: string, i: number, said: string): string =>
		`<p><span class="time">2025-01-14 10:0${i}</span> <strong>${who}</strong>: ${said}</p>`;
	it('keeps a text of one sign, and has no text where there is a file alone', async () => {
		const said = ['The boiler is off', '👍', '<a href="files/rota.pdf">rota.pdf</a>', '?', 'I come', 'at noon', 'or at one', 'Thank you'];
		const page = said.map((s, i) => line(i % 3 ? PIET : ODILE, i, s)).join('\n');
		const messages = await look({ 'page.html': `<html><body>${page}</body></html>`, 'files/rota.pdf': '%PDF-1.4\n%%EOF' });
		assert.deepEqual(
			texts(messages),
			said.map((s) => (s.startsWith('<a') ? null : s))
		);
		assert.deepEqual(
			sides(messages),
			said.map((_, i) => (i % 3 ? 'out' : ODILE))
		);
		assert.deepEqual(files(messages)[2], ['rota.pdf']);
	});
	it('of few lines, each begun by one of two full names', async () => {
		const page = [ODILE, PIET, ODILE, PIET].map((who, i) => line(who, i, `the boiler, ${i}`)).join('\n');
		assert.deepEqual(sides(await look({ 'page.html': `<html><body>${page}</body></html>` })), [ODILE, 'out', ODILE, 'out']);
	});
});

describe('few lines', () => {
	it('of a page, one of them with a file alone', async () => {
		const said = ['the boiler is off again', '<a href="a.png">a.png</a>', 'it was off at noon', 'who has the key', 'I come with the key'];
		const page = said.map((s, i) => `<p><i class="t">2025-01-14 10:0${i}</i> <b>${i % 2 ? PIET : ODILE}</b>: ${s}</p>`).join('\n');
		const messages = await look({ 'page.html': `<html><body>${page}</body></html>` });
		assert.deepEqual(sides(messages), [ODILE, 'out', ODILE, 'out', ODILE]);
		assert.deepEqual(texts(messages), [said[0], null, ...said.slice(2)]);
	});
	it('of a table, where a writer is called by a word without a capital', async () => {
		const rows = [PIET, PIET, PIET, 'Ulla', 'мама', 'Noor Haddad'].map((w, i) => `${i};14/01/2025 10:0${i};${w};the boiler is off, ${i};`);
		const messages = await look({ 'House 9.csv': ['no;time;name;txt;file', ...rows].join('\n') });
		assert.deepEqual(sides(messages), ['out', 'out', 'out', 'Ulla', 'мама', 'Noor Haddad']);
	});
});

describe('values in columns', () => {
	const said = (i: number): string => `the boiler is off, ${i}`;
	it('times with points are times and no numbers of somebody', async () => {
		const rows = Array.from({ length: 12 }, (_, i) => `${i + 1};28-12-2024;1${i % 10}.2${i % 6}.06;${i % 3 ? PIET : ODILE};${said(i)}`);
		const messages = await look({ [`${ODILE}.csv`]: ['no;day;clock;name;text', ...rows].join('\n') });
		assert.equal(messages.length, 12);
		assert.deepEqual(new Set(sides(messages)), new Set([ODILE, 'out']));
		assert.equal(new Set(messages.map((m) => m.thread)).size, 1);
		assert.equal(times(messages).at(-1), '2024-12-28T19:23');
	});
	it('a name and a number that take turns are no address book', async () => {
		const number = '+44 7829 961003';
		const at = ['04 11:53', '04 11:53', '04 13:00', '09 4:07', '09 4:08', '09 4:08'];
		const rows = [PIET, PIET, PIET, number, number, PIET].map((w, i) => `${i + 1}\t2022-08-${at[i]}\t${w}\t${said(i)}\t`);
		const messages = await look({ [`${number}.csv`]: ['no\tts\tauthor\tmsg\tmedia', ...rows].join('\n') });
		assert.deepEqual(
			messages.map((m) => m.first.direction),
			['out', 'out', 'out', 'in', 'in', 'out']
		);
	});
	const WHO = [ODILE, 'Noor Haddad', 'Bram Vesterholt'];
	/** Rows with each of three, of whom the first half of every four was received. */
	const rows = (cells: (i: number, out: boolean) => (string | number)[]): string =>
		Array.from({ length: 60 }, (_, i) => [`2025-01-14 ${10 + (i % 12)}:${10 + (i % 50)}:00`, ...cells(i, i % 4 > 1)].join(';')).join('\n');
	const outs = (messages: readonly Woven[]): number => messages.filter((m) => m.first.direction === 'out').length;

	it('names beside a number for the way are other sides, where the columns are called so', async () => {
		const text = rows((i, out) => [out ? 2 : 1, WHO[i % 3]!, said(i)]);
		const messages = await look({ 'sms.csv': `date;type;contact_name;text\n${text}` }, null);
		assert.equal(new Set(messages.map((m) => m.thread)).size, 3);
		assert.equal(outs(messages), 30);
		assert.ok(messages.every((m) => WHO.includes(m.first.correspondent!.name ?? m.first.correspondent!.address!)));
	});
	it('what is marked as read now so, now so was received, be all that was sent marked or not', async () => {
		for (const sent of [0, 1]) {
			const text = rows((i, out) => [out ? 2 : 1, `+4477009001${10 + (i % 3)}`, out ? sent : Number(i % 8 > 0), said(i)]);
			const messages = await look({ 'sms.csv': `date;type;address;read;text\n${text}` }, null);
			for (const { first } of messages) assert.equal(first.direction === 'out', Number(first.text!.split(', ')[1]) % 4 > 1, first.text!);
		}
	});
	it('yes and no in a column called from me are nobody', async () => {
		const text = rows((i, out) => [String(out), WHO[i % 3]!, said(i)]);
		const messages = await look({ 'sms.csv': `date;from_me;contact;text\n${text}` }, null);
		assert.equal(outs(messages), 30);
		assert.ok(messages.every((m) => WHO.includes(m.first.correspondent!.name ?? m.first.correspondent!.address!)));
	});
	it('a name and a number in one value are taken apart, also where most have no name', async () => {
		const who = [`${ODILE} <+447700900110>`, '+447700900111', '+447700900112', '+447700900113'];
		const text = rows((i, out) => [out ? 'out' : 'in', who[(i >> 2) % 4]!, said(i)]);
		const messages = await look({ 'sms.csv': `date;way;party;text\n${text}` }, null);
		assert.deepEqual(new Set(messages.map((m) => m.first.correspondent!.address)), new Set([0, 1, 2, 3].map((k) => `+44770090011${k}`)));
		assert.equal(messages.filter((m) => m.first.correspondent!.name === ODILE).length, 16);
	});
	it('keys of persons in a field called as in another language, of whom one has a sign in his name and most wrote once', async () => {
		const people = [PIET, 'Ágnes ⚽', ODILE, 'Ivo Nagy'].map((name, i) => ({ id: String(11 + i), name }));
		const talk = ['11', '12', '13', '14', '11'].map((von, i) => ({ nr: i + 1, datum: `2025-01-14T10:0${i}:00`, von, inhalt: said(i) }));
		const messages = await look({ 'chat.json': JSON.stringify({ title: 'House 9', messages: talk, people }) });
		assert.deepEqual(sides(messages), ['out', 'Ágnes ⚽', ODILE, 'Ivo Nagy', 'out']);
	});
	it('a list of two persons under one heading is none of a person with two entries', async () => {
		const people = [PIET, '+33 7704 949943'].map((name, i) => `<person id="p-${i}" name="${name}"/>`).join('');
		const line = (k: number): string => `<message time="${1736850000 + k * 60}" user="p-${k % 2}" text="${said(k)}"/>`;
		const talk = [0, 1, 2, 3, 4, 5, 6, 7].map(line).join('');
		const messages = await look({ 'c.xml': `<export><people>${people}</people><conversation title="x">${talk}</conversation></export>` });
		assert.deepEqual(
			messages.map((m) => m.first.direction),
			Array.from({ length: 8 }, (_, i) => (i % 2 ? 'in' : 'out'))
		);
	});
});

describe('Windows-1252', () => {
	/** The letters' bytes: those of Latin-1, and 0x85, 0x93, 0x94 for an ellipsis and quotes. */
	const bytes = (text: string): Uint8Array =>
		Uint8Array.from([...text].map((c) => ({ '…': 0x85, '“': 0x93, '”': 0x94, '€': 0x80 })[c] ?? c.charCodeAt(0)));
	const said = ['Grüße …', '“Nein”', '5 € für Öl', '…'];
	it('in a text has quotes and the euro', async () => {
		const talk = said.map((s, i) => `[14.01.2025 10:0${i}] ${i % 2 ? PIET : ODILE}: ${s}`).join('\r\n');
		assert.deepEqual(texts(await look({ 'talk.txt': bytes(talk) })), said);
	});
	it('in a mail, where the name stands for it or Latin-1 does', async () => {
		for (const charset of ['windows-1252', 'iso-8859-1']) {
			const mail = `From: Odile <odile@house.example>\r\nTo: piet@house.example\r\nDate: Tue, 14 Jan 2025 10:00:00 +0000\r\nSubject: x\r\nContent-Type: text/plain; charset=${charset}\r\nContent-Transfer-Encoding: 8bit\r\n\r\n${said[1]} – ${said[2]}\r\n`;
			assert.deepEqual(texts(await look({ 'a.eml': bytes(mail.replace(' – ', ' ')) }, 'piet@house.example')), [`${said[1]} ${said[2]}`]);
		}
	});
});

describe('which number is the day', () => {
	const talk = (days: readonly string[]): string =>
		days.map((day, i) => `${i % 2 ? PIET : ODILE} (${day} 10:0${i}): the boiler, ${i}`).join('\n');
	const open = ['07-09-2024', '07-09-2024', '07-09-2024', '07-09-2024'];
	const decided = ['07-13-2024', '07-14-2024', '07-15-2024', '07-16-2024'];
	it('is told by another file of the same export, where a file leaves it open', async () => {
		const first = async (given: Record<string, string>): Promise<unknown> => times(await look(given))[0];
		assert.equal(await first({ 'out/1/a.txt': talk(open), 'out/2/b.txt': talk(decided) }), '2024-07-09T10:00');
		assert.equal(await first({ 'out/1/a.txt': talk(open) }), '2024-09-07T10:00');
	});
	it('but not by a file that writes otherwise, or is of another export', async () => {
		const times2 = times(await look({ 'out/1/a.txt': talk(open), 'out/2/b.txt': talk(decided.map((d) => d.replaceAll('-', '/'))) }));
		assert.ok(times2.includes('2024-09-07T10:00'));
		const elsewhere = times(await look({ 'one.zip/a.txt': talk(open), 'two.zip/b.txt': talk(decided) }));
		assert.ok(elsewhere.includes('2024-09-07T10:00'));
	});
});

describe('what the exporting program says itself', () => {
	const MARK = '\u200e';
	const talk = (said: readonly string[]): string => said.map((s, i) => `[14/01/2025, 10:${10 + i}:00] ${s}`).join('\n');
	it('in somebody’s name, behind a mark of direction, is no message', async () => {
		const messages = await look({
			'talk.txt': talk([
				`${ODILE}: ${MARK}What is written here is read by those two alone.`,
				`${ODILE}: The boiler is off`,
				`${PIET}: I come at noon`,
				`${PIET}: ${MARK}${ODILE} has another number now.`,
				`${ODILE}: Fine`,
				`${ODILE}: And the lift?`,
				`${PIET}: Runs again`
			])
		});
		assert.deepEqual(texts(messages), ['The boiler is off', 'I come at noon', 'Fine', 'And the lift?', 'Runs again']);
	});
	it('of a file left out is one, and so is what somebody wrote from right to left', async () => {
		const messages = await look({
			'talk.txt': talk([
				`${PIET}: ${MARK}${ODILE} has another number now.`,
				`${ODILE}: The boiler is off`,
				`${PIET}: I come at noon`,
				`${ODILE}: Fine`,
				`${ODILE}: And the lift?`,
				`${PIET}: ${MARK}شكراً جزيلاً على المساعدة`,
				`${ODILE}: ${MARK}picture left out`,
				`${PIET}: Is that the valve?`,
				`${ODILE}: ${MARK}picture left out`
			])
		});
		const between = ['I come at noon', 'Fine', 'And the lift?', 'شكراً جزيلاً على المساعدة', null];
		assert.deepEqual(texts(messages), ['The boiler is off', ...between, 'Is that the valve?', null]);
	});
	it('before the name of a file that was left out, once', async () => {
		const messages = await look({
			'talk.txt': talk([`${ODILE}: The boiler`, `${PIET}: Attachment: IMG-0028.png\nthis one?`, `${ODILE}: Yes`])
		});
		assert.deepEqual(texts(messages), ['The boiler', 'this one?', 'Yes']);
		assert.deepEqual(files(messages), [[], ['IMG-0028.png'], []]);
	});
});

describe('values in columns', () => {
	const table = (writers: readonly string[], end: string): string =>
		[
			'"Date";"Sender";"Message"',
			...writers.map((w, i) => `"14/01/2025 10:${10 + i}:00";"${w}";"The boiler${i % 4 ? '' : `${end}is off`}, ${i}"`)
		].join(end);
	it('name a person by the family’s name first', async () => {
		const messages = await look(
			{ 'messages.csv': table(['Marchetti, Odile', 'Hallorann, Piet', 'Marchetti, Odile', 'Marchetti, Odile'], '\n') },
			null
		);
		assert.equal(messages.length, 4);
		assert.deepEqual(sides(messages).slice(0, 2), ['Marchetti, Odile', 'Hallorann, Piet']);
	});
	it('have the breaks of their lines where all of the file’s were made alike', async () => {
		const messages = await look({ 'messages.csv': table([ODILE, PIET, ODILE, ODILE], '\r\n') });
		assert.equal(texts(messages)[0], 'The boiler\nis off, 0');
	});
});
