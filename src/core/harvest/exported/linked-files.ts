/** Files that a conversation in marked-up text (CommonMark 0.31, sections 6.3 and 6.4) links to, a line each. */
import { baseOf } from '../../paths';
import type { ExportedMessage } from './exported-message';

const LINK = /^!?\[[^\]\n]{0,200}\]\(<?([^()<>\n]{1,300})>?\)$/;
const REMOTE = /^[a-z][a-z\d+.-]*:/i;

/** Takes such lines out of the texts: what they link to was sent, if it is a file of the export and nothing else stands in the line. */
export function takeLinkedFiles(messages: readonly ExportedMessage[]): void {
	for (const m of messages) {
		if (!m.text?.includes('](')) continue;
		const files: string[] = [];
		const left = m.text.split('\n').filter((line) => {
			const to = LINK.exec(line.trim())?.[1];
			if (to === undefined || REMOTE.test(to)) return true;
			files.push(baseOf(decoded(to)));
			return false;
		});
		if (files.length === 0) continue;
		const text = left.join('\n').trimEnd();
		m.file = [...(m.file ? [m.file] : []), ...files].join('\n');
		m.text = text === '' ? null : text;
	}
}

function decoded(path: string): string {
	try {
		return decodeURI(path);
	} catch {
		return path;
	}
}
