/** One conversation written in many of the forms in which people get exports by mail; every name and sentence is made up. */

export interface Said {
	/** ms, the written clock as if it were UTC. */
	at: number;
	writer: string;
	text: string | null;
	file?: string;
}

export interface ExportForm {
	name: string;
	/** File name that the form would have. */
	file: string;
	/** Finest unit of its times, ms. */
	unit: number;
	write: (said: readonly Said[]) => string | Uint8Array;
}

export const pad = (n: number, width = 2): string => String(n).padStart(width, '0');
const d = (at: number): Date => new Date(at);
const Y = (at: number): number => d(at).getUTCFullYear();
const M = (at: number): number => d(at).getUTCMonth() + 1;
const D = (at: number): number => d(at).getUTCDate();
const h = (at: number): number => d(at).getUTCHours();
export const clock = (at: number, sep = ':'): string => `${pad(h(at))}${sep}${pad(d(at).getUTCMinutes())}`;
export const seconds = (at: number): string => `${clock(at)}:${pad(d(at).getUTCSeconds())}`;
const half = (at: number, am = 'AM', pm = 'PM'): string => `${h(at) % 12 || 12}:${pad(d(at).getUTCMinutes())} ${h(at) < 12 ? am : pm}`;
const otherDigits = (text: string, zero: number): string => text.replace(/\d/g, (c) => String.fromCodePoint(zero + Number(c)));
const month = (at: number, locale: string): string =>
	new Intl.DateTimeFormat(locale, { month: 'long', day: 'numeric', timeZone: 'UTC' }).formatToParts(at).find((p) => p.type === 'month')!
		.value;
const lines = (said: readonly Said[], head: (s: Said) => string, file = (name: string) => `<attached: ${name}>`, end = '\n'): string =>
	said
		.map(
			(s) =>
				`${head(s)}${[s.file === undefined ? null : s.file === '' ? '<left out>' : file(s.file), s.text]
					.filter((t) => t !== null)
					.join('\n')
					.replaceAll('\n', end)}${end}`
		)
		.join('');

const utf16 = (text: string): Uint8Array => {
	const out = new Uint8Array(text.length * 2 + 2);
	out.set([0xff, 0xfe]);
	for (let i = 0; i < text.length; i++) out.set([text.charCodeAt(i) & 0xff, text.charCodeAt(i) >> 8], 2 + i * 2);
	return out;
};
const western = (text: string): Uint8Array => Uint8Array.from(text, (c) => c.charCodeAt(0) & 0xff);
export const escape = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;');
export const body = (s: Said): string => s.text ?? '';

export const TEXT_FORMS: readonly ExportForm[] = [
	{
		name: 'day first, a dash',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) =>
			lines(
				all,
				(s) => `${pad(D(s.at))}/${pad(M(s.at))}/${Y(s.at)}, ${clock(s.at)} - ${s.writer}: `,
				(f) => `${f} (file attached)`
			)
	},
	{
		name: 'brackets, two-digit year, seconds, marks of direction',
		file: 'talk.txt',
		unit: 1000,
		write: (all) =>
			`\ufeff${lines(
				all,
				(s) => `\u200e[${pad(D(s.at))}.${pad(M(s.at))}.${Y(s.at) % 100}, ${seconds(s.at)}] ${s.writer}: \u200e`,
				(f) => `\u200e<added: ${f}>`,
				'\r\n'
			)}`
	},
	{
		name: 'month first, twelve hours, a narrow blank',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) => lines(all, (s) => `${M(s.at)}/${D(s.at)}/${Y(s.at) % 100}, ${half(s.at).replace(' ', '\u202f')} - ${s.writer}: `)
	},
	{
		name: 'ISO with a zone',
		file: 'talk.txt',
		unit: 1000,
		write: (all) => lines(all, (s) => `${new Date(s.at + 3_600_000).toISOString().slice(0, 19)}+01:00 ${s.writer}: `)
	},
	{
		name: 'name first, text below, UTF-16',
		file: 'talk.txt',
		unit: 1000,
		write: (all) =>
			utf16(
				lines(all, (s) => `${s.writer} (${Y(s.at)}-${pad(M(s.at))}-${pad(D(s.at))} ${seconds(s.at)})\n`, undefined).replaceAll(
					/\n(?=\S+ \S+ \(\d{4})/g,
					'\n\n'
				)
			)
	},
	{
		name: 'French months in words',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) => lines(all, (s) => `${D(s.at)} ${month(s.at, 'fr')} ${Y(s.at)} à ${clock(s.at, 'h')} - ${s.writer} : `)
	},
	{
		name: 'Polish months in words',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) => lines(all, (s) => `[${D(s.at)} ${month(s.at, 'pl')} ${Y(s.at)}, ${clock(s.at)}] ${s.writer}: `)
	},
	{
		name: 'Arabic digits and halves of the day',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) =>
			lines(all, (s) => `\u200f${otherDigits(`${D(s.at)}/${M(s.at)}/${Y(s.at)}، ${half(s.at, 'ص', 'م')}`, 0x660)} - ${s.writer}: `)
	},
	{
		name: 'Chinese dates',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) =>
			lines(
				all,
				(s) =>
					`${Y(s.at)}年${M(s.at)}月${D(s.at)}日 ${h(s.at) < 12 ? '上午' : '下午'}${h(s.at) % 12 || 12}:${clock(s.at).slice(3)} - ${s.writer}: `
			)
	},
	{
		name: 'Korean dates',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) =>
			lines(
				all,
				(s) =>
					`${Y(s.at)}. ${M(s.at)}. ${D(s.at)}. ${h(s.at) < 12 ? '오전' : '오후'} ${h(s.at) % 12 || 12}:${clock(s.at).slice(3)}, ${s.writer} : `
			)
	},
	{
		name: 'Thai years',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) => lines(all, (s) => `${D(s.at)}/${M(s.at)}/${Y(s.at) + 543} ${clock(s.at)} - ${s.writer}: `)
	},
	{
		name: 'points in times',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) => lines(all, (s) => `${D(s.at)}.${M(s.at)}.${Y(s.at)} klo ${clock(s.at, '.')} - ${s.writer}: `)
	},
	{ name: 'headings of days', file: 'talk.txt', unit: 60_000, write: underHeadings },
	{
		name: 'tabs',
		file: 'talk.txt',
		unit: 1000,
		write: (all) => lines(all, (s) => `${Y(s.at)}/${pad(M(s.at))}/${pad(D(s.at))} ${seconds(s.at)}\t${s.writer}\t`)
	},
	{
		name: 'a word for the hour',
		file: 'talk.txt',
		unit: 1000,
		write: (all) => lines(all, (s) => `${pad(D(s.at))}.${pad(M(s.at))}.${Y(s.at)}, ${seconds(s.at)} Uhr - ${s.writer}: `)
	},
	{
		name: 'a word for writing behind the name',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) => lines(all, (s) => `${month(s.at, 'en')} ${D(s.at)}, ${Y(s.at)} ${clock(s.at)} ${s.writer} wrote: `)
	},
	{
		name: 'labelled lines, the text below',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) =>
			lines(all, (s) => `From: ${s.writer}\nDate: ${Y(s.at)}-${pad(M(s.at))}-${pad(D(s.at))} ${clock(s.at)}\n`, undefined, '\n')
	},
	{
		name: 'labelled lines, the text under a label of its own',
		file: 'talk.txt',
		unit: 1000,
		write: (all) =>
			lines(all, (s) => `Sent: ${pad(D(s.at))}.${pad(M(s.at))}.${Y(s.at)} ${seconds(s.at)}\nWho: ${s.writer}\nWords: `).replaceAll(
				/\n(?=Sent: )/g,
				'\n----\n'
			)
	},
	{
		name: 'name first and a month in words, the text below',
		file: 'talk.txt',
		unit: 1000,
		write: (all) => all.map((s) => `${s.writer}, ${D(s.at)} ${month(s.at, 'it')} ${Y(s.at)} ${seconds(s.at)}\n${s.text}\n`).join('\n')
	},
	{
		name: 'name first, month first, twelve hours',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) =>
			all
				.map((s) => `${s.writer}, ${month(s.at, 'en').slice(0, 3)} ${D(s.at)}, ${Y(s.at)} ${half(s.at, 'am', 'pm')}\n${s.text}\n`)
				.join('\n')
	},
	{
		name: 'Korean headings of days, the half before the time, lines between',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) =>
			byDays(
				all,
				(s) => `\n${Y(s.at)}년 ${M(s.at)}월 ${D(s.at)}일\n`,
				(s) => `${h(s.at) < 12 ? '오전' : '오후'} ${h(s.at) % 12 || 12}:${clock(s.at).slice(3)} | ${s.writer} | `
			)
	},
	{
		name: 'a word for the hour in brackets',
		file: 'talk.txt',
		unit: 1000,
		write: (all) => lines(all, (s) => `[${D(s.at)}. ${month(s.at, 'de')} ${Y(s.at)}, ${seconds(s.at)} Uhr] ${s.writer}: `)
	},
	{
		name: 'dates as one number',
		file: 'talk.txt',
		unit: 1000,
		write: (all) => lines(all, (s) => `${Y(s.at)}${pad(M(s.at))}${pad(D(s.at))} ${seconds(s.at)}\t${s.writer}\t`)
	},
	{
		name: 'hours with a letter and blanks, a stroke before the name',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) => lines(all, (s) => `${D(s.at)} ${month(s.at, 'fr')} ${Y(s.at)} ${clock(s.at, ' h ')} / ${s.writer}: `)
	},
	{
		name: 'newest first',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) => lines([...all].reverse(), (s) => `${pad(D(s.at))}/${pad(M(s.at))}/${Y(s.at)}, ${clock(s.at)} - ${s.writer}: `)
	}
];

function underHeadings(said: readonly Said[]): string {
	return byDays(
		said,
		(s) => `\n--- ${D(s.at)} ${month(s.at, 'en')} ${Y(s.at)} ---\n\n`,
		(s) => `${clock(s.at)} ${s.writer}: `
	);
}

function byDays(said: readonly Said[], heading: (s: Said) => string, head: (s: Said) => string): string {
	let day = '';
	let out = '';
	for (const s of said) {
		if (heading(s) !== day) out += heading(s);
		day = heading(s);
		out += lines([s], head);
	}
	return out;
}

export const RECORD_FORMS: readonly ExportForm[] = [
	{
		name: 'JSON',
		file: 'talk.json',
		unit: 1,
		write: (all) =>
			JSON.stringify(
				{
					title: 'Heating',
					messages: all.map((s, i) => ({ id: i, date: new Date(s.at).toISOString().slice(0, 23), from: s.writer, text: body(s) }))
				},
				null,
				1
			)
	},
	{
		name: 'lines of JSON',
		file: 'talk.ndjson',
		unit: 1,
		write: (all) =>
			all
				.map((s) => JSON.stringify({ at: new Date(s.at).toISOString().slice(0, 23), who: { name: s.writer }, message: { body: body(s) } }))
				.join('\n')
	},
	{
		name: 'CSV with date and time apart',
		file: 'talk.csv',
		unit: 60_000,
		write: (all) =>
			[
				'Date;Time;Sender;Message',
				...all.map((s) =>
					[`${pad(M(s.at))}/${pad(D(s.at))}/${Y(s.at)}`, half(s.at), s.writer, body(s)].map((c) => `"${c.replaceAll('"', '""')}"`).join(';')
				)
			].join('\r\n')
	},
	{
		name: 'XML',
		file: 'talk.xml',
		unit: 1,
		write: (all) =>
			`<?xml version="1.0"?>\n<!DOCTYPE log [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]>\n<log>${all.map((s) => `<entry when="${new Date(s.at).toISOString().slice(0, 23)}"><writer>${escape(s.writer)}</writer><words>${escape(body(s))}</words></entry>`).join('\n')}</log>`
	},
	{
		name: 'HTML',
		file: 'talk.html',
		unit: 1000,
		write: (all) =>
			`<!DOCTYPE html><html><head><title>x</title></head><body><h1>Heating</h1><div class="log">${all.map((s) => `<div class="entry"><span class="when" title="${pad(D(s.at))}.${pad(M(s.at))}.${Y(s.at)} ${seconds(s.at)}">${clock(s.at)}</span><div class="who">${escape(s.writer)}</div><div class="words">${escape(body(s)).replaceAll('\n', '<br>')}</div></div>`).join('\n')}</div></body></html>`
	},
	{
		name: 'JSON by days',
		file: 'talk.json',
		unit: 1000,
		write: (all) => {
			const days = [...new Set(all.map((s) => new Date(s.at).toISOString().slice(0, 10)))];
			const of = (day: string): Said[] => all.filter((s) => new Date(s.at).toISOString().startsWith(day));
			return JSON.stringify({
				log: { days: days.map((day) => ({ day, items: of(day).map((s) => ({ author: s.writer, ts: s.at / 1000, words: body(s) })) })) }
			});
		}
	},
	{
		name: 'HTML of parts with classes of their own',
		file: 'talk.html',
		unit: 1000,
		write: (all) =>
			`<html><body>${all.map((s) => `<div class="one"><div class="when">${pad(D(s.at))}.${pad(M(s.at))}.${Y(s.at)} ${seconds(s.at)}</div><div class="who">${escape(s.writer)}</div><div class="words">${escape(body(s)).replaceAll('\n', '<br>')}</div></div>`).join('\n')}</body></html>`
	},
	{
		name: 'an HTML table',
		file: 'talk.htm',
		unit: 1000,
		write: (all) =>
			`<html><body><table><tr><th>When</th><th>Who</th><th>What</th></tr>${all.map((s) => `<tr><td>${Y(s.at)}-${pad(M(s.at))}-${pad(D(s.at))} ${seconds(s.at)}</td><td>${escape(s.writer)}</td><td>${escape(body(s)).replaceAll('\n', '<br>')}</td></tr>`).join('')}</table></body></html>`
	},
	{
		name: 'JSON with numbers, a map of names beside them, by days',
		file: 'talk.json',
		unit: 1000,
		write: (all) => {
			const names = [...new Set(all.map((s) => s.writer))];
			const number = (s: Said): string => `+44 7700 90014${names.indexOf(s.writer)}`;
			const days: Record<string, object[]> = {};
			for (const s of all)
				(days[new Date(s.at).toISOString().slice(0, 10)] ??= []).push({ ts: s.at / 1000, user: number(s), message: body(s) });
			return JSON.stringify({ people: Object.fromEntries(names.map((n, i) => [`+44 7700 90014${i}`, n])), log: days });
		}
	},
	{
		name: 'CSV with the day first and hours apart',
		file: 'talk.csv',
		unit: 60_000,
		write: (all) =>
			[
				'date,time,from,words',
				...all.map((s) =>
					[new Date(s.at).toISOString().slice(0, 10), clock(s.at), s.writer, `"${body(s).replaceAll('"', '""')}"`].join(',')
				)
			].join('\n')
	},
	{
		name: 'XML with the text beside elements',
		file: 'talk.xml',
		unit: 1,
		write: (all) =>
			`<log>${all.map((s, i) => `<m n="${i}" at="${new Date(s.at).toISOString().slice(0, 23)}" by="${escape(s.writer)}">${escape(body(s))}${i % 9 ? '' : `<a href="scan-${i}.jpg"/>`}</m>`).join('\n')}</log>`
	}
];

export const WESTERN: ExportForm = {
	name: 'Western bytes',
	file: 'talk.txt',
	unit: 60_000,
	write: (all) => western(lines(all, (s) => `${D(s.at)}.${M(s.at)}.${Y(s.at)} ${clock(s.at)} - ${s.writer}: `))
};
