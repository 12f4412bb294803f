/** Text marked up with signs (CommonMark 0.31) as lines that a conversation can be read from. */

/** Lines of marked-up text (CommonMark 0.31, 4.2 and 6.2) that are headings, or begin with a name or a time in bold or slanted letters, without the marks. */
export const withoutMarks = (text: string): string =>
	text
		.replace(/^#{1,6}[ \t]+(?=\S)/gm, '')
		.replace(/^(?:[-*][ \t]+)?([*_]{1,3}\S[^\n]*)((?:\n[ \t]*\r?)*)/gm, (_, said: string, gap: string) => {
			const line = said.trimEnd();
			const [, first, second, rest] =
				/^[*_]{1,3}([^*_\n]{1,80})[*_]{1,3}[ \t]*[*_]{1,3}([^*_\n]{1,80})[*_]{1,3}[: \t]*(.*)$/.exec(line) ?? [];
			// A name and a time, each marked: what a line ends with is easily both, what begins it is not.
			if (first && second && TIME_ALONE.test(first) !== TIME_ALONE.test(second)) {
				const [time, name] = TIME_ALONE.test(first) ? [first, second] : [second, first];
				return `${time} - ${name.replace(/:$/, '')}: ${rest ? rest + gap : ''}`;
			}
			return line.replace(/[*_]{1,3}(?=\S)([^*_\n]{1,80})[*_]{1,3}/g, '$1') + gap;
		});
const TIME_ALONE = /^\W*\d{1,2}[:.h]\d\d/;
