/** Files that a letter encloses keep every byte, however they are written in it. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { wholeBytes } from '../../src/core/harvest';
import { enclosedIn } from '../../src/core/interpret/composed/enclosed';

const HEAD = 'From: a@lane.example\r\nDate: Tue, 14 Jan 2025 10:00:00 +0000\r\nContent-Type: multipart/mixed; boundary="edge"\r\n\r\n';
const TEXT = '--edge\r\nContent-Type: text/plain\r\n\r\nthe key is here\r\n';
/** All 256 bytes, but for those that end a line. */
const EVERY = Uint8Array.from({ length: 256 }, (_, i) => i).filter((byte) => byte !== 10 && byte !== 13);

const letter = (head: string, body: Uint8Array): Uint8Array =>
	Buffer.concat([Buffer.from(`${HEAD}${TEXT}--edge\r\n${head}\r\n\r\n`), body, Buffer.from('\r\n--edge--\r\n')]);

describe('files in letters', () => {
	it('as they are, and in quoted-printable', () => {
		const quoted = [...EVERY].map((byte) => `=${byte.toString(16).toUpperCase().padStart(2, '0')}`).join('');
		for (const [how, body] of [
			['8bit', EVERY],
			['quoted-printable', Buffer.from(quoted)]
		] as const) {
			const head = `Content-Type: application/octet-stream; name="key.bin"\r\nContent-Transfer-Encoding: ${how}`;
			const [file, ...more] = enclosedIn(letter(head, body));
			assert.equal(more.length, 0);
			assert.deepEqual([file!.name, file!.type], ['key.bin', 'application/octet-stream']);
			assert.deepEqual([...wholeBytes(file!.bytes)], [...EVERY]);
		}
	});
	it('of a letter that is kept as a text, and names in every form', () => {
		for (const [name, stated] of [
			['Schlüssel.txt', 'filename="=?utf-8?Q?Schl=C3=BCssel.txt?="'],
			['Schlüssel.txt', "filename*=utf-8''Schl%C3%BCssel.txt"],
			['Schlüssel.txt', 'filename="Schlüssel.txt"'],
			['a "b".txt', 'filename="a \\"b\\".txt"']
		] as const) {
			const head = `Content-Type: text/plain\r\nContent-Disposition: attachment; ${stated}`;
			const [file] = enclosedIn(new TextDecoder().decode(letter(head, Buffer.from('für dich'))));
			assert.equal(file!.name, name);
			assert.equal(new TextDecoder().decode(wholeBytes(file!.bytes)), 'für dich');
		}
	});
	it('none where there is no part, and none beyond the depth that parts may have', () => {
		assert.deepEqual(enclosedIn('From: a\r\n\r\nno parts'), []);
		const nested = (depth: number): string =>
			depth === 0
				? 'Content-Type: image/png\r\n\r\npng'
				: `Content-Type: multipart/mixed; boundary="b${depth}x"\r\n\r\n--b${depth}x\r\n${nested(depth - 1)}\r\n--b${depth}x--\r\n`;
		assert.equal(enclosedIn(`From: a\r\n${nested(4)}`).length, 1);
		assert.equal(enclosedIn(`From: a\r\n${nested(40)}`).length, 0);
	});
});
