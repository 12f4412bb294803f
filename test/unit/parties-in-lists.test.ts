/** Conversations of an XML file that list who takes part, and under them what was written. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { looked } from '../vectors/written';

const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const START = Date.UTC(2025, 0, 14, 6);
const said = (i: number): string => `Who has the key, asks the third floor ${i}${i % 4 === 0 ? ' ' : ''}`;
const party = (i: number): string => `<party name="${NAMES[i]!}" number="${number(i)}"/>`;

function message(i: number, writer: number | null): string {
	const by = writer === null ? 'dir="out"' : `dir="in" by="${number(writer)}"`;
	return `<message n="${i}" ${by} at="${new Date(START + i * 3_600_000).toISOString()}"><text>${said(i)}</text></message>`;
}

/** `room`: with a conversation of several. In the last one only the owner wrote. */
function file(room: boolean): Uint8Array {
	const talk = (id: number, parties: readonly number[], messages: string[], title = ''): string =>
		`<conversation id="${id}"${title}>\n${parties.map(party).join('\n')}\n${messages.join('\n')}\n</conversation>`;
	const both = (from: number, who: number): string[] => [0, 1, 2, 3, 4, 5].map((k) => message(from + k, k % 2 === 0 ? who : null));
	const talks = [talk(1, [1], both(0, 1)), talk(2, [2], both(10, 2)), talk(4, [3], [message(30, null), message(31, null)])];
	if (room) talks.push(talk(5, [1, 2], [message(40, 1), message(41, 2), message(42, null), message(43, 2)], ' title="Stairwell B"'));
	return new TextEncoder().encode(`<?xml version="1.0"?>\n<archive owner="${NAMES[0]!}">\n${talks.join('\n')}\n</archive>\n`);
}

describe('conversations that list who takes part', () => {
	for (const room of [false, true])
		it(`${room ? 'of two and of several' : 'of two'}: each message is with whom it lists, called so, and said to the letter`, () => {
			const { threads } = looked({ 'archive/all.xml': file(room) }).findings().weave;
			const messages = threads.flatMap((t) => t.messages.map((m) => m.first));
			assert.equal(messages.length, 14 + (room ? 4 : 0));
			for (const m of messages) {
				const i = (m.sentAt! - START) / 3_600_000;
				assert.equal(m.text, said(i));
				const other = i >= 40 ? [1, 2, null, 2][i - 40]! : [1, 2, 2, 3][Math.floor(i / 10)]!;
				assert.equal(m.correspondent?.address ?? null, other === null ? null : number(other), m.text);
				assert.equal(m.correspondent?.name ?? null, other === null ? null : NAMES[other]!, m.text);
			}
			assert.equal(threads.length, room ? 4 : 3);
		});
});
