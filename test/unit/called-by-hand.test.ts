/** Names that the user puts right are shown, and change nothing of who is whom. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Look } from '../../src/core/look';
import { looked, written } from '../vectors/written';

const START = 1_736_830_800;
const [ODILE, BRAM] = ['+447700900111', '+447700900222'];
const [store] = written((db, put) => {
	db.exec('create table note(id integer primary key, peer text, body text, at integer, mine integer)');
	for (let i = 0; i < 30; i++)
		put('note', i + 1, i % 3 ? ODILE : BRAM, `The meter is read again, line ${i}`, START + i * 3600, Number(i % 2 === 0));
});
const said = (look: Look): string[] =>
	look.findings().weave.threads.map((t) => `${t.id} ${t.title} ${t.messages.length} ${t.messages[0]!.first.correspondent!.address}`);
const CHAT = Array.from({ length: 12 }, (_, i) => `14/01/2025, 10:${10 + i} - ${i % 2 ? 'Odile M' : 'Me'}: Line ${i} of it`).join('\n');

describe('a name put in by hand', () => {
	it('is that of the thread, however the number is written, until it is taken back', () => {
		const look = looked({ 'note.db': store! });
		const before = said(look);
		look.callBy({ '07700 900111': 'Odile Marchetti' });
		const [odile] = look.findings().weave.threads.filter((t) => t.title === 'Odile Marchetti');
		assert.equal(odile!.messages.length, 20);
		assert.deepEqual(
			said(look),
			before.map((line) => line.replace(` ${ODILE} 20`, ' Odile Marchetti 20'))
		);
		look.callBy({});
		assert.deepEqual(said(look), before);
	});
	it('keeps whom the evidence knows by a name alone', () => {
		const look = looked({ 'chat.txt': new TextEncoder().encode(CHAT) }, 'Me');
		const [before] = look.findings().weave.threads.map((t) => t.id);
		look.callBy({ 'Odile M': 'Odile Marchetti' });
		const { threads } = look.findings().weave;
		assert.deepEqual(
			threads.map((t) => [t.id, t.title, t.messages[1]!.first.correspondent]),
			[[before, 'Odile Marchetti', { address: 'Odile M', name: 'Odile Marchetti' }]]
		);
	});
});
