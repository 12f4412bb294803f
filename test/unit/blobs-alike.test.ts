/** Rows of a number and a document in bytes: what of the documents' beginnings is alike says that lost ones are rows. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { looked, written } from '../vectors/written';

const START = Date.UTC(2025, 0, 14, 6);
const at = (i: number): number => START + i * 3_600_000;
const said = (i: number): string => `The pump is stuck and they want the rent ${i}`;

/** A map in MessagePack: text, sender, time in ms; every third has one field more, so that not even its first byte is like the others'. */
function packed(i: number): string {
	const text = Buffer.from(said(i));
	const time = Buffer.alloc(8);
	time.writeBigUInt64BE(BigInt(at(i)));
	const more = i % 3 === 0;
	const parts = [[more ? 0x84 : 0x83, 0xa1, 0x74, 0xd9, text.length], text, [0xa1, 0x73, 51 + (i % 2), 0xa2, 0x74, 0x73, 0xcf], time];
	if (more) parts.push([0xa1, 0x66, 0xc3]);
	return Buffer.concat(parts.map((p) => Buffer.from(p as Uint8Array))).toString('hex');
}

describe('lost rows of small tables that hold documents in bytes', () => {
	it('are found whole where the page they stood on became the root of a tree', () => {
		const [bytes] = written((db) => {
			db.exec('pragma secure_delete=off; create table m(id integer primary key autoincrement, c integer, b blob)');
			for (let i = 0; i < 90; i++) db.exec(`insert into m(c,b) values(${10 + (i % 5)}, x'${packed(i)}')`);
			// All that a freed cell left elsewhere is written over.
			db.exec('delete from m where id=3');
			for (let i = 90; i < 93; i++) db.exec(`insert into m(c,b) values(${10 + (i % 5)}, x'${packed(i)}')`);
			db.exec("create table u(id integer primary key, b blob); insert into u values(51, x'81a46e616d65a9426f696c6572206d61')");
		});
		const messages = looked({ 'pack/pack.db': bytes! })
			.findings()
			.weave.threads.flatMap((t) => t.messages);
		const lost = messages.filter((m) => m.first.text === said(2));
		assert.equal(lost.length, 1);
		assert.deepEqual([lost[0]!.grade, lost[0]!.record, lost[0]!.first.sentAt], ['whole', 3, at(2)]);
		assert.equal(messages.length, 93);
	});
});
