/** Exports with entries of several kinds in one list: rooms' events, texts beside multimedia messages, pictures under another name than files. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { parseTimeText } from '../../src/core/interpret/time';
import { contactLines } from '../../src/cli/contacts';
import { lookAt } from '../vectors/look-at';

const OWNER = '+447946000001';
const ODILE = { id: '@odile:lane.example', name: 'Odile Marchetti', number: '+447946000017' };
const BRAM = { id: '@bram:lane.example', name: 'Bram Vesterholt', number: '+447946000018' };
const OWN = '@piet:lane.example';
const START = Date.UTC(2025, 0, 14, 10);
const WORDS = ['Who has', 'Please bring', 'I found', 'They want', 'We need', 'Nobody saw'];
const said = (i: number): string => `${WORDS[i % WORDS.length]!} the key of cellar ${i + 1}`;

interface Line {
	text: string | null;
	direction: string | null;
	who: string | null;
	files: (string | null)[];
	group: boolean;
}

async function linesOf(files: Record<string, string>, owner: string | null): Promise<Line[]> {
	const look = await lookAt(files, owner);
	const messages = look.findings().weave.threads.flatMap((t) => t.messages);
	return messages
		.sort((a, b) => a.first.sentAt! - b.first.sentAt!)
		.map(({ first }) => ({
			text: first.text,
			direction: first.direction,
			who: first.correspondent?.name ?? first.correspondent?.address ?? null,
			files: first.files.map((f) => f.name),
			group: first.group
		}));
}

describe('entries of several kinds', () => {
	const event = (type: string, sender: string, i: number, content: object, more = {}): object => ({
		type,
		sender,
		origin_server_ts: START + i * 60_000,
		event_id: `$e${i}${type}`,
		content,
		...more
	});
	const joined = (id: string, name: string, i: number): object =>
		event('room.member', id, i - 100, { membership: 'join', displayname: name }, { state_key: id });

	it('who joined and what was reacted to are no messages, and the name of a file is no text', async () => {
		const list = [joined(OWN, 'Piet Hallorann', 0), joined(ODILE.id, ODILE.name, 1)];
		for (let i = 0; i < 12; i++) {
			const sender = i % 3 === 1 ? OWN : ODILE.id;
			const isFile = i === 5;
			const info = { info: { size: 400 + i, mimetype: 'image/png' }, url: 'store://lane.example/4g4f4m8d' };
			list.push(event('room.message', sender, i, isFile ? { body: 'boiler.png', ...info } : { body: said(i) }));
			if (i === 4)
				list.push(event('reaction', OWN, i, { relates_to: { rel_type: 'annotation', event_id: `$e${i}room.message`, key: '👍' } }));
		}
		const file = JSON.stringify({ room_name: ODILE.name, messages: list });
		const lines = await linesOf({ 'room/export.json': file }, OWN);
		assert.deepEqual(
			lines.map((l) => l.text),
			Array.from({ length: 12 }, (_, i) => (i === 5 ? null : said(i)))
		);
		assert.deepEqual(lines[5]!.files, ['boiler.png']);
		assert.ok(lines.every((l) => l.who === ODILE.name));
		assert.deepEqual(
			lines.map((l) => l.direction),
			lines.map((_, i) => (i % 3 === 1 ? 'out' : 'in'))
		);
	});

	it('pictures under one name and other files under another are the files of their messages', async () => {
		const messages = Array.from({ length: 16 }, (_, i) => ({
			id: i + 1,
			type: 'message',
			date: new Date(START + i * 60_000).toISOString().slice(0, 19),
			from: i % 2 ? 'Piet Hallorann' : ODILE.name,
			from_id: i % 2 ? 'user9' : 'user8',
			text: i % 5 === 0 ? '' : said(i),
			...(i % 10 === 0 ? { photo: `photos/p${i}.jpg`, width: 30, height: 20 } : {}),
			...(i % 10 === 5 ? { file: `files/list ${i}.pdf`, mime_type: 'application/pdf' } : {})
		}));
		const file = JSON.stringify({ name: ODILE.name, type: 'personal_chat', id: 8, messages });
		const lines = await linesOf({ 'result.json': file }, 'Piet Hallorann');
		assert.deepEqual(
			lines.flatMap((l) => l.files),
			['p0.jpg', 'list 5.pdf', 'p10.jpg', 'list 15.pdf']
		);
	});

	it('multimedia messages name who sent them among their ends, in rooms of several', async () => {
		const lines: string[] = [];
		for (let i = 0; i < 18; i++) {
			const isOut = i % 3 === 1;
			const at = START + i * 60_000;
			if (i % 2) {
				const number = i % 4 === 1 ? ODILE.number : BRAM.number;
				lines.push(`<sms address="${number}" date="${at}" type="${isOut ? 2 : 1}" body="${said(i)}" contact_name="(Unknown)" />`);
				continue;
			}
			const from = isOut ? OWNER : i % 4 === 0 ? ODILE.number : BRAM.number;
			const ends = [OWNER, ODILE.number, BRAM.number].map((n) => `<addr address="${n}" type="${n === from ? 137 : 151}" />`);
			lines.push(
				`<mms date="${at}" msg_box="${isOut ? 2 : 1}" address="${ODILE.number}~${BRAM.number}"><parts><part seq="0" ct="text/plain" text="${said(i)}" /></parts><addrs>${ends.join('')}</addrs></mms>`
			);
		}
		const file = `<?xml version="1.0" encoding="UTF-8"?>\n<smses count="18">${lines.join('\n')}</smses>`;
		const read = await linesOf({ 'texts.xml': file }, OWNER);
		assert.equal(read.length, 18);
		for (const [i, line] of read.entries()) {
			const isOut = i % 3 === 1;
			assert.equal(line.direction, isOut ? 'out' : 'in', said(i));
			assert.equal(line.group, i % 2 === 0, said(i));
			const other = i % 2 ? (i % 4 === 1 ? ODILE : BRAM) : i % 4 === 0 ? ODILE : BRAM;
			assert.equal(line.who, isOut && i % 2 === 0 ? null : other.number, said(i));
		}
	});

	it('what was written in digits alone is a text, also where a file has nothing else', async () => {
		const message = (i: number, text: string): string =>
			[
				'BEGIN:VMSG\r\nVERSION:1.1\r\nX-IRMC-STATUS:READ\r\nX-IRMC-BOX:INBOX',
				`BEGIN:VCARD\r\nVERSION:2.1\r\nN:Marchetti;Odile\r\nTEL:${ODILE.number}\r\nEND:VCARD`,
				`BEGIN:VENV\r\nBEGIN:VBODY\r\nDate:14.01.2025 10:0${i}:00\r\n${text}\r\nEND:VBODY\r\nEND:VENV\r\nEND:VMSG\r\n`
			].join('\r\n');
		const texts = [said(1), '42', said(3)];
		const read = await linesOf(Object.fromEntries(texts.map((text, i) => [`box/${i}.vmg`, message(i, text)])), OWNER);
		assert.deepEqual(
			read.map((l) => l.text),
			texts
		);
	});
});

describe('things said beside what counts', () => {
	it('an offset of hours alone belongs to a time of day, and to no date', () => {
		assert.deepEqual(parseTimeText('2024-03-05 19:44:33.5+02'), { at: Date.UTC(2024, 2, 5, 17, 44, 33, 500), zoned: true });
		assert.deepEqual(parseTimeText('2024-03-05 19:44:33 -05'), { at: Date.UTC(2024, 2, 6, 0, 44, 33), zoned: true });
		assert.equal(parseTimeText('2024-03-05-12'), null);
	});

	it('a room’s events give the names of who joined it', async () => {
		const names = [ODILE, BRAM].map(({ id, name }, i) => ({
			type: 'room.member',
			sender: id,
			state_key: id,
			origin_server_ts: START - 1000 + i,
			content: { membership: 'join', displayname: name }
		}));
		const talk = Array.from({ length: 9 }, (_, i) => ({
			type: 'room.message',
			sender: [ODILE.id, BRAM.id, OWN][i % 3],
			origin_server_ts: START + i * 60_000,
			content: { body: said(i) }
		}));
		const look = await lookAt({ 'room.json': JSON.stringify({ room_name: 'Cellar keys', messages: [...names, ...talk] }) }, OWN);
		const who = look.findings().weave.threads.flatMap((t) => t.messages.map((m) => m.first.correspondent?.name ?? null));
		assert.deepEqual(new Set(who), new Set([ODILE.name, BRAM.name, null]));
		assert.ok(contactLines(look).length >= 2);
	});
});

describe('a conversation of which there is one message', () => {
	for (const [what, text] of [
		['a picture', null],
		['a picture with words', 'The meter of the cellar']
	] as const)
		it(`is kept where that is ${what}`, async () => {
			const one = (i: number, more: object = {}): object => ({
				key: `k${i}`,
				by: i % 2 ? 'self' : ODILE.number,
				when: at(i),
				what: said(i),
				...more
			});
			const at = (i: number): string => new Date(START + i * 60_000).toISOString();
			const talk = (who: typeof ODILE, messages: object[]): object => ({
				key: who.id,
				with: [{ name: who.name, number: who.number }],
				messages
			});
			const picture = { file: { path: 'm/1e/1e807218.png', type: 'image/png', size: 1758 } };
			const conversations = [
				talk(
					ODILE,
					Array.from({ length: 12 }, (_, i) => one(i))
				),
				talk(BRAM, [one(13, { what: text, ...picture })])
			];
			const lines = await linesOf({ 'history.json': JSON.stringify({ account: { number: OWNER }, conversations }) }, null);
			assert.equal(lines.length, 13);
			assert.deepEqual(lines[12], { text, direction: 'out', who: BRAM.name, files: ['1e807218.png'], group: false });
		});
});
