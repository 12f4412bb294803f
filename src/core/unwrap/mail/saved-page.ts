/** Pages saved with all that belongs to them in one file (MHTML, RFC 2557): the page, and its parts beside it. */
import PostalMime from 'postal-mime';
import type { ByteSource } from '../../bytes';

const HEAD = 4096;
const LARGEST = 256 << 20;

/** Whether a file's fields say that it is one body of related parts, of which the first is a page, and nobody's address wrote it. */
export function isSavedPage(source: ByteSource): boolean {
	if (source.size > LARGEST) return false;
	const head = new TextDecoder('latin1').decode(source.read(0, HEAD));
	if (!/^[!-9;-~]+:/.test(head)) return false;
	const fields = head.split(/\r?\n\r?\n/, 1)[0]!.replace(/\r?\n[ \t]+/g, ' ');
	const isRelated = /^content-type:\s*multipart\/related\b/im.test(fields) && /^mime-version:/im.test(fields);
	return isRelated && !/^(?:from|to):.*@/im.test(fields) && /^content-type:\s*text\/html/im.test(head.slice(fields.length));
}

/** The page and what it shows, in order. `title`: what the page is to be called. */
export async function readSavedPage(source: ByteSource, title: string): Promise<{ name: string; bytes: Uint8Array }[]> {
	const { html, attachments } = await PostalMime.parse(source.read(0, source.size), { attachmentEncoding: 'arraybuffer' });
	const parts = attachments.flatMap((a, i) =>
		typeof a.content === 'string' ? [] : [{ name: a.filename ?? `part ${i + 1}`, bytes: new Uint8Array(a.content as ArrayBuffer) }]
	);
	return html ? [{ name: `${title}.html`, bytes: new TextEncoder().encode(html) }, ...parts] : parts;
}
