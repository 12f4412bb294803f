/** What was written below a picture, where it stands with the file and the message has no text of its own. */
import type { Context } from './context';
import { isMime, isPath } from './files';
import { messageKeyOf, textsOf } from './message-keys';
import type { AttachmentReading, MessageReading } from './reading';
import { cell, type Sheet, type SheetColumn } from './sheet';

const WRITTEN = 0.3;
const CAPTION_NAMED = /caption|title|text|comment|body|subject/i;
/** Captions that must be there, one where it is a sentence in a column called for what was written, and share of the messages named that may have a text besides. */
const LEAST = 2;
const BESIDES = 0.1;
/** Share of the rows that must state a file. */
const MOSTLY = 0.5;
const ROWS = 2000;

const leastOf = (c: SheetColumn): number => (c.profile.prose === 1 && CAPTION_NAMED.test(c.name) ? 1 : LEAST);

/**
 * The column of a sheet of files in which those wrote who sent them, or null. `link`: how the files and the messages name
 * each other.
 */
export function captionIn(sheet: Sheet, m: MessageReading, link: AttachmentReading['link'], { tables }: Context): SheetColumn | null {
	if (link.kind === 'join') return null;
	const stating = sheet.columns.filter((c) => c.column >= 0 && (isPath(c) || isMime(c)));
	if (!stating.some((c) => c.profile.filled >= sheet.sure.length * MOSTLY)) return null;
	const texts = textsOf(m, link.kind === 'direct' ? link.messageKey : link.from, tables);
	const isCaption = (c: SheetColumn): boolean => {
		if (c.column < 0 || stating.includes(c) || c.profile.texts < leastOf(c) || c.profile.json > 0 || c.profile.time) return false;
		if (c.profile.prose < WRITTEN && !CAPTION_NAMED.test(c.name)) return false;
		const rows = sheet.sure.slice(0, ROWS).filter((row) => typeof cell(row, c, tables) === 'string' && cell(row, c, tables) !== '');
		const named = rows.flatMap((row) => {
			const key = messageKeyOf(row, link.key, tables);
			return key !== null && texts.has(key) ? [texts.get(key)] : [];
		});
		const besides = named.filter((text) => text !== null && text !== '').length;
		return named.length >= leastOf(c) && besides <= named.length * BESIDES;
	};
	const found = sheet.columns.filter(isCaption);
	return found.sort((a, b) => b.profile.prose - a.profile.prose)[0] ?? null;
}
