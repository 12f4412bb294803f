/** Exports that hold several conversations, or come as several files: each message in its thread, the owner told from all. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';

const OWNER = 'Piet Hallorann';
const OTHERS = ['Odile Marchetti', 'dr. Bram Vesterholt', '李雯'];
const GROUP = 'Stairwell';

interface Sent {
	/** The one written with, or the group. */
	thread: string;
	writer: string;
	at: number;
	text: string;
}

const WORDS = ['The heating is off again', 'One month is credited', 'Who has the key to the cellar?', 'see you at the meeting, then', 'ok'];
/** Three conversations of two, and a group in which one other alone writes beside the owner. */
const STORY: readonly Sent[] = [...OTHERS, GROUP].flatMap((thread, t) =>
	Array.from({ length: 8 + t }, (_, i): Sent => {
		const other = thread === GROUP ? OTHERS[2]! : thread;
		return {
			thread,
			writer: (i + t) % 3 === 0 ? OWNER : other,
			at: Date.UTC(2025, 0, 10 + t, 9, 7 * i, 13 + t),
			text: `${WORDS[(i + t) % 5]} ${t}.${i}`
		};
	})
);
const membersOf = (thread: string): string[] => [OWNER, ...(thread === GROUP ? OTHERS : [thread])];
const iso = (at: number): string => new Date(at).toISOString().replace('.000', '');
const of = (thread: string): Sent[] => STORY.filter((s) => s.thread === thread);
const THREADS = [...OTHERS, GROUP];

function read(
	files: Record<string, string>,
	owner: string | null = null
): Map<string, { direction: string | null; thread: string; other: string | null }> {
	const messages = lookAt(files, owner)
		.findings()
		.weave.threads.flatMap((t) => t.messages);
	return new Map(
		messages.map((m) => [
			m.first.text!,
			{
				direction: m.first.direction,
				thread: m.thread,
				other: m.first.correspondent && (m.first.correspondent.name ?? m.first.correspondent.address)
			}
		])
	);
}

function lookAt(files: Record<string, string>, owner: string | null = null): Look {
	const given = Object.entries(files).map(([path, content]) => ({
		name: path.slice(path.lastIndexOf('/') + 1),
		path,
		source: new MemorySource(new TextEncoder().encode(content))
	}));
	const look = new Look(given, { reach: 'raw', owner });
	for (const event of look.run()) void event;
	return look;
}

function holds(found: ReturnType<typeof read>, story: readonly Sent[] = STORY): void {
	assert.deepEqual([...found.keys()].sort(), story.map((s) => s.text).sort());
	const threads = new Map<string, Set<string>>();
	for (const s of story) {
		const { direction, thread, other } = found.get(s.text)!;
		assert.equal(direction, s.writer === OWNER ? 'out' : 'in', s.text);
		if (s.writer !== OWNER) assert.equal(other, s.writer, s.text);
		else if (s.thread !== GROUP) assert.equal(other, s.thread, s.text);
		threads.set(s.thread, (threads.get(s.thread) ?? new Set()).add(thread));
	}
	assert.ok(
		[...threads.values()].every((ids) => ids.size === 1),
		'a thread fell apart'
	);
	assert.equal(new Set([...threads.values()].flatMap((ids) => [...ids])).size, threads.size, 'two threads are one');
}

const page = (thread: string): string =>
	`<html><head><title>${thread}</title></head><body><h1>${thread}</h1><section>${of(thread)
		.map((s) => `<article><h4>${s.writer}</h4><time datetime="${iso(s.at)}">${iso(s.at)}</time><p>${s.text}</p></article>`)
		.join('\n')}</section></body></html>`;
const ofTwo = STORY.filter((s) => s.thread !== GROUP);

describe('several conversations', () => {
	it('in one list, told apart by a column of names and of a group', () => {
		const rows = STORY.toSorted((a, b) => a.at - b.at).map((s) => [s.thread, s.writer, iso(s.at), s.text].map((v) => `"${v}"`).join(','));
		holds(read({ 'chats.csv': ['Conversation,Sender,Sent at,Message', ...rows].join('\n') }));
	});
	it('in one file of records, which lists the members of each', () => {
		const chats = THREADS.map((thread, id) => ({
			id,
			name: thread,
			members: membersOf(thread),
			messages: of(thread).map((s) => ({ date: iso(s.at), from: s.writer, text: s.text }))
		}));
		const content = JSON.stringify({ chats });
		holds(read({ 'export.json': content }));
		const [store] = lookAt({ 'export.json': content }).readings();
		const columns = store!.tables.find((t) => t.name === 'chats')!.columns;
		assert.equal(columns.find((c) => c.name === 'members')!.role, 'members', 'what it was told by is shown');
		// Whose export it is stands beside the conversations: the one file is with nobody for that.
		const named = JSON.stringify({ exported_for: OWNER, chats });
		holds(read({ 'export.json': named }));
		const [own] = lookAt({ 'export.json': named }).readings();
		assert.equal(own!.tables.find((t) => t.name === 'chats')!.columns.find((c) => c.name === '(file)')!.role, 'none');
	});
	it('as a page each, without a word of whose they are', () => {
		holds(read(Object.fromEntries(OTHERS.map((thread) => [`chats/${thread.replaceAll(' ', '_')}.html`, page(thread)]))), ofTwo);
	});
	it('as a file of records each, in folders of their own', () => {
		const files = OTHERS.map((thread, i) => [
			`chats/${i}/part_1.json`,
			JSON.stringify({
				participants: membersOf(thread).map((name) => ({ name })),
				messages: of(thread)
					.map((s) => ({ sender_name: s.writer, timestamp_ms: s.at, content: s.text }))
					.reverse(),
				title: thread
			})
		]);
		holds(read(Object.fromEntries(files)), ofTwo);
	});
	it('a page that is called otherwise than after the one other who writes in it is a group’s', () => {
		holds(read(Object.fromEntries(THREADS.map((thread) => [`chats/${thread.replaceAll(' ', '_')}.html`, page(thread)])), OWNER));
	});
	it('a list of who takes part makes a group also where one other alone wrote', () => {
		const files = THREADS.map((thread, i) => [
			`chats/${i}/part_1.json`,
			JSON.stringify({
				participants: membersOf(thread).map((name) => ({ name })),
				messages: of(thread).map((s) => ({ sender_name: s.writer, timestamp_ms: s.at, content: s.text }))
			})
		]);
		holds(read(Object.fromEntries(files), OWNER));
	});
	it('as a text each: where the owner did not write all was written to him', () => {
		const story = ofTwo.filter((s) => s.thread !== OTHERS[1] || s.writer !== OWNER);
		const files = OTHERS.map((thread) => [
			`Chat with ${thread}.txt`,
			story
				.filter((s) => s.thread === thread)
				.map((s) => `${iso(s.at).slice(0, 10)}, ${iso(s.at).slice(11, 16)} - ${s.writer}: ${s.text}`)
				.join('\n')
		]);
		holds(read(Object.fromEntries(files), OWNER), story);
	});
	it('in one list of numbers, of which a column says yes or no to being sent', () => {
		const numbers = OTHERS.map((_, i) => `07700 90014${i}`);
		const entries = ofTwo
			.toSorted((a, b) => a.at - b.at)
			.map((s) => `<sms number="${numbers[OTHERS.indexOf(s.thread)]}" stamp="${iso(s.at)}" sent="${s.writer === OWNER}">${s.text}</sms>`);
		const book = OTHERS.map((name, i) => `${name},+44 7700 90014${i}`);
		const found = read({ 'sms.xml': `<list>${entries.join('\n')}</list>`, 'names.csv': ['Name,Mobile', ...book].join('\n') });
		holds(found, ofTwo);
	});
});

it('few messages of many with full names are a conversation; as many lines of a plan are none', () => {
	const line = (i: number, who: string): string => `14/01/2025, 10:0${i} - ${who}: This is what number ${i} has to say`;
	const writers = ['Odile Marchetti', 'Bram Vesterholt', 'Tamsin Okafor', 'Yusuf Demirkan', 'Bram Vesterholt', OWNER];
	assert.equal(read({ 'talk.txt': writers.map((w, i) => line(i, w)).join('\n') }, OWNER).size, 6);
	const plan = ['Opening', 'Minutes of the last meeting', 'Heating', 'Any other business', 'Closing', 'Coffee'];
	assert.equal(read({ 'plan.txt': plan.map((w, i) => line(i, w)).join('\n') }, OWNER).size, 0);
});
