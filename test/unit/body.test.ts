/** Bodies that are not plain text, and how the kind is told from the values. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { deflateRawSync, deflateSync, gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { bodyText, readBody, stripMarkup } from '../../src/core/interpret/body';
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
	'inside-binary': (t) => plain(Buffer.concat([Buffer.from([0, 0, 0x17, 1]), u32(bytes(t).length), bytes(t), Buffer.from([0, 0, 2])]))
};

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
	it('that are damaged give null, and what unpacks to too much gives null', () => {
		const whole = FORMS.zlib!(TEXTS[5]!) as Uint8Array;
		assert.equal(bodyText(whole.subarray(0, whole.length - 8), { kind: 'zlib' }), null);
		assert.equal(bodyText(plain(gzipSync(Buffer.alloc(40 << 20))), { kind: 'gzip' }), null);
	});
	it('never throw, whatever the bytes', () => {
		fc.assert(
			fc.property(
				fc.uint8Array({ maxLength: 300 }),
				fc.constantFrom('zlib', 'gzip', 'deflate', 'text-bytes', 'utf16-bytes', 'inside-binary'),
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
