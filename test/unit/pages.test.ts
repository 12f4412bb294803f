/** Pages and XML: what stands under headings, in parts, and within the text of an export itself. */
import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { test } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import { unwrap } from '../../src/core/unwrap';
import { plainMessage } from '../../src/core/weave';

const OWNER = 'Piet Hallorann';
const BEGAN = Date.UTC(2025, 0, 14, 9);
const MINUTE = 60_000;
const at = (i: number): number => BEGAN + i * 7 * MINUTE;
const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** The beginning of a picture (ISO 15948), and bytes of its own behind it. */
const picture = (n: number): Uint8Array =>
	Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, ...Array.from({ length: 90 }, (_, i) => (i * 31 * n + n) & 255)]);

/** All messages of files given by path, in order of time. */
async function messagesOf(files: Record<string, string>): Promise<{ plain: ReturnType<typeof plainMessage>[]; thread: string[] }> {
	const given = Object.entries(files).map(([path, text]) => ({
		name: path,
		path,
		source: new MemorySource(new TextEncoder().encode(text))
	}));
	const look = new Look((await unwrap(given, [])).files, { reach: 'raw', owner: OWNER });
	for (const event of look.run()) void event;
	const { weave, stores } = look.findings();
	const all = weave.threads.flatMap((t) => t.messages).sort((a, b) => a.first.sentAt! - b.first.sentAt!);
	return {
		plain: all.map((m) => plainMessage(m, stores, look.files, { hex: false, stored: true, media: look.media })),
		thread: all.map((m) => m.thread)
	};
}

const TEXTS = ['The pump is off.', 'Since when?', 'Nine days.', 'I will credit the month.', 'Thank you.', 'See the meter.'];

test('messages made of parts stand with those that are not, with their texts and their files', async () => {
	const photos = [picture(3), picture(4)];
	const encoded = photos.map((p) => Buffer.from(p).toString('base64'));
	const plain = (i: number, own: boolean): string =>
		`<sms address="+447700900123" date="${at(i)}" type="${own ? 2 : 1}" body="${TEXTS[i]}" contact_name="Odile Marchetti"/>`;
	const parted = (i: number, own: boolean, parts: string): string =>
		`<mms date="${at(i)}" msg_box="${own ? 2 : 1}" address="+447700900123" contact_name="Odile Marchetti"><parts>${parts}</parts></mms>`;
	const photo = (n: number): string => `<part seq="1" ct="image/png" name="photo ${n}.png" data="${encoded[n]}"/>`;
	const { plain: got } = await messagesOf({
		'messages.xml': `<?xml version="1.0"?><all>${plain(0, false)}${plain(1, true)}${parted(2, false, `<part seq="0" ct="text/plain" text="${TEXTS[2]}"/>${photo(0)}`)}${plain(3, true)}${plain(4, false)}${parted(5, true, photo(1))}</all>`
	});
	assert.deepEqual(
		got.map((m) => [m.text, m.direction, (m.attachments ?? []).map((a) => a.name)]),
		[
			[TEXTS[0], 'in', []],
			[TEXTS[1], 'out', []],
			[TEXTS[2], 'in', ['photo 0.png']],
			[TEXTS[3], 'out', []],
			[TEXTS[4], 'in', []],
			[null, 'out', ['photo 1.png']]
		]
	);
	assert.deepEqual(
		got.flatMap((m) => (m.attachments ?? []).map((a) => [a.path, a.sha256])),
		photos.map((p, n) => [`messages.xml/photo ${n}.png`, sha256(p)])
	);
});

test('a picture within a page is found by its digest, and its letters are no text', async () => {
	const photo = picture(5);
	const row = (i: number, inside: string): string =>
		`<div class="m"><b class="n">${i % 2 ? OWNER : 'Odile Marchetti'}</b><i class="t">${new Date(at(i)).toISOString()}</i>${inside}</div>`;
	const said = (i: number): string => row(i, `<div class="c">${TEXTS[i]}</div>`);
	const { plain } = await messagesOf({
		'talk.html': `<html><body>${[0, 1, 2, 3, 4].map(said).join('')}${row(5, `<img src="data:image/png;base64,${Buffer.from(photo).toString('base64')}">`)}</body></html>`
	});
	assert.deepEqual(
		plain.map((m) => m.text),
		[...TEXTS.slice(0, 5), null]
	);
	const [file] = plain[5]!.attachments ?? [];
	assert.equal(file!.path, 'talk.html/embedded 1.png');
	assert.equal(file!.sha256, sha256(photo));
	// What an entry does not have was never there: nothing of it was overwritten.
	assert.ok(plain.every((m) => m.stored!.every(([, value]) => value !== 'overwritten')));
});

test('what stands under the name of another is a thread of its own', async () => {
	const rows = (who: string, from: number): string =>
		`<section><h2>${who}</h2>${TEXTS.map((t, i) => `<div class="row"><span class="when">${new Date(at(from + i)).toISOString()}</span><span class="who">${i % 2 ? OWNER : who}</span><span class="what">${t} ${who}</span></div>`).join('')}</section>`;
	const { plain, thread } = await messagesOf({
		'chats.html': `<html><body>${rows('Odile Marchetti', 0)}${rows('Bram Vesterholt', 10)}</body></html>`
	});
	assert.equal(plain.length, 12);
	assert.deepEqual(new Set(thread.slice(0, 6)).size, 1);
	assert.notEqual(thread[0], thread[6]);
	assert.deepEqual(new Set(plain.map((m) => m.person)), new Set(['Odile Marchetti', 'Bram Vesterholt']));
});

test('the way is read in the words of the program that exported', async () => {
	for (const [out, incoming] of [
		['Ausgang', 'Eingang'],
		['Envoyé', 'Reçu'],
		['Исходящее', 'Входящее'],
		['→', '←']
	]) {
		const lines = TEXTS.map((t, i) => `${new Date(at(i)).toISOString()};${i % 2 ? out : incoming};+447700900123;Odile Marchetti;${t}`);
		const { plain } = await messagesOf({ 'talk.csv': ['A;B;C;D;E', ...lines].join('\n') });
		assert.deepEqual(
			plain.map((m) => m.direction),
			TEXTS.map((_, i) => (i % 2 ? 'out' : 'in')),
			out
		);
	}
});

test('names of those who reacted are no wordings of what they reacted to', async () => {
	const messages = TEXTS.map((text, i) => ({
		when: new Date(at(i)).toISOString(),
		by: i % 2 ? OWNER : 'Odile Marchetti',
		text,
		reactions: i % 2 ? [] : [{ who: OWNER, emoji: '👍' }]
	}));
	const { plain } = await messagesOf({ 'chats.json': JSON.stringify({ chats: [{ title: 'Odile Marchetti', messages }] }) });
	assert.deepEqual(
		plain.map((m) => m.text),
		TEXTS
	);
});

const PEERS = [
	['Odile Marchetti', '+447700900123'],
	['Bram Vesterholt', '+447700900125']
] as const;
/** The texts with each of two persons in turn, the owner's every second. */
const twice = PEERS.flatMap(([name, number], k) =>
	TEXTS.map((text, i) => ({ at: at(k * 10 + i), own: i % 2 === 1, name, number, text: `${text} (${k})` }))
);
const wanted = twice.map((s) => [s.text, s.own ? 'out' : 'in', s.own ? null : s.name]);
const seen = (plain: ReturnType<typeof plainMessage>[]): unknown[] =>
	plain.map((m) => [m.text, m.direction, m.direction === 'out' ? null : m.person]);
const csv = (rows: readonly (readonly string[])[]): string => rows.map((r) => r.map((c) => `"${c}"`).join(',')).join('\n');

test('the pages of one export are one conversation, a page of another none of it', async () => {
	const pageOf = (who: string, from: number): string =>
		`<html><head><title>Export</title></head><body><h2>${who}</h2>${TEXTS.map((t, i) => `<div class="m"><div class="t">${new Date(at(from + i)).toISOString()}</div><div class="n">${i % 2 ? OWNER : who}</div><div class="x">${t} ${from}</div></div>`).join('')}</body></html>`;
	const { plain, thread } = await messagesOf({
		'talk/messages.html': pageOf('Odile Marchetti', 0),
		'talk/messages2.html': pageOf('Odile Marchetti', 10),
		'talk/messages10.html': pageOf('Odile Marchetti', 20),
		'other/messages.html': pageOf('Bram Vesterholt', 30)
	});
	assert.equal(plain.length, 24);
	assert.equal(new Set(thread.slice(0, 18)).size, 1);
	assert.notEqual(thread[18], thread[0]);
	assert.deepEqual(new Set(plain.slice(6, 12).map((m) => m.sightings[0]!.path)), new Set(['talk/messages2.html']));
});

test('a last page with one message is read like those before, also where it has what they lack', async () => {
	const line = (i: number, more = ''): string =>
		`<div class="m"><div class="t">${new Date(at(i)).toISOString()}</div><div class="n">${i % 2 ? OWNER : 'Odile Marchetti'}</div><div class="x">${TEXTS[i % 6]} ${i}</div>${more}</div>`;
	const pageOf = (lines: string): string => `<html><head><title>Export</title></head><body><h2>Odile Marchetti</h2>${lines}</body></html>`;
	const { plain, thread } = await messagesOf({
		'talk/messages.html': pageOf(Array.from({ length: 9 }, (_, i) => line(i)).join('')),
		'talk/messages2.html': pageOf(line(10)),
		'talk/messages3.html': pageOf(line(11, '<div class="p"><img src="photos/stairs.png"></div>')),
		'talk/notes2.html': pageOf('<p>Nothing was said on 14 January 2025.</p>')
	});
	assert.deepEqual(
		plain.slice(9).map((m) => [m.text, m.direction, m.sentAt, m.sightings[0]!.path, (m.attachments ?? []).map((a) => a.name)]),
		[
			[`${TEXTS[4]} 10`, 'in', at(10), 'talk/messages2.html', []],
			[`${TEXTS[5]} 11`, 'out', at(11), 'talk/messages3.html', ['stairs.png']]
		]
	);
	assert.equal(new Set(thread).size, 1);
	const [one] = plain[9]!.sightings;
	assert.ok(one!.offset > 0 && one!.offset + one!.length <= pageOf(line(10)).length, 'its place is within its own page');
});

test('calls beside messages are none', async () => {
	const { plain } = await messagesOf({
		'phone.xml': `<phone>${twice.map((s) => `<sms number="${s.number}" name="${s.name}" time="${s.at}" folder="${s.own ? 'sent' : 'inbox'}" text="${s.text}"/>`).join('')}${PEERS.map(([name, number], i) => `<call number="${number}" name="${name}" time="${at(i)}" type="incoming" duration="60"/><call number="${number}" name="${name}" time="${at(i + 3)}" type="outgoing" duration="7"/>`).join('')}</phone>`
	});
	assert.deepEqual(seen(plain), wanted);
});

test('persons written with name and number are known by both', async () => {
	const own = `${OWNER} <+447700900111>`;
	const rows = twice.map((s) => {
		const other = `${s.name} <${s.number}>`;
		return [new Date(s.at).toISOString(), s.own ? own : other, s.own ? other : own, s.text];
	});
	const { plain, thread } = await messagesOf({ 'export.csv': csv([['Sent at', 'From', 'To', 'Body'], ...rows]) });
	assert.deepEqual(seen(plain), wanted);
	assert.equal(new Set(thread).size, 2);
	assert.deepEqual(new Set(plain.map((m) => m.correspondent)), new Set(PEERS.map(([, number]) => number)));
});

test('a column that names the conversation keeps them apart where the owner’s own rows name nobody', async () => {
	const rows = twice.map((s) => [
		s.name,
		new Date(s.at).toISOString(),
		s.own ? 'Outgoing' : 'Incoming',
		s.own ? '' : s.number,
		s.own ? '' : s.name,
		s.text
	]);
	const { plain, thread } = await messagesOf({
		'messages.csv': csv([['Chat Session', 'Message Date', 'Type', 'Sender ID', 'Sender Name', 'Text'], ...rows])
	});
	assert.deepEqual(seen(plain), wanted);
	assert.equal(new Set(thread).size, 2);
});

test('rows of JSON without names of fields are read by the names beside them', async () => {
	const rows = TEXTS.map((t, i) => [new Date(at(i)).toISOString(), i % 2 ? OWNER : 'Odile Marchetti', t]);
	const { plain } = await messagesOf({ 'talk.json': JSON.stringify({ columns: ['time', 'author', 'text'], rows }) });
	assert.deepEqual(
		plain.map((m) => [m.text, m.direction]),
		TEXTS.map((t, i) => [t, i % 2 ? 'out' : 'in'])
	);
});

test('whoever writes in every conversation is the owner', async () => {
	const conversations = PEERS.map(([, number], k) => ({
		members: ['+447700900111', number],
		messages: twice.slice(k * 6, k * 6 + 6).map((s) => ({ sender: s.own ? '+447700900111' : number, at: s.at * 1000, text: s.text }))
	}));
	const { plain } = await messagesOf({ 'export.json': JSON.stringify({ conversations }) });
	assert.deepEqual(
		plain.map((m) => [m.text, m.direction]),
		twice.map((s) => [s.text, s.own ? 'out' : 'in'])
	);
});

test('XML of one entry’s several elements, and of a conversation of one message, is read as that of many', async () => {
	const entry = (s: (typeof twice)[number]): string =>
		`<x:entry><x:when>${new Date(s.at).toISOString()}</x:when><x:from><x:name>${s.own ? OWNER : s.name}</x:name><x:number>${s.own ? '+447700900111' : s.number}</x:number></x:from><x:body><![CDATA[${s.text}]]></x:body></x:entry>`;
	const { plain } = await messagesOf({
		'log.xml': `<x:log xmlns:x="urn:example"><x:talk>${twice.slice(0, 6).map(entry).join('')}</x:talk><x:talk>${entry(twice[6]!)}</x:talk></x:log>`
	});
	assert.deepEqual(
		plain.map((m) => [m.text, m.direction]),
		twice.slice(0, 7).map((s) => [s.text, s.own ? 'out' : 'in'])
	);
});

test('messages without a name that have a class of their own are nobody else’s', async () => {
	const rows = TEXTS.map(
		(t, i) =>
			`<div class="b ${i % 2 ? 'k2' : 'k1'}">${i % 2 ? '' : '<span class="name">Odile Marchetti</span>'}<p>${t}</p><i class="t">${new Date(at(i)).toISOString()}</i></div>`
	);
	const { plain } = await messagesOf({ 'talk.html': `<html><body>${rows.join('')}</body></html>` });
	assert.deepEqual(
		plain.map((m) => m.text),
		TEXTS
	);
	assert.ok(plain.every((m, i) => i % 2 === 0 || m.direction !== 'in'));
});
