/** The same conversation as pages and as XML of many kinds: rows with heads, terms, lines that begin with marked words, days, joined messages, lists of persons. */
import { body, clock, escape, pad, seconds, type ExportForm, type Said } from './exports';

const day = (at: number): string =>
	new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' }).format(at);
const weekday = (at: number): string => new Intl.DateTimeFormat('en-GB', { weekday: 'long', timeZone: 'UTC' }).format(at);
const dotted = (at: number): string => {
	const d = new Date(at);
	return `${pad(d.getUTCDate())}.${pad(d.getUTCMonth() + 1)}.${d.getUTCFullYear()} ${seconds(at)}`;
};
const iso = (at: number): string => new Date(at).toISOString().replace('.000', '');
const words = (s: Said): string => escape(body(s)).replaceAll('\n', '<br>');
const page = (inside: string, title = 'Heating'): string =>
	`<!DOCTYPE html><html><head><meta charset="utf-8"><title>${title}</title><style>p{color:red}</style></head><body><h1>${title}</h1>${inside}</body></html>`;
/** Before each message whether it is the first of its day, and whether the one before is of the same writer and day. */
const withDays = (all: readonly Said[], write: (s: Said, first: boolean, joined: boolean) => string): string =>
	all
		.map((s, i) => {
			const first = i === 0 || day(all[i - 1]!.at) !== day(s.at);
			return write(s, first, !first && all[i - 1]!.writer === s.writer);
		})
		.join('\n');

const persons = (all: readonly Said[]): string[] => [...new Set(all.map((s) => s.writer))];

export const PAGE_FORMS: readonly ExportForm[] = [
	{
		name: 'a page of lines that begin with a name and a date',
		file: 'talk.html',
		unit: 1000,
		write: (all) => page(all.map((s) => `<p><b>${escape(s.writer)}</b> <i>${dotted(s.at)}</i><br>${words(s)}</p>`).join(''))
	},
	{
		name: 'a page of terms and what is said of them',
		file: 'talk.html',
		unit: 1000,
		write: (all) => page(`<dl>${all.map((s) => `<dt>${iso(s.at)} ${escape(s.writer)}</dt><dd>${words(s)}</dd>`).join('')}</dl>`)
	},
	{
		name: 'a page of points with a time, a name and words',
		file: 'talk.html',
		unit: 1000,
		write: (all) =>
			page(
				`<ul>${all.map((s) => `<li><time datetime="${iso(s.at)}">${clock(s.at)}</time> <strong>${escape(s.writer)}</strong>: <span>${words(s)}</span></li>`).join('')}</ul>`
			)
	},
	{
		name: 'a page whose articles say their way by their class',
		file: 'talk.htm',
		unit: 1000,
		write: (all) =>
			page(
				all
					.map(
						(s) =>
							`<article class="${s.writer === 'Piet Hallorann' ? 'out' : 'in'}" data-time="${s.at}"><header>${escape(s.writer)}</header><p>${words(s)}</p></article>`
					)
					.join('')
			)
	},
	{
		name: 'a page of days, a time before each name',
		file: 'talk.html',
		unit: 60_000,
		write: (all) =>
			page(
				withDays(all, (s, first) => `${first ? `<h3>${day(s.at)}</h3>` : ''}<p>${clock(s.at)} <b>${escape(s.writer)}</b> ${words(s)}</p>`)
			)
	},
	{
		name: 'a page whose messages name a writer only when he changes',
		file: 'talk.html',
		unit: 1000,
		write: (all) =>
			page(
				withDays(
					all,
					(s, first, joined) =>
						`${first ? `<div class="one service"><div class="words">${day(s.at)}</div></div>` : ''}<div class="one${joined ? ' joined' : ''}"><div class="when" title="${dotted(s.at)}">${clock(s.at)}</div>${joined ? '' : `<div class="who">${escape(s.writer)}</div>`}<div class="words">${words(s)}</div></div>`
				)
			)
	},
	{
		name: 'a table whose dates begin with the day of the week',
		file: 'talk.html',
		unit: 1000,
		write: (all) =>
			page(
				`<table><thead><tr><th>When</th><th>Who</th><th>What was said</th></tr></thead><tbody>${all.map((s) => `<tr><td>${weekday(s.at)}, ${day(s.at)} ${seconds(s.at)}</td><td>${escape(s.writer)}</td><td>${words(s)}</td></tr>`).join('')}</tbody></table>`
			)
	},
	{
		name: 'a page of headings, each with what was said under it',
		file: 'talk.html',
		unit: 1000,
		write: (all) => page(all.map((s) => `<h4>${escape(s.writer)} – ${dotted(s.at)}</h4><p>${words(s)}</p>`).join(''))
	},
	{
		name: 'a table with two rows to a message',
		file: 'talk.html',
		unit: 1000,
		write: (all) =>
			page(
				`<table>${all.map((s) => `<tr><td><table><tr><td class="n">${escape(s.writer)}</td><td class="d">${dotted(s.at)}</td></tr></table></td></tr><tr><td class="words">${words(s)}</td></tr>`).join('')}</table>`
			)
	},
	{
		name: 'XML with a list of persons',
		file: 'talk.xml',
		unit: 1000,
		write: (all) =>
			`<?xml version="1.0"?><log><people>${persons(all)
				.map((p, i) => `<person id="p${i}" name="${escape(p)}"${p === 'Piet Hallorann' ? ' me="true"' : ''}/>`)
				.join('')}</people><talk title="Heating">${all
				.map((s) => `<msg from="p${persons(all).indexOf(s.writer)}" at="${s.at}"><words>${escape(body(s))}</words></msg>`)
				.join('\n')}</talk></log>`
	},
	{
		name: 'JSON with a list of persons by number',
		file: 'talk.json',
		unit: 1000,
		write: (all) =>
			JSON.stringify({
				participants: persons(all).map((name, i) => ({ id: 310 + i, name })),
				messages: all.map((s, i) => ({ id: i + 1, sender_id: 310 + persons(all).indexOf(s.writer), ts: String(s.at), content: body(s) }))
			})
	}
];
