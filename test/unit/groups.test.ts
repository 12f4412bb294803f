/** Files given, as sources: a folder is one, several backups beside each other are several. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { groupsOf } from '../../src/lib/sources/groups';

const groups = (...paths: string[]): [string, number, number][] =>
	groupsOf(paths.map((path, i) => ({ path, size: i + 1 }))).map((g) => [g.path, g.files.length, g.size]);

describe('files given', () => {
	it('by themselves stand by themselves, a folder is one', () =>
		assert.deepEqual(groups('a.db', 'phone/list.db', 'b.db', 'phone/3a/3a94', 'phone/4b/4b11'), [
			['a.db', 1, 1],
			['phone', 3, 11],
			['b.db', 1, 3]
		]));
	it('in folders within one folder, and nothing beside them, are those folders', () =>
		assert.deepEqual(groups('in/first/list.db', 'in/first/3a/3a94', 'in/second/list.db'), [
			['in/first', 2, 3],
			['in/second', 1, 3]
		]));
	it('beside backups that hold files of one name stand by themselves; a program’s own folders are one with its files', () => {
		assert.deepEqual(
			groups('in/names.vcf', 'in/a/list.db', 'in/b/list.db', 'in/b/3a94').map(([path]) => path),
			['in/names.vcf', 'in/a', 'in/b']
		);
		assert.deepEqual(
			groups('profile/main.db', 'profile/received/one.jpg', 'profile/cache/two.bin').map(([path]) => path),
			['profile']
		);
	});
	it('in very many folders are one', () =>
		assert.equal(groups(...Array.from({ length: 64 }, (_, n) => `in/${n.toString(16).padStart(2, '0')}/file`)).length, 1));
});
