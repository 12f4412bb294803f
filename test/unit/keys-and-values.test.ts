/**
 * Stores that keep keys and values: documents of several kinds in one table, told apart by their fields. Whose a message
 * is and when it was can stand in its key alone; who takes part in a conversation is a list within its document.
 */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { encode as toMsgpack } from '@msgpack/msgpack';
import { encode as toCbor } from 'cbor2';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { plainMessage, type Message } from '../../src/core/weave';
import { createDatabase } from '../vectors/engine';
import { Random } from '../vectors/random';

const START = Date.UTC(2025, 0, 10, 8);
const COUNT = 60;
const NAMES = ['Greta Ferro', 'Ilse Khatib', 'Marek Nair', 'Odile Vance', 'Ruta Petrak', 'Santo Okafor'];
const WORDS = 'boiler meter charge valve stairs credit plant heating month failure notice tenant ladder window letter'.split(' ');

type Form = 'json' | 'msgpack' | 'cbor';
const WRITE: Record<Form, (value: object) => string | Uint8Array> = { json: JSON.stringify, msgpack: toMsgpack, cbor: toCbor };

interface Layout {
	form: Form;
	/** What is told by the key alone. */
	inKey: ('talk' | 'time')[];
	separator: string;
	/** Keys as bytes. */
	bytes?: boolean;
	withoutRowid?: boolean;
	/** The names of a message's fields: its number, conversation, writer, text, time, and whether the owner sent it. */
	fields?: [string, string, string, string, string, string];
	/** The owner is in every list of who takes part. */
	withOwner?: boolean;
}

const LAYOUTS: Record<string, Layout> = {
	'everything in the documents': { form: 'json', inKey: [], separator: ':' },
	'conversation and time in the key': { form: 'json', inKey: ['talk', 'time'], separator: '/', withOwner: true },
	'keys with blanks, fields with names that say nothing': {
		form: 'msgpack',
		inKey: ['talk'],
		separator: ' ',
		fields: ['k1', 'k2', 'k3', 'k4', 'k5', 'k6']
	},
	'keys of bytes': { form: 'json', inKey: ['time'], separator: '!', bytes: true, withOwner: true },
	'tables without rowids': { form: 'json', inKey: [], separator: ':', withoutRowid: true },
	'tables without rowids, packed documents': { form: 'cbor', inKey: ['talk'], separator: ':', withoutRowid: true }
};

interface Told {
	n: number;
	text: string;
	at: number;
	out: boolean;
	person: number;
}

describe('stores of keys and values', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-keys-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** What was written, of which every tenth was deleted, and the file. */
	function write(path: string, layout: Layout): Told[] {
		const { form, inKey, separator } = layout;
		const [id, talk, from, body, at, out] = layout.fields ?? ['id', 'conv', 'from', 'body', 'ts', 'out'];
		const r = new Random(31);
		const db = createDatabase(path, ['page_size=4096', 'secure_delete=off']);
		const without = layout.withoutRowid ? ' without rowid' : '';
		db.exec(`create table entry(key ${layout.bytes ? 'blob' : 'text'} primary key, value ${form === 'json' ? 'text' : 'blob'})${without}`);
		const keyOf = (...parts: (string | number)[]): string | Uint8Array => {
			const key = parts.join(separator);
			return layout.bytes ? new TextEncoder().encode(key) : key;
		};
		const add = (key: string | Uint8Array, value: object): void => void db.run('insert into entry values(?,?)', [key, WRITE[form](value)]);
		// Conversations are numbered otherwise than those whom they are with.
		const talkOf = (person: number): number => ((person * 5) % NAMES.length) + 1;
		NAMES.forEach((name, i) => add(keyOf('user', i + 1), { id: i + 1, name, phone: `+44770090010${i + 1}` }));
		NAMES.forEach((_, i) =>
			add(keyOf('conv', talkOf(i + 1)), { id: talkOf(i + 1), members: layout.withOwner ? [0, i + 1] : [i + 1], last: START })
		);
		for (const name of ['theme', 'sound', 'backup']) add(keyOf('set', name), { value: r.pick(['on', 'off', 'dark']) });
		const told = Array.from({ length: COUNT }, (_, i): Told => {
			const text = `${Array.from({ length: r.int(2, 9) }, () => r.pick(WORDS)).join(' ')} ${i}`;
			return { n: i + 1, text, at: START + i * 3_700_000, out: r.chance(0.4), person: r.int(1, NAMES.length) };
		});
		const keys = told.map((m) => {
			const parts = [...(inKey.includes('talk') ? [talkOf(m.person)] : []), ...(inKey.includes('time') ? [m.at] : []), m.n];
			const value = {
				[id]: m.n,
				...(inKey.includes('talk') ? {} : { [talk]: talkOf(m.person) }),
				...(m.out ? {} : { [from]: m.person }),
				[body]: m.text,
				...(inKey.includes('time') ? {} : { [at]: m.at }),
				[out]: m.out
			};
			add(keyOf('msg', ...parts), value);
			return keyOf('msg', ...parts);
		});
		for (let i = 9; i < COUNT; i += 10) db.run('delete from entry where key = ?', [keys[i]!]);
		db.close();
		return told;
	}

	function messagesOf(path: string): Message[] {
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		const { stores, weave } = look.findings();
		return weave.threads.flatMap((t) => t.messages.map((m) => plainMessage(m, stores, look.files, { hex: false, stored: false })));
	}

	Object.entries(LAYOUTS).forEach(([what, layout], i) =>
		it(`are read: ${what}`, () => {
			const path = join(folder, `${i}.db`);
			const told = write(path, layout);
			const file = readFileSync(path);
			// What was written over by what came after it is in no file.
			const isThere = (m: Told, k: number): boolean => k % 10 !== 9 || file.includes(m.text);
			const line = (text: string | null, at: number | null, out: boolean, who: string | null, kept: boolean): string =>
				JSON.stringify([text, at, out, who, kept]);
			assert.deepEqual(
				messagesOf(path)
					.map((m) => line(m.text, m.sentAt, m.direction === 'out', m.person, m.standing === 'kept'))
					.sort(),
				told.flatMap((m, k) => (isThere(m, k) ? [line(m.text, m.at, m.out, NAMES[m.person - 1]!, k % 10 !== 9)] : [])).sort()
			);
		})
	);
});
