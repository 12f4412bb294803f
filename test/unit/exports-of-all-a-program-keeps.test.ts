/**
 * Exports that say who and where in lists beside the messages, or in the place where they stand: one talk with each of two
 * and one with both, written in each form, and read to the same.
 */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { BRAM, clock, day, iso, isReadRight, ODILE, OF, OWN, ROOMS, SAID, type Said } from '../vectors/three-talks';

describe('all that a program keeps, in one list or several', () => {
	it('lines of accounts, persons, rooms and messages', async () => {
		const lines = [
			{ type: 'account', id: OWN.id, name: OWN.name, phone: OWN.number },
			...[ODILE, BRAM].map(({ id, name, number }) => ({ type: 'contact', id, name, phone: number })),
			...ROOMS.map((r) => ({ type: 'room', id: r.id, title: r.title, members: [OWN, ...r.members].map((p) => p.id) })),
			...SAID.flatMap((m, i) => [
				{ type: 'message', id: `m${i}`, room: m.room.id, from: m.who.id, at: iso(m.at), text: m.text },
				...(i % 5 === 2 ? [{ type: 'read', message: `m${i}`, from: m.room.members[0]!.id, at: iso(m.at + 9000) }] : [])
			])
		];
		await isReadRight({ 'export.ndjson': lines.map((l) => JSON.stringify(l)).join('\n') }, { owner: null });
	});

	it('elements around the lists, and nobody named where the owner wrote', async () => {
		const talks = OF.map(({ room, said }, i) => {
			const persons = room.members.map((p) => `<participant id="${p === ODILE ? 0 : 1}" name="${p.name}" number="${p.number}"/>`);
			const list = said.map(
				(m) => `<message sent="${iso(m.at)}"${m.who === OWN ? '' : ` from="${m.who === ODILE ? 0 : 1}"`}><text>${m.text}</text></message>`
			);
			const subject = room.title ? ` subject="${room.title}"` : '';
			return `<conversation id="${i + 1}"${subject}><participants>${persons.join('')}</participants>${list.join('\n')}</conversation>`;
		});
		await isReadRight({ 'archive.xml': `<?xml version="1.0"?><archive><owner name="${OWN.name}"/>${talks.join('\n')}</archive>` });
	});

	it('persons by their place in the list of the conversation', async () => {
		const files = OF.map(({ room, said }, i): [string, string] => {
			const participants = [{ name: OWN.name, me: true }, ...room.members.map((p) => ({ name: p.name, phone: p.number, me: false }))];
			const messages = said.map((m) => ({
				p: participants.findIndex((p) => p.name === m.who.name),
				t: m.at / 1000,
				b: m.text,
				...(m === SAID[4] ? { a: ['key.png'] } : {})
			}));
			return [`conversation_${i}/conversation.json`, JSON.stringify({ version: 3, title: room.title ?? '', participants, messages })];
		});
		await isReadRight({ ...Object.fromEntries(files), 'conversation_1/key.png': 'png' }, { files: 1, owner: null });
	});

	it('a conversation of which a word says the kind as well', async () => {
		const lines = SAID.map((m) => ({
			conversation: { id: m.room.id, name: m.room.title ?? m.room.members[0]!.name, kind: m.room.title ? 'group' : 'direct' },
			sender: { id: m.who.id, name: m.who.name, self: m.who === OWN },
			created: iso(m.at),
			content: [{ type: 'text', value: m.text }]
		}));
		await isReadRight({ 'messages.jsonl': lines.map((l) => JSON.stringify(l)).join('\n') }, { owner: null });
	});
});

describe('conversations as somebody would print them', () => {
	const page = (body: string): string => `<html><head><meta charset="utf-8"><title>Messages</title></head><body>${body}</body></html>`;
	const to = (m: Said): string => m.room.title ?? (m.who === OWN ? m.room.members[0]!.name : OWN.name);

	it('labelled lines whose file is called after the room that all was written to', async () => {
		const block = (m: Said): string =>
			`From: ${m.who.name}\nTo: ${to(m)}\nDate: ${day(m.at)} ${clock(m.at)}\n\n${m.text}\n\n${'-'.repeat(40)}\n`;
		await isReadRight(Object.fromEntries(OF.map(({ said, title }) => [`${title}.txt`, said.map(block).join('')])));
	});

	it('marked-up text with an empty line between head and words, and linked files', async () => {
		const written = OF.map(({ said, title }): [string, string] => {
			let last = '';
			const lines = said.map((m) => {
				const heading = day(m.at) === last ? '' : `\n## ${(last = day(m.at))}\n`;
				const file = m === SAID[4] ? '\n\n![key](files/key.png)' : '';
				return `${heading}\n**${m.who.name}** ${clock(m.at)}\n\n${m.text}${file}\n`;
			});
			return [`${title}.md`, `# ${title}\n${lines.join('')}`];
		});
		await isReadRight({ ...Object.fromEntries(written), 'files/key.png': 'png' }, { files: 1 });
	});

	it('lists of terms, each message one', async () => {
		const list = SAID.map(
			(m) =>
				`<dl><dt>From</dt><dd>${m.who.name}</dd><dt>To</dt><dd>${to(m)}</dd><dt>Sent</dt><dd>${day(m.at)} ${clock(m.at)}</dd><dt>Text</dt><dd>${m.text}</dd></dl>`
		);
		await isReadRight({ 'messages.html': page(list.join('\n')) });
	});

	it('a list for each day, also where little was written', async () => {
		const written = OF.map(({ said, title }): [string, string] => {
			const days = [...new Set(said.map((m) => day(m.at)))].map((d) => {
				const lines = said
					.filter((m) => day(m.at) === d)
					.map((m) => `<li><b>${m.who.name}</b> <small>${clock(m.at)}</small> ${m.text}</li>`);
				return `<h3>${d}</h3><ul>${lines.join('')}</ul>`;
			});
			assert.ok(days.some((d) => d.split('<li>').length === 2));
			return [`${title}.html`, page(`<h1>${title}</h1>${days.join('')}`)];
		});
		await isReadRight(Object.fromEntries(written));
	});
});
