/**
 * Exports as pages: a page to a message, sides that only a class or a style tells, a table of all, a conversation under each
 * heading, what a page has in its script; and records under headings in brackets. Read to the same three talks.
 */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { lookAt } from '../vectors/look-at';
import { clock, day, iso, isReadRight, OF, OWN, SAID, type Said } from '../vectors/three-talks';

const nameOf = (m: Said): string => m.room.title ?? m.room.members[0]!.name;
const page = (head: string, body: string): string =>
	`<!doctype html><html><head><meta charset="utf-8">${head}</head><body>${body}</body></html>`;
const isOwn = (m: Said): boolean => m.who === OWN;

describe('pages', () => {
	it('one for each message', () => {
		const files = SAID.map((m, n): [string, string] => [
			`pages/${String(n).padStart(4, '0')}.html`,
			page(
				`<title>${nameOf(m)}</title><meta name="author" content="${m.who.name}"><meta name="viewport" content="width=device-width">`,
				`<h1>${nameOf(m)}</h1><p class="from">${m.who.name}</p><time datetime="${iso(m.at)}">${clock(m.at)}</time><div class="body">${m.text}</div>`
			)
		]);
		return isReadRight(Object.fromEntries(files));
	});

	/** Pages of bubbles under days: who wrote is named in the room alone, and only where it was not the owner. */
	const bubbles = (style: string, own: string, other: string, talks = OF): Record<string, string> =>
		Object.fromEntries(
			talks.map(({ title, said, room }) => {
				const lines = said.map((m, i) => {
					const head = i > 0 && day(said[i - 1]!.at) === day(m.at) ? '' : `<div class="k">${day(m.at)}</div>`;
					const who = room.title && !isOwn(m) ? `<b>${m.who.name}</b>` : '';
					return `${head}<div class="b ${isOwn(m) ? own : other}">${who}<p>${m.text}</p><small>${clock(m.at)}</small></div>`;
				});
				return [`${title}.html`, page(`<title>${title}</title><style>${style}</style>`, `<h1>${title}</h1>${lines.join('\n')}`)];
			})
		);
	it('of bubbles, the sides told by who is named in the room', () => isReadRight(bubbles('', 'z', 'q')));
	it('of bubbles, the sides told by the style', () =>
		isReadRight(bubbles('.b{padding:4px} .x1{align-self:flex-start} .x2 {color:red; align-self: flex-end}', 'x2', 'x1')));
	it('of which a class says that one follows another of the same writer', async () => {
		const own = SAID.slice(0, 18).map((m, n) => ({
			...m,
			name: n % 6 < 3 ? OWN.name : n % 12 < 6 ? 'Odile Marchetti' : 'Bram Vesterholt'
		}));
		const lines = own.map((m, n) => {
			const follows = own[n - 1]?.name === m.name;
			const name = follows ? '' : `<div class="name">${m.name}</div>`;
			return `<div class="m${follows ? ' joined' : ''}"><div class="at" title="${iso(m.at)}">${clock(m.at).slice(0, 5)}</div>${name}<div class="text">${m.text}</div></div>`;
		});
		const look = await lookAt({ 'Cellar.html': page('<title>Cellar</title>', `<div class="history">${lines.join('')}</div>`) }, OWN.name);
		assert.deepEqual(
			look.findings().weave.threads.flatMap((t) => t.messages.map(({ first }) => [first.text, first.direction])),
			own.map((m) => [m.text, m.name === OWN.name ? 'out' : 'in'])
		);
	});
	it('of bubbles say no way where neither the style nor a name tells the sides', async () => {
		const look = await lookAt(bubbles('.z{color:red}', 'z', 'q', OF.slice(0, 1)), OWN.name);
		assert.ok(look.findings().weave.threads.every((t) => t.messages.every((m) => m.first.direction === null)));
	});

	it('of one table, the newest first, with the conversation and the party', () => {
		const rows = SAID.toReversed().map(
			(m) =>
				`<tr><td>${day(m.at).split('-').reverse().join('.')} ${clock(m.at)}</td><td>${nameOf(m)}</td><td>${isOwn(m) ? 'Outgoing' : 'Incoming'}</td><td>${isOwn(m) ? (m.room.title ? '' : nameOf(m)) : m.who.name}</td><td>${m.text}</td></tr>`
		);
		const head = '<tr><th>Date</th><th>Conversation</th><th>Direction</th><th>Party</th><th>Message</th></tr>';
		return isReadRight({ 'report.html': page('', `<table>${head}${rows.join('')}</table>`) });
	});

	it('of lists, each under the name and the number of whom it is with', () => {
		const talks = OF.map(({ said, room, title }) => {
			const lines = said.map(
				(m) => `<li><b>${m.who.name}</b> <i title="${iso(m.at)}">${clock(m.at).slice(0, 5)}</i>: <span>${m.text}</span></li>`
			);
			return `<section><h2>${room.title ?? `${title} (${room.members[0]!.number})`}</h2><ol>${lines.join('')}</ol></section>`;
		});
		return isReadRight({ 'all.html': page('<title>All</title>', talks.join('')) });
	});
});

describe('what a script has as its data', () => {
	const talks = OF.map(({ title, said }) => ({
		title,
		lines: said.map((m) => ({ by: m.who.name, when: m.at, what: `${m.text.slice(0, 3)}${m.text.slice(3)}` }))
	}));
	const script = (value: unknown): string => JSON.stringify(value).replaceAll('</', '<\\/');
	it('in the page that shows it', () =>
		isReadRight({
			'viewer.html': page(
				'<title>Archive</title>',
				`<div id="app"></div><script>const LABELS = {"a": [1, 2]};\nconst ARCHIVE = ${script(talks)};\nshow(ARCHIVE);</script>`
			)
		}));
	it('as a value of its own type', () =>
		isReadRight({ 'viewer.html': page('', `<script>run("{");</script><script type="application/json">${script(talks)}</script>`) }));
	it('in scripts of their own', () =>
		isReadRight(
			Object.fromEntries(
				talks.map(({ title, lines }, i) => [
					`data/${i}.js`,
					`window.archive = window.archive || [];\nwindow.archive.push(${script({ title, messages: lines })});\n`
				])
			)
		));
	it('is none where nothing closes, however often it begins', async () => {
		const open = `const a = ${'[{"a": '.repeat(40_000)}`;
		const look = await lookAt({ 'a.js': open, 'b.html': page('', `<p>2025-01-14 10:00</p><script>${open}</script>`) }, OWN.name);
		assert.equal(look.findings().weave.threads.length, 0);
	});
});

describe('records under headings in brackets', () => {
	const entry = (m: Said, i: number): string =>
		`[message ${i + 17}]\nconversation=${nameOf(m)}\nfrom=${m.who.name}\ndate=${day(m.at)} ${clock(m.at)}\ntext=${m.text}\n`;
	it('are messages', () => isReadRight({ 'messages.ini': `; kept by the program\n${SAID.map(entry).join('\n')}` }));
});

describe('lines of a text in XML', () => {
	it('stay where the text is given as it is', async () => {
		const text = 'Please bring the key\nof the cellar,\n\n and the lamp';
		const list = SAID.map(
			(m, n) => `<message from="${m.who.name}" time="${iso(m.at)}"><body><![CDATA[${n === 4 ? text : m.text}]]></body></message>`
		);
		const look = await lookAt({ 'a.xml': `<?xml version="1.0"?><archive>${list.join('\n')}</archive>` }, OWN.name);
		assert.ok(look.findings().weave.threads.some((t) => t.messages.some((m) => m.first.text === text)));
	});
});

describe('letters in a folder to a conversation', () => {
	it('are no states of one store, however they follow each other', async () => {
		const files = SAID.map((m, i): [string, string] => {
			const to = isOwn(m) ? m.room.members : [OWN];
			const address = (p: typeof OWN): string => `${p.name} <${p.id}@lane.example>`;
			const head = `From: ${address(m.who)}\r\nTo: ${to.map(address).join(', ')}\r\nDate: ${new Date(m.at).toUTCString()}\r\nContent-Type: text/html; charset=utf-8\r\n`;
			return [`${nameOf(m)}/${day(m.at)} ${i}.eml`, `${head}\r\n<html><body><p>${i % 4 === 0 ? 'ok' : m.text}</p></body></html>\r\n`];
		});
		const look = await lookAt(Object.fromEntries(files), OWN.name);
		const { families, threads } = look.findings().weave;
		assert.ok(families.every(({ captures }) => captures.length === 1));
		assert.equal(threads.flatMap((t) => t.messages).length, SAID.length);
	});
});
