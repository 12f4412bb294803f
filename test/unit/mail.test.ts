/** Mail as an export: mailboxes of any size, what was attached, answers, and files that only look like mail. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import { unwrap } from '../../src/core/unwrap';
import { plainMessage, type Message } from '../../src/core/weave';

const given = (path: string, content: string) => ({ name: path, path, source: new MemorySource(new TextEncoder().encode(content)) });

const read = (path: string, content: string, owner: string | null): ReturnType<typeof readAll> => readAll([given(path, content)], owner);

async function readAll(sources: ReturnType<typeof given>[], owner: string | null): Promise<{ messages: Message[]; paths: string[] }> {
	const { files } = await unwrap(sources, []);
	const look = new Look(files, { reach: 'raw', owner });
	for (const event of look.run()) void event;
	const { stores, weave } = look.findings();
	return {
		messages: weave.threads.flatMap((t) =>
			t.messages.map((m) => plainMessage(m, stores, look.files, { hex: false, stored: false, media: look.media }))
		),
		paths: files.map((f) => f.path)
	};
}

const mail = (n: number, from: string, to: string, body: string, more = ''): string =>
	`From: ${from}\nTo: ${to}\nDate: Tue, 14 Jan 2025 10:${10 + n}:00 +0100\nSubject: Heating ${n}\nMessage-ID: <m${n}@marrow.example>\n${more}\n${body}\n`;
const ODILE = 'Odile Marchetti <odile@marrow.example>';
const PIET = 'piet@plant.example';

it('an owner known by name is the address that the mails give to that name, also where each mail lies alone', async () => {
	const sources = [ODILE, 'Piet Hallorann <piet@plant.example>'].map((from, n) =>
		given(`${n}.eml`, mail(n, from, n === 0 ? 'Piet Hallorann <piet@plant.example>' : ODILE, `Said ${n}`))
	);
	const { messages } = await readAll(sources, 'Piet Hallorann');
	assert.deepEqual(
		messages.map((m) => [m.text, m.direction, m.correspondent]),
		[
			['Said 0', 'in', 'odile@marrow.example'],
			['Said 1', 'out', 'odile@marrow.example']
		]
	);
});

it('a round of mails between the same is one thread, though each lies in a file of its own', async () => {
	const [odile, bram, piet] = [ODILE, 'Bram Vesterholt <bram@marrow.example>', 'Piet Hallorann <piet@plant.example>'];
	const sources = [
		[odile, `${bram}, ${piet}`],
		[piet, `${odile}, ${bram}`],
		[bram, `${piet}, ${odile}`],
		[odile, piet]
	].map(([from, to], n) => given(`${n}.eml`, mail(n, from!, to!, `Said ${n}`)));
	for (const owner of ['Piet Hallorann', null]) {
		const { messages } = await readAll(sources, owner);
		const threads = [0, 1, 2, 3].map((n) => messages.find((m) => m.text === `Said ${n}`)!.thread);
		assert.deepEqual([new Set(threads).size, new Set(threads.slice(0, 3)).size], [2, 1]);
		if (owner)
			assert.deepEqual(
				[0, 1, 2, 3].map((n) => messages.find((m) => m.text === `Said ${n}`)!.direction),
				['in', 'out', 'in', 'in']
			);
	}
});

describe('a mailbox', () => {
	const box = [
		mail(0, ODILE, PIET, 'Nine days without heat.\n>From cellar to roof.'),
		mail(1, PIET, ODILE, 'One month is credited.', 'In-Reply-To: <m0@marrow.example>\n'),
		mail(2, ODILE, PIET, 'From my side all is said.')
	]
		.map((m) => `From x@marrow.example Tue Jan 14 10:10:00 2025\n${m}`)
		.join('\n');
	it('gives each mail once, in one thread, with its stretch of the file', async () => {
		const { messages } = await read('box', box, PIET);
		assert.deepEqual(
			messages.map((m) => [m.text, m.direction, m.correspondent, m.person, m.sentAt, m.zoned]),
			[
				[
					'Nine days without heat.\nFrom cellar to roof.',
					'in',
					'odile@marrow.example',
					'Odile Marchetti',
					Date.UTC(2025, 0, 14, 9, 10),
					true
				],
				['One month is credited.', 'out', 'odile@marrow.example', 'Odile Marchetti', Date.UTC(2025, 0, 14, 9, 11), true],
				['From my side all is said.', 'in', 'odile@marrow.example', 'Odile Marchetti', Date.UTC(2025, 0, 14, 9, 12), true]
			]
		);
		assert.equal(new Set(messages.map((m) => m.thread)).size, 1);
		assert.equal(messages[1]!.replyTo, messages[0]!.id);
		for (const m of messages) {
			const [s] = m.sightings;
			assert.ok(box.slice(s!.offset, s!.offset + s!.length).includes(`Heating ${messages.indexOf(m)}`));
		}
	});
	it('larger than a block loses none on the edges', async () => {
		const many = Array.from(
			{ length: 1000 },
			(_, i) =>
				`From x@marrow.example Tue Jan 14 10:10:00 2025\n${mail(i % 40, i % 2 ? ODILE : PIET, i % 2 ? PIET : ODILE, `Number ${i} ${'x'.repeat(9000)}`).replace('<m', `<n${i}m`)}`
		).join('\n');
		assert.ok(many.length > 8 << 20);
		const { messages } = await read('box', many, PIET);
		assert.deepEqual(new Set(messages.map((m) => /^Number (\d+)/.exec(m.text!)![1])).size, 1000);
	});
});

it('what was attached is a file of its own, linked to its mail; an archive in it is opened', async () => {
	const body = [
		'--zz',
		'Content-Type: text/html; charset=utf-8',
		'',
		'<style>p{}</style><p>See the <b>plan</b>.</p>',
		'--zz',
		'Content-Type: text/plain; name="../../plan.txt"',
		'Content-Disposition: attachment; filename="../../plan.txt"',
		'Content-Transfer-Encoding: base64',
		'',
		Buffer.from('floor two').toString('base64'),
		'--zz--'
	].join('\n');
	const { messages, paths } = await read(
		'one.eml',
		mail(1, ODILE, PIET, body, 'MIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=zz\n'),
		PIET
	);
	assert.equal(messages[0]!.text, 'See the plan.');
	assert.deepEqual(paths, ['one.eml', 'one.eml/plan.txt']);
	assert.equal(messages[0]!.attachments![0]!.path, 'one.eml/plan.txt');
});

it('in a mailbox each mail has its own files, though they are called alike', async () => {
	const withFile = (n: number): string =>
		mail(
			n,
			ODILE,
			PIET,
			`--zz\nContent-Type: text/plain\n\nPlan ${n}\n--zz\nContent-Type: application/pdf; name=plan.pdf\nContent-Disposition: attachment; filename=plan.pdf\n\n%PDF of floor ${n}\n--zz--`,
			'MIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=zz\n'
		);
	const box = (from: number): string =>
		[from, from + 1].map((n) => `From x@marrow.example Tue Jan 14 10:10:00 2025\n${withFile(n)}`).join('\n');
	const { messages } = await readAll([given('Inbox', box(0)), given('Archive', box(2))], PIET);
	assert.deepEqual(
		messages.map((m) => [m.text, m.attachments![0]!.name, m.attachments![0]!.path]),
		[
			['Plan 0', 'plan.pdf', 'Inbox/mail 1/plan.pdf'],
			['Plan 1', 'plan.pdf', 'Inbox/mail 2/plan.pdf'],
			['Plan 2', 'plan.pdf', 'Archive/mail 1/plan.pdf'],
			['Plan 3', 'plan.pdf', 'Archive/mail 2/plan.pdf']
		]
	);
});

it('of single mails the owner is the one whom all are from or to; of two such, the one who wrote what lies among the sent', async () => {
	const tamsin = 'tamsin@marrow.example';
	const three = [
		given('1.eml', mail(1, ODILE, PIET, 'One')),
		given('2.eml', mail(2, PIET, tamsin, 'Two')),
		given('3.eml', mail(3, tamsin, PIET, 'Three'))
	];
	const ways = (messages: readonly Message[]): unknown => messages.map((m) => [m.text, m.direction, m.correspondent]).sort();
	assert.deepEqual(ways((await readAll(three, null)).messages), [
		['One', 'in', 'odile@marrow.example'],
		['Three', 'in', tamsin],
		['Two', 'out', tamsin]
	]);
	const two = [given('mail/in/1.eml', mail(1, ODILE, PIET, 'One')), given('mail/Sent/2.eml', mail(2, PIET, ODILE, 'Two'))];
	assert.deepEqual(ways((await readAll(two, null)).messages), [
		['One', 'in', 'odile@marrow.example'],
		['Two', 'out', 'odile@marrow.example']
	]);
});

it('who is only written to is called as the mail calls him', async () => {
	const { messages } = await readAll(
		[given('1.eml', mail(1, PIET, ODILE, 'One')), given('2.eml', mail(2, PIET, `${ODILE}, Bram <b@marrow.example>`, 'Two'))],
		PIET
	);
	assert.deepEqual(messages.map((m) => [m.text, m.person]).sort(), [
		['One', 'Odile Marchetti'],
		['Two', null]
	]);
});

it('text with fields, and a diary that begins with "From", are no mail', async () => {
	for (const text of ['Title: Heating\nAuthor: nobody\n\nFrom: x\n', 'From the beginning it was cold, at 10:10 and later.\nDate: none\n']) {
		const { messages } = await read('a.txt', text.repeat(30), PIET);
		assert.deepEqual(messages, []);
	}
});
