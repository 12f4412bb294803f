/** Conversations that somebody saved as a word processor's document. */
import { openText, textEncodingOf, textOfOpenDocument, textOfWord, wholeText } from '../harvest';
import { brokeOff } from '../broke-off';
import type { Note } from '../model';
import type { GivenFile } from '../unwrap';
import type { Found } from './pages';

/** Bytes of the part that holds the text, at most. */
const LARGEST = 64 << 20;
const WORD = '/word/document.xml';
const CONTENT = '/content.xml';
const TEXT_TYPE = 'application/vnd.oasis.opendocument.text';

/** The documents that read as conversations, and the files that are parts of any. */
export function findDocuments(files: readonly GivenFile[]): { found: Found[]; parts: Set<number>; notes: Note[] } {
	const found: Found[] = [];
	const parts = new Set<number>();
	const notes: Note[] = [];
	const at = new Map(files.map((f, i) => [f.path, i]));
	for (const { path, name, source } of files) {
		const ending = [WORD, CONTENT].find((end) => path.endsWith(end));
		if (!ending || source.size > LARGEST) continue;
		const base = path.slice(0, -ending.length);
		const type = files[at.get(`${base}/mimetype`) ?? -1];
		if (ending === CONTENT && !(type && startsWith(type, TEXT_TYPE))) continue;
		try {
			const bytes = source.read(0, source.size);
			const content = wholeText(bytes, textEncodingOf(bytes) ?? 'utf8');
			const file = at.get(base);
			for (const [i, f] of files.entries()) if (f.path.startsWith(`${base}/`)) parts.add(i);
			if (file === undefined) continue;
			const harvest = openText(ending === WORD ? textOfWord(content) : textOfOpenDocument(content), files[file]!, file);
			if (harvest) found.push({ file, harvest });
		} catch (error) {
			notes.push(brokeOff(name, 'its beginning', error));
		}
	}
	return { found, parts, notes };
}

const startsWith = ({ source }: GivenFile, words: string): boolean => new TextDecoder().decode(source.read(0, words.length)) === words;
