/** Exports in which what a message says of itself stands elsewhere: its way in the list's name, its day above it, its writer over a column. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, it } from 'node:test';
import { encode as encodeMessagePack } from '@msgpack/msgpack';
import { ObjectId, serialize } from 'bson';
import { encode as encodeCbor } from 'cbor2';
import { strToU8, zipSync } from 'fflate';
import type { Weave } from '../../src/core/weave';
import { createDatabase } from '../vectors/engine';
import { lookAt } from '../vectors/look-at';

const OWNER = 'Piet Hallorann';
const NUMBERS: Record<string, string> = { 'Odile Marchetti': '+447700900107', 'Tamsin Okafor': '+447700900114' };
const OTHERS = Object.keys(NUMBERS);

interface Said {
	id: number;
	other: string;
	out: boolean;
	who: string;
	at: number;
	text: string;
}
const TALK: Said[] = Array.from({ length: 24 }, (_, id) => {
	const other = OTHERS[id % 2]!;
	const out = id % 4 > 1;
	const text = id % 6 === 5 ? `The boiler is off, ${id}\nand the stair is cold` : `Is it warm on the third floor? ${id}`;
	return { id, other, out, who: out ? OWNER : other, at: Date.UTC(2025, 0, 14, 20) + id * 1_234_000, text };
});
const ONE_LINE = TALK.map((m) => ({ ...m, text: m.text.replace('\n', ' ') }));
const iso = (m: Said): string => new Date(m.at).toISOString();
const clock = (m: Said): string => iso(m).slice(11, 19);
const day = (m: Said): string => iso(m).slice(0, 10);
const written = (m: Said): string => `${day(m)} ${clock(m)}`;
const withEach = <T>(make: (other: string, own: Said[]) => T, talk = TALK): T[] =>
	OTHERS.map((other) =>
		make(
			other,
			talk.filter((m) => m.other === other)
		)
	);

type Threads = Weave['threads'];
const threadsOf = async (files: Record<string, string | Uint8Array>, owner: string | null = null): Promise<Threads> =>
	(await lookAt(files, owner)).findings().weave.threads;

/** Each thread: with whom, and the way, the time and the text of each message. */
const told = (threads: Threads, called: (other: string) => string): string[] =>
	threads
		.map((t) =>
			t.messages
				.map(
					({ first: m }) =>
						`${m.direction} ${called(m.correspondent?.address ?? '')} ${new Date(m.sentAt!).toISOString().slice(0, 19)} ${m.text}`
				)
				.join('\n')
		)
		.sort();
const expected = (talk: readonly Said[], called: (other: string) => string): string[] =>
	OTHERS.map((other) =>
		talk
			.filter((m) => m.other === other)
			.map((m) => `${m.out ? 'out' : 'in'} ${called(other)} ${iso(m).slice(0, 19)} ${m.text}`)
			.join('\n')
	).sort();

/** `by`: how the other side is stored; numbers may be written in groups. */
async function check(
	files: Record<string, string | Uint8Array>,
	by: 'name' | 'number',
	owner: string | null = null,
	talk = TALK
): Promise<Threads> {
	const threads = await threadsOf(files, owner);
	const bare = (address: string): string => (by === 'number' ? address.replace(/[ -]/g, '') : address);
	assert.deepEqual(
		told(threads, bare),
		expected(talk, (other) => (by === 'number' ? NUMBERS[other]! : other))
	);
	return threads;
}

const holds = async (...asked: Parameters<typeof check>): Promise<void> => void (await check(...asked));

const escape = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;');
const quoted = (text: string): string => `"${text.replaceAll('"', '""')}"`;

describe('the way', () => {
	it('is the side of the page on which a message stands', () =>
		holds(
			Object.fromEntries(
				withEach((other, own) => [
					`${other}.html`,
					`<html><body><h1>${other}</h1>${own
						.map(
							(m) =>
								`<div class="row ${m.out ? 'right' : 'left'}"><div class="b">${escape(m.text).replace('\n', '<br>')}</div><div class="t">${written(m)}</div></div>`
						)
						.join('')}</body></html>`
				])
			),
			'name'
		));
	it('is the list in which it stands', () =>
		holds(
			{
				'texts.json': JSON.stringify({
					inbox: TALK.filter((m) => !m.out).map((m) => ({ id: m.id, from: NUMBERS[m.other], date: iso(m), text: m.text })),
					sent: TALK.filter((m) => m.out).map((m) => ({ id: m.id, to: NUMBERS[m.other], date: iso(m), text: m.text }))
				})
			},
			'number'
		));
	it('is what its element is called', async () => {
		const element = (m: Said): string => {
			const name = m.out ? 'sent' : 'received';
			return `<${name} ${m.out ? 'to' : 'from'}="${NUMBERS[m.other]}" name="${m.other}" time="${iso(m)}">${escape(m.text)}</${name}>`;
		};
		const threads = await check({ 'texts.xml': `<phone owner="+447700900100">${TALK.map(element).join('\n')}</phone>` }, 'number');
		assert.deepEqual(threads.map((t) => t.messages[0]!.first.correspondent?.name).sort(), OTHERS);
	});
	for (const [sent, inbox] of [
		['sent', 'inbox'],
		['Gesendete Nachrichten', 'Posteingang']
	] as const)
		it(`is what its file is called: ${sent}`, () => {
			const file = (out: boolean): string =>
				`Number,Date,Text\n${TALK.filter((m) => m.out === out)
					.map((m) => `${NUMBERS[m.other]},${written(m)},${quoted(m.text)}\n`)
					.join('')}`;
			return holds({ [`${sent}.csv`]: file(true), [`${inbox}.csv`]: file(false) }, 'number');
		});
	it('is a line of its block, whose other lines give a number and a name', async () => {
		const block = (m: Said): string =>
			`Number: ${NUMBERS[m.other]}\nName: ${m.other}\nType: ${m.out ? 'Outgoing' : 'Incoming'}\nTime: ${written(m)}\nText: ${m.text}\n----------\n`;
		const threads = await check({ 'report.txt': TALK.map(block).join('') }, 'number');
		assert.deepEqual(threads.map((t) => t.messages[0]!.first.correspondent?.name).sort(), OTHERS);
	});
	it('a file called for something else says none', async () => {
		const rows = TALK.map((m) => `${NUMBERS[m.other]},${written(m)},${quoted(m.text)}\n`).join('');
		for (const name of ['consent forms.csv', 'outline.csv'])
			for (const t of await threadsOf({ [name]: `Number,Date,Text\n${rows}` }))
				assert.ok(
					t.messages.every((m) => m.first.direction === null),
					name
				);
	});
});

describe('who wrote to whom, and when', () => {
	it('stands at the head of a file of one letter', () => {
		const party = (name: string): string => `${name} <${NUMBERS[name] ?? '+447700900100'}>`;
		const letter = (m: Said): string => `From: ${party(m.who)}\nTo: ${party(m.out ? m.other : OWNER)}\nDate: ${written(m)}\n\n${m.text}\n`;
		return holds(
			Object.fromEntries(TALK.map((m) => [`${m.out ? 'Sent' : 'Inbox'}/${iso(m).replace(/\D/g, '').slice(0, 14)}_${m.id}.txt`, letter(m)])),
			'number'
		);
	});
	it('blocks say both, of several conversations in one file', () =>
		holds(
			{ 'report.txt': TALK.map((m) => `From: ${m.who}\nTo: ${m.out ? m.other : OWNER}\nDate: ${written(m)}\n${m.text}\n\n`).join('') },
			'name',
			OWNER
		));
	it('stands over the column in which a text is', () =>
		holds(
			Object.fromEntries(
				withEach((other, own) => [
					`${other}.csv`,
					`Time,${OWNER},${other}\n${own.map((m) => `${written(m)},${m.out ? `${quoted(m.text)},` : `,${quoted(m.text)}`}\n`).join('')}`
				])
			),
			'name',
			OWNER
		));
	it('the day stands above its messages', () =>
		holds(
			Object.fromEntries(
				withEach((other, own) => [
					`${other}.json`,
					JSON.stringify({
						with: other,
						days: Object.fromEntries(
							[...new Set(own.map(day))].map((d) => [
								d,
								own.filter((m) => day(m) === d).map((m) => ({ time: clock(m), from: m.who, text: m.text }))
							])
						)
					})
				])
			),
			'name',
			OWNER
		));
	it('each property is a list of all its values', async () => {
		const bytes = strToU8(
			JSON.stringify({
				data: {
					id: TALK.map((m) => m.id),
					thread: TALK.map((m) => OTHERS.indexOf(m.other) + 71),
					sender: TALK.map((m) => m.who),
					sent_at: TALK.map((m) => m.at),
					body: TALK.map((m) => m.text)
				},
				threads: { id: [71, 72], title: OTHERS, members: OTHERS.map((other) => [other, OWNER]) }
			})
		);
		const threads = await check({ 'messages.json': bytes }, 'name', OWNER);
		for (const { first } of threads.flatMap((t) => t.messages)) {
			const { offset, length } = first.row.sightings[0]!;
			assert.equal(new TextDecoder().decode(bytes.subarray(offset, offset + length)), JSON.stringify(first.text));
		}
	});
	it('persons and conversations are resources of their own', () =>
		holds(
			{
				'export.json': JSON.stringify({
					data: TALK.map((m) => ({
						type: 'messages',
						id: String(m.id),
						attributes: { body: m.text, 'created-at': iso(m) },
						relationships: {
							sender: { data: { type: 'users', id: m.who } },
							conversation: { data: { type: 'conversations', id: `c-${m.other}` } }
						}
					})),
					included: [
						...[OWNER, ...OTHERS].map((id) => ({ type: 'users', id, attributes: { name: id, me: id === OWNER } })),
						...OTHERS.map((other) => ({
							type: 'conversations',
							id: `c-${other}`,
							attributes: { title: null },
							relationships: { members: { data: [OWNER, other].map((id) => ({ type: 'users', id })) } }
						}))
					]
				})
			},
			'name'
		));
	it('a log has each message as an object at the end of a line, among lines of its own', () =>
		holds(
			{
				'client.log': TALK.flatMap((m) => [
					`${iso(m)} DEBUG net.socket - heartbeat ok, ${m.id} ms`,
					`${iso(m)} INFO  chat - message ${JSON.stringify({ id: m.id, room: `r-${m.other}`, from: m.who, text: m.text })}`
				]).join('\n')
			},
			'name',
			OWNER
		));
	it('tables stand one below the other in one file', () =>
		holds(
			{
				'report.csv':
					`CONTACTS\nKey,Name,Number\n${OTHERS.map((other, i) => `u${i + 71},${other},${NUMBERS[other]}\n`).join('')}\nMESSAGES\nNo,Contact,Direction,Date,Message\n` +
					TALK.map((m) => `${m.id},u${OTHERS.indexOf(m.other) + 71},${m.out ? 'Sent' : 'Received'},${written(m)},${quoted(m.text)}\n`).join(
						''
					)
			},
			'number'
		));
});

describe('answers within what they answer', () => {
	const nest = (own: readonly Said[]): object => {
		const [first, ...rest] = own;
		const { id, who, text } = first!;
		return { id, author: who, created: iso(first!), text, replies: rest.length > 0 ? [nest(rest)] : [] };
	};
	it('are messages of the same conversation', () =>
		holds(
			{
				'threads.json': JSON.stringify(
					withEach((other, own) => ({
						conversation: other,
						members: [other, OWNER],
						messages: [nest(own.slice(0, 5)), nest(own.slice(5))]
					}))
				)
			},
			'name',
			OWNER
		));
	it('what a message said before is none', async () => {
		const messages = TALK.map((m) => ({
			id: m.id,
			author: m.who,
			created: iso(m),
			text: m.text,
			history: m.id % 3 ? [] : [{ id: m.id, author: m.who, created: iso(m), text: `${m.text.slice(0, 9)} before` }]
		}));
		const threads = await threadsOf({ 'talk.json': JSON.stringify({ messages }) }, OWNER);
		const said = threads.flatMap((t) => t.messages.map((m) => m.first.text));
		assert.equal(said.filter((text) => text?.endsWith('before')).length, 0);
	});
});

describe('documents', () => {
	const line = (m: Said): string => `[${written(m)}] ${m.who}: ${m.text}`;
	const word = (own: readonly Said[]): string =>
		`<w:document xmlns:w="w"><w:body>${own
			.map((m) => {
				const text = escape(line(m)).split('\n');
				const runs = text.map(
					(t) =>
						`<w:t xml:space="preserve">${t.slice(0, 31)}</w:t></w:r><w:del><w:r><w:t>not</w:t></w:r></w:del><w:r><w:t xml:space="preserve">${t.slice(31)}</w:t>`
				);
				return `<w:p><w:pPr><w:t>no text</w:t></w:pPr><w:r>${runs.join('<w:br/>')}</w:r></w:p>`;
			})
			.join('')}</w:body></w:document>`;
	it('of a word processor, a text in several runs', () =>
		holds(
			Object.fromEntries(
				withEach((other, own) => [
					`${other}.docx`,
					zipSync({ '[Content_Types].xml': strToU8('<Types/>'), 'word/document.xml': strToU8(word(own)) })
				])
			),
			'name',
			OWNER
		));
	it('of the open format', () =>
		holds(
			Object.fromEntries(
				withEach((other, own) => [
					`${other}.odt`,
					zipSync({
						mimetype: strToU8('application/vnd.oasis.opendocument.text'),
						'content.xml': strToU8(
							`<office:document-content xmlns:office="o" xmlns:text="t"><office:text>${own
								.map((m) => `<text:p>${escape(line(m)).replace('\n', '<text:line-break/>')}</text:p>`)
								.join('')}</office:text></office:document-content>`
						)
					})
				])
			),
			'name',
			OWNER
		));
	it('in rich text', () =>
		holds(
			Object.fromEntries(
				withEach((other, own) => [
					`${other}.rtf`,
					`{\\rtf1\\ansi{\\fonttbl{\\f0 Serif;}}${own.map((m) => `\\pard ${line(m).replace('\n', '\\line ')}\\par\n`).join('')}}`
				])
			),
			'name',
			OWNER
		));
	it('a page that was saved in one file, and is no mail', () =>
		holds(
			Object.fromEntries(
				withEach((other, own) => {
					const page = `<html><body><div id=3D"chat">${own
						.map((m) => `<div class=3D"m"><b>${m.who}</b> <i>${written(m)}</i><p>${escape(m.text)}</p></div>\n`)
						.join('')}</div></body></html>`;
					return [
						`${other}.mhtml`,
						`From: <Saved by the reader>\r\nSubject: Chat\r\nDate: Tue, 14 Jan 2025 10:00:00 +0000\r\nMIME-Version: 1.0\r\nContent-Type: multipart/related; type="text/html"; boundary="part"\r\n\r\n--part\r\nContent-Type: text/html; charset="utf-8"\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n${page}\r\n--part--\r\n`
					];
				}, ONE_LINE)
			),
			'name',
			OWNER,
			ONE_LINE
		));
});

describe('packed values', () => {
	const chats = withEach((other, own) => ({
		name: other,
		members: [other, OWNER],
		messages: own.map((m) => ({ id: m.id, from: m.who, ts: m.at, text: m.text }))
	}));
	it('in a file of CBOR', () => holds({ 'export.cbor': encodeCbor({ version: 2, chats }) }, 'name', OWNER));
	it('in a file of MessagePack', () => holds({ 'export.msgpack': encodeMessagePack({ version: 2, chats }) }, 'name', OWNER));
	/** What somebody dumped of a store of documents: a file of each collection. */
	const documents = (list: object[]): Buffer => Buffer.concat(list.map((one) => serialize(one)));
	const keyOf = (n: number): ObjectId => new ObjectId((n + 1).toString(16).padStart(24, '65a1c0de'));
	const ids = new Map([OWNER, ...OTHERS].map((name, i) => [name, keyOf(i)]));
	const roomOf = (other: string): ObjectId => keyOf(100 + OTHERS.indexOf(other));
	const collections = {
		'users.bson': documents([...ids].map(([name, _id]) => ({ _id, name }))),
		'rooms.bson': documents(OTHERS.map((other) => ({ _id: roomOf(other), members: [ids.get(OWNER), ids.get(other)] }))),
		'messages.bson': documents(
			TALK.map((m, n) => ({ _id: keyOf(1000 + n), room: roomOf(m.other), from: ids.get(m.who), sent: new Date(m.at), text: m.text }))
		)
	};
	it('in files of BSON, persons and conversations in files of their own', () => holds(collections, 'name', OWNER));
	it('of BSON that breaks off say what is whole', async () => {
		const cut = collections['messages.bson'].subarray(0, collections['messages.bson'].length - 40);
		const all = (await threadsOf(collections)).flatMap((t) => t.messages);
		const left = (await threadsOf({ ...collections, 'messages.bson': cut })).flatMap((t) => t.messages);
		assert.equal(left.length, all.length - 1);
	});
	it('that are cut say nothing', async () => {
		const bytes = encodeCbor({ version: 2, chats });
		assert.deepEqual(await threadsOf({ 'export.cbor': bytes.subarray(0, bytes.length - 40) }), []);
	});
});

describe('the name of the other side', () => {
	const OWN = '+447700900100';
	const recordOf = (m: Said): Record<string, string> => ({
		from: m.out ? OWN : NUMBERS[m.other]!,
		to: m.out ? NUMBERS[m.other]! : OWN,
		text: m.text,
		date: iso(m),
		name: m.other
	});
	const named = async (files: Record<string, string | Uint8Array>): Promise<void> => {
		const threads = await check(files, 'number', OWN);
		for (const m of threads.flatMap((t) => t.messages)) {
			const said = TALK.find((one) => one.text === m.first.text)!;
			assert.equal(m.first.correspondent?.name, said.other);
		}
	};
	/** Objects as an archive lists them, each naming the others by where they stand (`CF$UID`), in XML. */
	const archiveOf = (records: readonly Record<string, string>[]): string => {
		const objects = ['<string>$null</string>'];
		const add = (xml: string): string => `<dict><key>CF$UID</key><integer>${objects.push(xml) - 1}</integer></dict>`;
		const ofRecord = (record: Record<string, string>): string =>
			add(
				`<dict>${Object.entries(record)
					.map(([key, value]) => `<key>${key}</key>${add(`<string>${escape(value)}</string>`)}`)
					.join('')}</dict>`
			);
		const root = add(`<dict><key>X.objects</key><array>${records.map(ofRecord).join('')}</array></dict>`);
		const top = `<key>$top</key><dict><key>root</key>${root}</dict>`;
		return `<?xml version="1.0"?><plist version="1.0"><dict><key>$archiver</key><string>Archiver</string>${top}<key>$objects</key><array>${objects.join('')}</array></dict></plist>`;
	};

	it('stands beside who wrote and to whom', () => named({ 'texts.ndjson': TALK.map((m) => JSON.stringify(recordOf(m))).join('\n') }));
	it('does in a script that a page loads', () => named({ 'texts.js': `window.CHATS.part0 = ${JSON.stringify(TALK.map(recordOf))};\n` }));
	it('does in objects that are archived one after the other', () => named({ 'texts.plist': archiveOf(TALK.map(recordOf)) }));
	it('does in a list by number', () =>
		named({
			'texts.json': JSON.stringify({
				messages: Object.fromEntries(TALK.map((m) => [`m${m.id * 37 + 1000}`, { ...recordOf(m), name: undefined }])),
				people: Object.fromEntries(OTHERS.map((name) => [NUMBERS[name], { name }]))
			})
		}));
	it('does in a table of a program', async () => {
		const folder = mkdtempSync(join(tmpdir(), 'ombudsman-other-'));
		const db = createDatabase(join(folder, 'texts.db'));
		db.exec('create table text(id integer primary key, sender text, recipient text, name text, body text, sent text)');
		for (const m of TALK) {
			const { from, to, name, text, date } = recordOf(m);
			db.run('insert into text values(?,?,?,?,?,?)', [m.id + 1, from!, to!, name!, text!, date!]);
		}
		db.close();
		await named({ 'texts.db': new Uint8Array(readFileSync(join(folder, 'texts.db'))) });
		rmSync(folder, { recursive: true });
	});
});
