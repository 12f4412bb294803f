/** The conversation of `exports.ts` in forms that set who wrote, when and what apart: on lines of their own, set in, ruled off, or by a way. */
import { clock, pad, seconds, type ExportForm, type Said } from './exports';

const date = (s: Said, sep = '/'): string => {
	const at = new Date(s.at);
	return `${at.getUTCFullYear()}${sep}${pad(at.getUTCMonth() + 1)}${sep}${pad(at.getUTCDate())}`;
};

export const HEADED_FORMS: readonly ExportForm[] = [
	{
		name: 'stamp and name on a line, the text below',
		file: 'talk.txt',
		unit: 1000,
		write: (all) => all.map((s) => `[${date(s)} ${seconds(s.at)}] ${s.writer}\n${s.text}\n\n`).join('')
	},
	{
		name: 'name, stamp and text on lines of their own, a rule between',
		file: 'talk.txt',
		unit: 1000,
		write: (all) => all.map((s) => `${s.writer}\n${date(s, '-')} ${seconds(s.at)}\n${s.text}\n${'-'.repeat(24)}\n`).join('')
	},
	{
		name: 'set in under names, days headed with a sign',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) =>
			all
				.map((s, i) => {
					const heading = i === 0 || date(all[i - 1]!) !== date(s) ? `\n# ${date(s, '-')}\n\n` : '';
					return `${heading}${s.writer}, ${clock(s.at)}\n${s.text!.replace(/^/gm, '    ')}\n`;
				})
				.join('')
	},
	{
		name: 'two blanks behind the colon',
		file: 'talk.txt',
		unit: 60_000,
		write: (all) => all.map((s) => `${date(s, '-')} ${clock(s.at)} - ${s.writer}:  ${s.text}\n`).join('')
	},
	{
		name: 'names and stamps on a line, two blanks between',
		file: 'talk.txt',
		unit: 1000,
		write: (all) => all.map((s) => `${s.writer}  ${date(s)} ${seconds(s.at)}\n${s.text}\n\n`).join('')
	}
];
