/** A program that keeps a file for each conversation: a folder of them is one store, in each of its captures. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { looked } from '../vectors/written';

const START = Date.UTC(2025, 0, 14, 6);
const HOUR = 3_600_000;
const PEOPLE = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const ROOMS = [
	{ id: '7c1e8a52', title: null, people: [1], from: 0, to: 9 },
	{ id: '90ab3f17', title: null, people: [2], from: 20, to: 26 },
	{ id: 'd4420c6e', title: 'Stairwell B', people: [1, 2, 3], from: 40, to: 50 },
	{ id: 'e7710bb2', title: null, people: [3], from: 60, to: 61 }
];
const said = (i: number): string => `They come at noon with the key for the cellar, number ${i}`;
/** In each conversation the owner, who is person 0, writes every other message. */
const writer = (people: readonly number[], i: number): number => (i % 2 === 0 ? people[(i / 2) % people.length]! : 0);

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const people = bytes(JSON.stringify(PEOPLE.map((name, i) => ({ id: `p${i}`, name, phone: number(i), me: i === 0 }))));

type Made = (room: (typeof ROOMS)[number], messages: object[]) => string;
const inLines: Made = ({ id, title, people: with_ }, messages) =>
	[{ conversation: id, title, people: [...with_, 0].map((i) => `p${i}`) }, ...messages].map((line) => JSON.stringify(line)).join('\n') +
	'\n';
const inOne: Made = ({ id, title, people: with_ }, messages) =>
	JSON.stringify({ conversation: id, title, people: [...with_, 0].map((i) => `p${i}`), messages }, null, 1);

function folder(at: string, ending: string, made: Made, isLeft: (i: number) => boolean): Record<string, Uint8Array> {
	const files: Record<string, Uint8Array> = { [`${at}/chatlog/people.json`]: people };
	for (const room of ROOMS) {
		const messages = [];
		for (let i = room.from; i <= room.to; i++) {
			const time = new Date(START + i * HOUR).toISOString();
			if (isLeft(i)) messages.push({ id: `m-${1000 + i * 17}`, from: `p${writer(room.people, i)}`, time, text: said(i) });
		}
		if (messages.length > 0) files[`${at}/chatlog/${room.id}.${ending}`] = bytes(made(room, messages));
	}
	return files;
}

describe('files of one conversation each, in a folder', () => {
	for (const [ending, made] of [
		['jsonl', inLines],
		['json', inOne]
	] as const)
		it(`are one store, whose persons stand in a file beside them (${ending})`, () => {
			const { stores, weave } = looked(folder('Laptop', ending, made, () => true)).findings();
			assert.equal(stores.length, 1);
			assert.equal(weave.threads.length, ROOMS.length);
			for (const room of ROOMS) {
				const thread = weave.threads.find((t) => t.messages.some((m) => m.first.text === said(room.from)))!;
				assert.equal(thread.messages.length, room.to - room.from + 1);
				for (const [k, { first }] of thread.messages.entries()) {
					const i = room.from + k;
					const who = writer(room.people, i);
					assert.deepEqual([first.text, first.sentAt, first.direction], [said(i), START + i * HOUR, who === 0 ? 'out' : 'in']);
					const other = who === 0 ? (room.title ? null : room.people[0]!) : who;
					assert.equal(first.correspondent?.address ?? null, other === null ? null : number(other));
					assert.equal(first.correspondent?.name ?? null, other === null ? null : PEOPLE[other]);
				}
			}
		});

	it('are captures of it where the folder was copied twice: a conversation whose file is gone was deleted', () => {
		const isGone = (i: number): boolean => i === 4 || (i >= 20 && i <= 26);
		const { weave } = looked({
			...folder('copy 2025-02-01', 'jsonl', inLines, () => true),
			...folder('copy 2025-03-01', 'jsonl', inLines, (i) => !isGone(i))
		}).findings();
		assert.equal(weave.families.length, 1);
		assert.equal(weave.families[0]!.captures.length, 2);
		const messages = weave.threads.flatMap((t) => t.messages);
		assert.equal(messages.length, 9 + 1 + 7 + 11 + 2);
		for (const m of messages) {
			const i = Number(/\d+$/.exec(m.first.text!)![0]);
			assert.equal(m.standing, isGone(i) ? 'dropped' : 'kept', m.first.text!);
		}
	});

	it('are captures of it where everything but the newest had gone in between, with a file for each message as well', () => {
		const day = (at: string, from: number): Record<string, Uint8Array> => {
			const files: Record<string, Uint8Array> = { [`${at}/store/people.json`]: people };
			for (let i = from; i < from + 24; i++) {
				const room = ROOMS[i % 3]!;
				const author = `p${writer(room.people, Math.floor(i / 3))}`;
				const created = START + i * HOUR;
				files[`${at}/store/talks/talk-${room.id}/${created}-${1000 + i * 17}.json`] = bytes(
					JSON.stringify({
						id: `m-${1000 + i * 17}`,
						talk: `talk-${room.id}`,
						author,
						created: new Date(created).toISOString(),
						body: said(i)
					})
				);
			}
			return files;
		};
		const { weave } = looked({ ...day('copy 1', 0), ...day('copy 2', 500) }).findings();
		assert.equal(weave.families.length, 1);
		assert.equal(weave.threads.length, 3);
		for (const m of weave.threads.flatMap((t) => t.messages))
			assert.equal(m.standing, Number(/\d+$/.exec(m.first.text!)![0]) < 24 ? 'dropped' : 'kept', m.first.text!);
	});
});
