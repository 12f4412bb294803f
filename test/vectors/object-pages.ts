/** What a page does that keeps its conversations in object stores: scripts for `leftByPage`, and what must come of them. */

const TEXTS = [
	'The boiler failed again on the ninth day',
	'سأكتب إلى المكتب غداً',
	'Please credit the month as we agreed',
	'锅炉又停了,请回复',
	'The meter says 4 711, and it is cold'
];
const START = Date.UTC(2025, 0, 10, 11, 5);
const OWNER = 'p0';
const PEOPLE = [
	{ id: 'p1', name: 'Odile Marchetti', phone: '+447700900123' },
	{ id: 'p2', name: 'Tamsin Okafor', phone: '+447700900124' },
	{ id: 'p3', name: 'Noor al-Khatib', phone: '+447700900125' }
];

export interface ObjectMessage {
	id: string;
	conversationId: string;
	senderId: string;
	body: string;
	sentAt: number;
}

/** 120 messages of three conversations of two and a group. */
export const OBJECT_MESSAGES: readonly ObjectMessage[] = Array.from({ length: 120 }, (_, i) => {
	const isGroup = i % 5 === 0;
	const other = PEOPLE[isGroup ? i % 2 : i % 3]!;
	return {
		id: `m-${(i * 7919) % 997}-${i}`,
		conversationId: isGroup ? 'conv-g' : `conv-${other.id}`,
		senderId: i % 4 === 0 ? OWNER : other.id,
		body: `${TEXTS[i % TEXTS.length]} (${i})`,
		sentAt: START + i * 61_000
	};
});

export const isDeleted = (i: number): boolean => i % 12 === 3;
export const isEdited = (i: number): boolean => i % 50 === 7;
export const hasFile = (i: number): boolean => i % 40 === 6;
export const fileText = (i: number): string => `reading of the meter, sheet ${i}`;
export const isOut = (m: ObjectMessage): boolean => m.senderId === OWNER;
export const personOf = (m: ObjectMessage): string | null =>
	m.conversationId === 'conv-g' ? null : (PEOPLE.find((p) => m.conversationId === `conv-${p.id}`)?.name ?? null);

const numbered = (test: (i: number) => boolean): number[] => [...OBJECT_MESSAGES.keys()].filter(test);

/** Puts persons, conversations and messages into object stores, deletes some, writes some anew; files are put beside. */
export const OBJECT_PAGE = `
	const done = (t) => new Promise((ok, no) => { t.oncomplete = ok; t.onabort = () => no(t.error); });
	const db = await new Promise((ok, no) => {
		const request = indexedDB.open('wicker', 3);
		request.onupgradeneeded = () => {
			const messages = request.result.createObjectStore('messages', { keyPath: 'id' });
			messages.createIndex('byConversation', ['conversationId', 'sentAt']);
			for (const name of ['conversations', 'contacts']) request.result.createObjectStore(name, { keyPath: 'id' });
			request.result.createObjectStore('settings');
		};
		request.onsuccess = () => ok(request.result);
		request.onerror = () => no(request.error);
	});
	const people = ${JSON.stringify([...PEOPLE, { id: OWNER, name: 'Piet Hallorann', phone: '+447700900100', isMe: true }])};
	const messages = ${JSON.stringify(OBJECT_MESSAGES)};
	let t = db.transaction(['messages', 'conversations', 'contacts', 'settings'], 'readwrite');
	for (const person of people) t.objectStore('contacts').put(person);
	for (const { id } of people.slice(0, 3)) t.objectStore('conversations').put({ id: 'conv-' + id, members: ['${OWNER}', id] });
	t.objectStore('conversations').put({ id: 'conv-g', title: 'Plant desk', members: ['${OWNER}', 'p1', 'p2'] });
	t.objectStore('settings').put({ me: '${OWNER}' }, 'account');
	const files = new Map(${JSON.stringify(numbered(hasFile).map((i) => [i, fileText(i)]))});
	for (const [i, m] of messages.entries()) {
		const put = { ...m, sentAt: new Date(m.sentAt) };
		if (files.has(i)) put.attachment = { name: 'sheet-' + i + '.txt', type: 'text/plain', size: files.get(i).length, data: new Blob([files.get(i)]) };
		t.objectStore('messages').put(put);
	}
	await done(t);
	t = db.transaction('messages', 'readwrite');
	for (const i of ${JSON.stringify(numbered(isDeleted))}) t.objectStore('messages').delete(messages[i].id);
	for (const i of ${JSON.stringify(numbered(isEdited))}) t.objectStore('messages').put({ ...messages[i], sentAt: new Date(messages[i].sentAt), body: messages[i].body + ', put right' });
	await done(t);
	localStorage.setItem('draft', 'not sent yet');
	await new Promise((ok) => setTimeout(ok, 300));
	db.close();
`;
