/** Bodies that are not plain text, and how the kind is told from the values. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { deflateRawSync, deflateSync, gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { bodyText, readBody } from '../../src/core/interpret/body';
import { stripMarkup } from '../../src/core/interpret/markup';
import type { Value } from '../../src/core/model';

const TEXTS = [
	'Are we still paying January in full?',
	'سأرسل لك الفاتورة غداً',
	'七点半在锅炉房见',
	'ok 👍🏽',
	'x',
	`${'a long one '.repeat(40)}end`
];
const bytes = (t: string): Buffer => Buffer.from(t, 'utf8');
const plain = (b: Buffer): Uint8Array => new Uint8Array(b);

const FORMS: Record<string, (t: string) => Value> = {
	zlib: (t) => plain(deflateSync(bytes(t))),
	gzip: (t) => plain(gzipSync(bytes(t))),
	deflate: (t) => plain(deflateRawSync(bytes(t))),
	zstd: (t) => plain(zstdRaw(bytes(t))),
	'text-bytes': (t) => plain(bytes(t)),
	hex: (t) => bytes(t).toString('hex'),
	markup: (t) => `<m><b>${t.replaceAll('&', '&amp;').replaceAll('<', '&lt;')}</b></m>`,
	'rich-text': (t) => `{\\rtf1\\ansi\\deff0{\\fonttbl{\\f0 Serif;}{\\*\\unknown nothing}}\\f0\\fs20 ${inRichText(t)}\\par\n}`,
	references: (t) => t.replace(/[&<>\u0080-\u{10ffff}]/gu, (c) => `&#${c.codePointAt(0)};`),
	percent: (t) => encodeURIComponent(t),
	'quoted-printable': (t) =>
		[...bytes(t)].map((b) => (b > 126 || b === 0x3d ? `=${b.toString(16).toUpperCase()}` : String.fromCharCode(b))).join(''),
	base64: (t) => Buffer.from(t, 'utf16le').toString('base64'),
	'inside-binary': (t) => plain(Buffer.concat([Buffer.from([0, 0, 0x17, 1]), u32(bytes(t).length), bytes(t), Buffer.from([0, 0, 2])]))
};

/** Letters beyond ASCII as numbers of 16 bits with a sign, each with a stand-in. */
const inRichText = (t: string): string =>
	[...t].map((c) => (c > '~' ? Array.from({ length: c.length }, (_, i) => `\\u${(c.charCodeAt(i) << 16) >> 16}?`).join('') : c)).join('');

/** RFC 8878: magic, frame header (no size stated, a window of 2 KiB), one last raw block. */
function zstdRaw(content: Buffer): Buffer {
	const block = (content.length << 3) | 1;
	return Buffer.concat([Buffer.from([0x28, 0xb5, 0x2f, 0xfd, 0, 8, block & 255, (block >> 8) & 255, block >> 16]), content]);
}

function u32(n: number): Buffer {
	const b = Buffer.alloc(4);
	b.writeUInt32LE(n);
	return b;
}

describe('bodies', () => {
	for (const [kind, store] of Object.entries(FORMS)) {
		it(`are told and read: ${kind}`, () => {
			const stored = TEXTS.map(store);
			const reading = readBody(stored);
			assert.equal(reading?.kind, kind);
			assert.deepEqual(
				stored.map((v) => bodyText(v, reading!)),
				TEXTS
			);
		});
	}
	it('that are plain, or nothing that can be read, are left as they are', () => {
		assert.equal(readBody(TEXTS), null);
		assert.equal(readBody([null, undefined, '']), null);
		assert.equal(
			readBody(
				Array.from({ length: 20 }, (_, i) => Uint8Array.from({ length: 60 }, (_x, k) => ((i * 97 + k * 31) % 200) + 55 - (k % 3) * 50))
			),
			null
		);
	});
	it('that are plain are left so, though a sign of an escape stands in them', () => {
		assert.equal(readBody(['rock & roll', 'the &amp; of it', 'and &lt; too', 'so it is']), null);
		assert.equal(readBody(['100%25 sure', 'it is 20%20 off', 'bring it']), null);
		assert.equal(readBody(['a=3D is it', 'b=C3=A9', 'c = d']), null);
		assert.equal(readBody(['https://site.example/a%20b', 'https://site.example/c%20d', 'https://site.example/e%20f']), null);
	});
	it('of rich text keep signs, lines and letters of its code page, and drop what is none of its text', () => {
		const rtf = String.raw`{\rtf1\ansi\ansicpg1251{\fonttbl{\f0 A;}}{\info{\title no}}\b Bring\b0  the \{key\}\line\'ea\'eb\'fe\'f7 \emdash  {\*\x no}\u9731?\~now}`;
		assert.equal(bodyText(rtf, { kind: 'rich-text' }), 'Bring the {key}\nключ — ☃\u00a0now');
		assert.equal(bodyText(`{\\rtf1 ${'{'.repeat(5000)}`, { kind: 'rich-text' }), null);
	});
	it('that are damaged give null, and what unpacks to too much gives null', () => {
		const whole = FORMS.zlib!(TEXTS[5]!) as Uint8Array;
		assert.equal(bodyText(whole.subarray(0, whole.length - 8), { kind: 'zlib' }), null);
		assert.equal(bodyText(plain(gzipSync(Buffer.alloc(40 << 20))), { kind: 'gzip' }), null);
	});
	it('never throw, whatever the bytes', () => {
		fc.assert(
			fc.property(
				fc.uint8Array({ maxLength: 300 }),
				fc.constantFrom('zlib', 'gzip', 'deflate', 'text-bytes', 'utf16-bytes', 'inside-binary', 'rich-text'),
				(b, kind) => {
					const text = bodyText(b, { kind: kind as 'zlib' });
					assert.ok(text === null || typeof text === 'string');
				}
			)
		);
	});
	it('of markup keep line breaks and entities, and drop scripts', () => {
		assert.equal(stripMarkup('<p>one &amp; two<br>three</p><script>four()</script>'), 'one & two\nthree');
		// What is left of a value may begin within a tag, and end within one.
		assert.equal(stripMarkup('br/>two<br/>three</p><di'), 'two\nthree');
		assert.equal(stripMarkup('span class="t">two</span>'), 'two');
		assert.equal(stripMarkup('a > b, b/>c'), 'a > b, b/>c');
		assert.equal(stripMarkup('&#x1F44D; &#65; &nosuch; 1 < 2'), '👍 A &nosuch; 1 < 2');
	});
});
