/** Conversations written line by line in the ways of many places and programs, and rows that name both ends: all read to the same. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { lookAt } from '../vectors/look-at';
import { clock, day, iso, isReadRight, OF, OWN, SAID, type Said } from '../vectors/three-talks';

type Line = (m: Said, at: Date, i: number) => string;

/** A file for each talk, a line for each message. */
const filesOf = (line: Line, ending = 'txt', head = ''): Record<string, string> =>
	Object.fromEntries(
		OF.map(({ said, title }) => [`${title}.${ending}`, head + said.map((m, i) => `${line(m, new Date(m.at), i)}\n`).join('')])
	);
/** Lines under a heading for each day. */
function underDays(heading: (at: Date) => string, line: Line): Line {
	let last = '';
	return (m, at, i) => {
		const isNew = i === 0 || last !== day(m.at);
		last = day(m.at);
		return `${isNew ? `\n${heading(at)}\n` : ''}${line(m, at, i)}`;
	};
}
const two = (n: number): string => String(n).padStart(2, '0');
const hours = (at: Date): number => at.getUTCHours() % 12 || 12;
const isLate = (at: Date): boolean => at.getUTCHours() > 11;
const inDigits = (text: string, zero: number): string => text.replace(/\d/g, (d) => String.fromCharCode(zero + Number(d)));
const WEEKDAYS = '日月火水木金土';
const MONTHS = ['I', 'II'];

describe('conversations line by line', () => {
	it('with marks of direction within the date, and other digits', () => {
		const stamp = (at: Date): string =>
			`${at.getUTCDate()}\u200f/${at.getUTCMonth() + 1}\u200f/${at.getUTCFullYear()}، ${hours(at)}:${two(at.getUTCMinutes())}:${two(at.getUTCSeconds())} ${isLate(at) ? 'م' : 'ص'}`;
		return isReadRight(filesOf((m, at) => `${inDigits(stamp(at), 0x660)} - ${m.who.name}: ${m.text}`));
	});
	it('with words for the half of the day', () => {
		const stamp = (at: Date): string =>
			`${at.getUTCDate()}/${at.getUTCMonth() + 1}/${at.getUTCFullYear()}, ${hours(at)}:${two(at.getUTCMinutes())}:${two(at.getUTCSeconds())} ${isLate(at) ? 'अपराह्न' : 'पूर्वाह्न'}`;
		return isReadRight(filesOf((m, at) => `${inDigits(stamp(at), 0x966)} - ${m.who.name}: ${m.text}`));
	});
	it('with a word behind the date and one behind the time', () =>
		isReadRight(
			filesOf(
				(m, at) =>
					`${at.getUTCDate()}.${two(at.getUTCMonth() + 1)}.${String(at.getUTCFullYear()).slice(2)} г., ${at.getUTCHours()}:${clock(m.at).slice(3)} ч. - ${m.who.name}: ${m.text}`
			)
		));
	it('with a mark of direction behind the date', () =>
		isReadRight(
			filesOf(
				(m, at) =>
					`${inDigits(`${at.getUTCFullYear()}/${at.getUTCMonth() + 1}/${at.getUTCDate()}،\u200f ${clock(m.at)}`, 0x6f0)} - ${m.who.name}: ${m.text}`
			)
		));
	it('with the weekday in brackets within the stamp, and tabs', () =>
		isReadRight(
			filesOf((m, at) => `${day(m.at).replaceAll('-', '/')}(${WEEKDAYS[at.getUTCDay()]}) ${clock(m.at)}\t${m.who.name}\t${m.text}`)
		));
	it('with wide colons and brackets', async () => {
		const stamp = (at: Date): string =>
			`${at.getUTCFullYear()}年${at.getUTCMonth() + 1}月${at.getUTCDate()}日 ${isLate(at) ? '下午' : '上午'}${hours(at)}:${two(at.getUTCMinutes())}:${two(at.getUTCSeconds())}`;
		const lines = filesOf((m, at) => `${stamp(at)} - ${m.who.name}：${m.text}`);
		await isReadRight(lines);
		const withFile = `${lines['Odile Marchetti.txt']!}${stamp(new Date(SAID[0]!.at + 30 * 86_400_000))} - Odile Marchetti：cellar.jpg（附件）\n`;
		const look = await lookAt({ 'Odile Marchetti.txt': withFile }, OWN.name);
		const last = look.findings().weave.threads[0]!.messages.at(-1)!.first;
		assert.deepEqual([last.text, last.files.map((f) => f.name)], [null, ['cellar.jpg']]);
	});
	it('with months as numerals', () =>
		isReadRight(
			filesOf((m, at) => `${at.getUTCDate()}.${MONTHS[at.getUTCMonth()]}.${at.getUTCFullYear()} ${clock(m.at)} ${m.who.name}: ${m.text}`)
		));
	it('under days with their weekday in brackets', () =>
		isReadRight(
			filesOf(
				underDays(
					(at) => `${at.getUTCFullYear()}/${two(at.getUTCMonth() + 1)}/${two(at.getUTCDate())}(${WEEKDAYS[at.getUTCDay()]})`,
					(m) => `${clock(m.at)}\t${m.who.name}\t${m.text}`
				)
			)
		));
	it('counted, with a word for the way', () =>
		isReadRight(
			filesOf(
				(m, _, i) => `#${i + 71} | ${day(m.at)} ${clock(m.at)} UTC | ${m.who === OWN ? 'sent' : 'received'} | ${m.who.name}\n${m.text}`
			)
		));
	it('with seconds since 1970 and both ends, in one file', () => {
		const to = (m: Said): string => m.room.title ?? (m.who === OWN ? m.room.members[0]!.name : OWN.name);
		return isReadRight({ 'all.log': SAID.map((m) => `${m.at / 1000} ${m.who.name} -> ${to(m)}: ${m.text}`).join('\n') });
	});
	it('as letters of which each has a head alone that mail has too', () =>
		isReadRight(
			filesOf((m) => {
				const to = m.room.title ?? (m.who === OWN ? m.room.members[0]!.name : OWN.name);
				return `From: ${m.who.name}\nTo: ${to}\nDate: ${new Date(m.at).toUTCString().replace('GMT', '+0000')}\n\n${m.text}\n\n${'-'.repeat(30)}`;
			})
		));

	const head = (i: number): string => `14.01.2025, 10:${two(i)}:00 - `;
	const textsOf = async (files: Record<string, string>): Promise<(string | null)[]> =>
		(await lookAt(files, OWN.name)).findings().weave.threads.flatMap((t) => t.messages.map(({ first }) => first.text));
	const names = [OWN.name, 'Odile Marchetti'];

	it('texts of several lines in quotes, where a tab parts them', async () => {
		const said = ['one', '"two\nand ""half"""', 'three', '"four"'];
		const lines = said.map((text, i) => `10:0${i}\t${names[i % 2]}\t${text}`).join('\n');
		assert.deepEqual(await textsOf({ 'talk.txt': `2025/01/14(火)\n${lines}\n` }), ['one', 'two\nand "half"', 'three', '"four"']);
	});
	it('signs in the place of line breaks are opened, where no text has any', async () => {
		const said = ['one\\ntwo', 'three', 'four\\nfive', 'a "six"', 'seven\\neight'];
		const lines = said.map((text, i) => `${head(i)}${names[i % 2]}: ${text}`).join('\n');
		assert.deepEqual(await textsOf({ 'talk.txt': lines }), ['one\ntwo', 'three', 'four\nfive', 'a "six"', 'seven\neight']);
		assert.deepEqual(await textsOf({ 'talk.txt': lines.replace('three', 'C:\\data\\new') }), [said[0]!, 'C:\\data\\new', ...said.slice(2)]);
	});
	it('what somebody puts in brackets on a line of its own stays his', async () => {
		const said = ['the key is there\n[see below]', 'thank you', 'no, it is not\n[see below]', 'where then?'];
		assert.deepEqual(await textsOf({ 'talk.txt': said.map((text, i) => `${head(i)}${names[i % 2]}: ${text}`).join('\n') }), said);
	});
	it('one file under a label of two words, where it lies beside', async () => {
		const said = ['Attached file: key.png', 'thank you', 'my file: none', 'well'];
		const look = await lookAt(
			{ 'talk.txt': said.map((text, i) => `${head(i)}${names[i % 2]}: ${text}`).join('\n'), 'key.png': 'png' },
			OWN.name
		);
		const all = look.findings().weave.threads.flatMap((t) => t.messages.map(({ first: m }) => [m.text, m.files.map((f) => f.name)]));
		assert.deepEqual(all, [[null, ['key.png']], ...said.slice(1).map((text) => [text, []])]);
	});
});

describe('records that name both ends', () => {
	it('by the place in a list of names, the words in parts', () => {
		const conversations = OF.map(({ room, said }) => {
			const participants = [room.members[0]!.name, OWN.name, ...room.members.slice(1).map((p) => p.name)];
			const messages = said.map((m) => ({
				author: participants.indexOf(m.who.name),
				created: iso(m.at),
				parts: [{ type: 'text', value: m.text }, ...(m === SAID[4] ? [{ type: 'file', value: 'files/key.png', size: 3 }] : [])]
			}));
			return { title: room.title, participants, messages };
		});
		return isReadRight({ 'archive.json': JSON.stringify({ conversations }), 'files/key.png': 'png' }, { files: 1 });
	});
	it('in a list of all to whom a row was written', () => {
		const to = (m: Said): string =>
			[OWN, ...m.room.members]
				.filter((p) => p !== m.who)
				.map((p) => p.name)
				.reverse()
				.join(', ');
		const rows = SAID.map((m) => [day(m.at), clock(m.at), m.who.name, to(m), m.text].join(';'));
		return isReadRight({ 'messages.csv': ['Date;Time;From;To;Body', ...rows].join('\n') });
	});
	it('in a document within each row', () => {
		const quoted = (value: unknown): string => `"${JSON.stringify(value).replaceAll('"', '""')}"`;
		const rows = SAID.map((m) => `${m.room.id}-talk,${iso(m.at)},${quoted({ from: { name: m.who.name, me: m.who === OWN } })},${m.text}`);
		const talks = OF.map(({ room }) => `${room.id}-talk,${room.title ?? ''},${[OWN, ...room.members].map((p) => p.name).join('|')}`);
		return isReadRight({
			'data/messages.csv': ['conversation_id,created_at,meta,content', ...rows].join('\n'),
			'data/conversations.csv': ['conversation_id,title,members', ...talks].join('\n')
		});
	});
	it('as entries of a feed, files beside', () => {
		const entry = (m: Said): string => {
			const link = m === SAID[5] || m === SAID[2] ? '<link rel="enclosure" type="image/png" length="3" href="key.png"/>' : '';
			return `<entry><id>urn:x:${m.at}</id><author><name>${m.who.name}</name></author><published>${iso(m.at)}</published><content type="text">${m.text}</content>${link}</entry>`;
		};
		const files = OF.map(({ said, title }, i) => [
			`${i}.xml`,
			`<?xml version="1.0"?>\n<feed xmlns="http://www.w3.org/2005/Atom"><title>${title}</title>${said.map(entry).join('\n')}</feed>`
		]);
		return isReadRight({ ...Object.fromEntries(files), 'key.png': 'png' }, { files: 2 });
	});
	it('by a way, and a name in rooms alone', () => {
		const c = OF.map(({ room, said, title }) => ({
			n: title,
			g: Number(room.title !== null),
			m: said.map((m) => ({
				t: m.at / 1000,
				d: m.who === OWN ? 'o' : 'i',
				...(room.title && m.who !== OWN ? { u: m.who.name } : {}),
				x: m.text
			}))
		}));
		return isReadRight({ 'backup.json': JSON.stringify({ v: 3, c }) });
	});
});
