/** Exports that end too early, at any place: what is whole stays whole, what is cut is called a part, and it is said. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import fc from 'fast-check';
import type { Grade } from '../../src/core/model';
import { lookAt } from '../vectors/look-at';

const OTHER = 'Odile Marchetti';
const OWNER = 'Piet Hallorann';
const TALK = Array.from({ length: 12 }, (_, n) => ({
	id: n + 1,
	from: n % 3 ? OTHER : OWNER,
	date: new Date(Date.UTC(2025, 0, 14, 10, n)).toISOString(),
	text: `Number ${n}: the café’s boiler is off again, said she`
}));
type Message = (typeof TALK)[number];
const lines = (write: (m: Message) => string): string => TALK.map(write).join('\n');
const FIELDS = ['id', 'from', 'date', 'text'] as const;

const FORMS: Record<string, string> = {
	'talk.json': JSON.stringify({ name: OTHER, messages: TALK }, null, 1),
	'lines.jsonl': `${lines((m) => JSON.stringify(m))}\n`,
	'columns.json': JSON.stringify({ columns: FIELDS, rows: TALK.map((m) => FIELDS.map((f) => m[f])) }),
	'talk.yaml': `name: ${OTHER}\nmessages:\n${lines((m) => `  - id: ${m.id}\n    from: ${m.from}\n    date: ${m.date}\n    text: "${m.text}"`)}\n`,
	'talk.xml': `<?xml version="1.0"?>\n<talk>${lines((m) => `<message id="${m.id}" from="${m.from}" date="${m.date}"><text>${m.text}</text></message>`)}</talk>\n`,
	'talk.html': `<!doctype html><html><body>${lines((m) => `<div class="m"><b>${m.from}</b> <i>${m.date}</i> <p>${m.text}</p></div>`)}</body></html>`,
	'talk.csv': `id,from,date,text\n${lines((m) => `${m.id},${m.from},${m.date},"${m.text}"`)}\n`,
	'talk.sql': `CREATE TABLE message(id INTEGER PRIMARY KEY, author TEXT, date TEXT, body TEXT);\n${lines((m) => `INSERT INTO message VALUES(${m.id},'${m.from}','${m.date}','${m.text}');`)}\n`,
	'talk.plist': `<?xml version="1.0"?><plist version="1.0"><array>${lines((m) => `<dict>${FIELDS.map((f) => `<key>${f}</key><string>${m[f]}</string>`).join('')}</dict>`)}</array></plist>`,
	'talk.mbox': lines(
		(m) =>
			`From - Tue Jan 14 10:00:00 2025\nFrom: <${m.from.split(' ')[0]}@works.example>\nTo: <${m.from === OTHER ? 'Piet' : 'Odile'}@works.example>\n` +
			`Date: ${new Date(m.date).toUTCString().replace('GMT', '+0000')}\nSubject: The boiler\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary="part"\n\n` +
			`--part\nContent-Type: text/plain; charset=utf-8\nContent-Transfer-Encoding: 8bit\n\n${m.text}\n--part--\n`
	)
};

interface Seen {
	messages: { text: string | null; grade: Grade }[];
	isSaid: boolean;
}

async function seen(name: string, bytes: Uint8Array): Promise<Seen> {
	const look = await lookAt({ [name]: bytes }, OWNER);
	const { stores, weave } = look.findings();
	return {
		messages: weave.threads.flatMap((t) => t.messages.map(({ first: { text, row } }) => ({ text, grade: row.grade }))),
		isSaid: [...look.notes, ...stores.flatMap((s) => s.harvest.notes)].some((n) => n.code.startsWith('export-'))
	};
}

describe('exports that end too early', () => {
	for (const [name, content] of Object.entries(FORMS)) {
		const bytes = new TextEncoder().encode(content);
		const ends = TALK.map((m) => new TextEncoder().encode(content.slice(0, content.indexOf(m.text) + m.text.length)).length);

		it(`${name}: whole, nothing is said`, async () => {
			const { messages, isSaid } = await seen(name, bytes);
			assert.deepEqual(messages.map((m) => m.text).sort(), TALK.map((m) => m.text).sort());
			assert.ok(messages.every((m) => m.grade === 'whole'));
			assert.equal(isSaid, false);
		});
		it(`${name}: cut anywhere, what is whole is there, what is not is a part`, () =>
			fc.assert(
				fc.asyncProperty(fc.integer({ min: ends[5]! + 60, max: ends.at(-1)! - 1 }), async (at) => {
					const { messages, isSaid } = await seen(name, bytes.subarray(0, at));
					const texts = new Set(messages.map((m) => m.text));
					// The one behind whose text it is cut may be a part for want of what closes it.
					TALK.forEach((m, i) => assert.ok(ends[i]! > at || texts.has(m.text), m.text));
					const known = new Set(TALK.map((m) => m.text));
					for (const { text, grade } of messages)
						if (text !== null && !known.has(text)) {
							assert.ok(TALK.some((m) => m.text.startsWith(text.replace(/\ufffd$/, ''))) || text === 'The boiler', text);
							assert.equal(grade, 'fragment', text);
						}
					assert.ok(isSaid || /\n\s*$/.test(content.slice(0, at)) || ends.some((end) => Math.abs(end - at) < 60));
				}),
				{ numRuns: 25, seed: 7 }
			));
	}

	it('a word of another language in place of a value breaks nothing', async () => {
		const { messages, isSaid } = await seen(
			'talk.json',
			new TextEncoder().encode(JSON.stringify(TALK).replaceAll('"id":', '"place":NaN,"id":'))
		);
		assert.equal(messages.length, TALK.length);
		assert.ok(messages.every((m) => m.grade === 'whole'));
		assert.equal(isSaid, false);
	});
	it('bytes in the middle that are none of it leave what stands before and behind', async () => {
		const damaged = FORMS['talk.json']!.replace('Number 6: the', 'Number 6", \u0001}{ the');
		const { messages, isSaid } = await seen('talk.json', new TextEncoder().encode(damaged));
		const texts = messages.map((m) => m.text);
		for (const m of TALK.slice(0, 6)) assert.ok(texts.includes(m.text), m.text);
		assert.ok(isSaid);
	});
});
