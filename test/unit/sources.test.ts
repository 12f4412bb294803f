/** What each thing is that was given, and the place that it makes. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { placesWith, type ListedPlaces, type Place } from '../../src/core/prospects';
import { sourcesOf, withKnown, type KnownOfSources, type Source } from '../../src/core/sources';
import type { SurveyLine } from '../../src/core/survey';

const FEB = Date.UTC(2025, 1, 9, 12);
const MAR = Date.UTC(2025, 2, 2, 12);
const TODAY = Date.UTC(2025, 2, 3, 9);

function line(path: string, more: Partial<SurveyLine> = {}): SurveyLine {
	const bytes = { used: 0, logs: 0, freed: 0 };
	const unsaid = { stated: false, place: null, exported: false, otherSide: false, sampled: false, bytes };
	return { path, kind: 'messages', estimate: 40, from: FEB, to: MAR, threads: 3, capture: MAR, ...unsaid, ...more };
}
function sources(paths: readonly string[], stores: readonly SurveyLine[], more: Partial<KnownOfSources> = {}): Source[] {
	const given = paths.map((path) => ({ path, size: 100 }));
	return sourcesOf({ given, files: given, backups: [], locked: [], books: [], stores, ...more });
}
const told = (list: readonly Source[]): string[] => list.map((s) => `${s.path}: ${s.what}, ${s.files} files`);

describe('what was given', () => {
	it('is as many sources as lie beside each other, each with all that lies in its folder', () => {
		const paths = ['ev/Laptop/user/Chat/main.db', 'ev/Laptop/user/Files/a.png', 'ev/From Odile/im/im.db', 'ev/chat.zip', 'ev/names.vcf'];
		const files = [...paths, 'ev/chat.zip/talk.txt', 'ev/chat.zip/media/b.png'].map((path) => ({ path, size: 100 }));
		const found = sources(
			paths,
			[line(paths[0]!), line(paths[2]!, { otherSide: true }), line('ev/chat.zip/talk.txt', { exported: true })],
			{ files, books: [{ path: 'ev/names.vcf', people: 7 }] }
		);
		assert.deepEqual(told(found), [
			'ev/From Odile: other side, 1 files',
			'ev/Laptop: folder, 2 files',
			'ev/chat.zip: export, 1 files',
			'ev/names.vcf: address book, 1 files'
		]);
		assert.equal(found[3]!.people, 7);
		assert.deepEqual(found[1]!.stores, [paths[0]]);
	});
	it('by itself is a store; a packed folder of one is told from it', () => {
		const files = ['phone.db', 'phone.db-wal', 'copy.tar.gz', 'copy.tar.gz/data/phone.db'].map((path) => ({ path, size: 100 }));
		const found = sources(['phone.db', 'phone.db-wal', 'copy.tar.gz'], [line('phone.db'), line('copy.tar.gz/data/phone.db')], { files });
		assert.deepEqual(told(found), ['copy.tar.gz: packed, 1 files', 'phone.db: store, 2 files']);
	});
	it('in several copies is one source for each of them, with all the programs in it', () => {
		const [a, b] = ['ev/1 Feb', 'ev/1 Mar'];
		const paths = [a, b].flatMap((copy) => [`${copy}/sms/sms.db`, `${copy}/talk/talk.db`]);
		const found = sources(
			paths,
			paths.map((path) => line(path, path.includes('/sms/') ? { place: path.startsWith(a!) ? a! : b! } : {}))
		);
		assert.deepEqual(told(found), ['ev/1 Feb: folder, 2 files', 'ev/1 Mar: folder, 2 files']);
		assert.equal(found[0]!.estimate, 80);
	});
	it('says of a backup what it states before anything is read, and of what is locked that it is', () => {
		const file = { path: 'old/Home/sms.db' };
		const backup = { folder: 'old', device: 'Fennel 3', date: FEB, locked: false, partial: true, files: [file] };
		const more = { backups: [backup, { ...backup, folder: 'new', files: [], locked: true }], locked: ['new', 'diary.age'] };
		const paths = ['old/ab/abcd', 'old/list.db', 'new/list.db', 'diary.age'];
		const [locked, before, stated] = sources(paths, [], more)
			.sort((x, y) => (x.path < y.path ? 1 : -1))
			.toReversed();
		assert.deepEqual([locked!.what, locked!.locked], ['locked', true]);
		assert.deepEqual([before!.what, before!.locked, before!.estimate], ['backup', true, null]);
		assert.deepEqual([stated!.device, stated!.taken, stated!.stated, stated!.partial], ['Fennel 3', FEB, true, true]);
		const read = sources(paths, [line(file.path)], more).find((s) => s.path === 'old')!;
		assert.deepEqual([read.estimate, read.from, read.to, read.taken], [40, FEB, MAR, FEB]);
	});
	it('stays known while it is left out of a look, and goes when it is taken out', () => {
		const [both, one] = [sources(['a.db', 'b.db'], [line('a.db'), line('b.db')]), sources(['a.db', 'b.db'], [line('a.db')])];
		const isLeft = (store: string): boolean => store === 'b.db';
		assert.deepEqual(told(withKnown(one, both, { given: [{ path: 'a.db' }, { path: 'b.db' }], isLeft })), told(both));
		assert.deepEqual(told(withKnown(one, both, { given: [{ path: 'a.db' }], isLeft })), told(one));
	});
});

describe('a source as a place', () => {
	const list = (places: readonly Place[], more: Partial<ListedPlaces> = {}): ListedPlaces => ({
		places,
		offList: [],
		given: ['old/list.db', 'talk.zip'],
		all: true,
		today: TODAY,
		zone: 'UTC',
		...more
	});
	const backup = { folder: 'old', device: 'Fennel 3', date: FEB, locked: false, partial: false, files: [{ path: 'old/Home/sms.db' }] };
	const given = sources(['old/list.db', 'talk.zip'], [line('old/Home/sms.db'), line('talk.zip/talk.txt', { exported: true })], {
		backups: [backup]
	});
	const place = (more: Partial<Place>): Place => ({
		id: 'p',
		kind: 'export',
		name: 'Odile’s copy',
		note: '',
		taken: '',
		span: null,
		source: null,
		offer: null,
		capture: null,
		tried: null,
		...more
	});

	it('has its kind, its day and its span at once', () => {
		const [first, second, ...more] = placesWith(given, list([]));
		assert.equal(more.length, 0);
		assert.deepEqual(
			[first!.kind, first!.name, first!.taken, first!.source],
			['computer-backup', 'Backup of Fennel 3', '9 February 2025', 'old']
		);
		assert.deepEqual(first!.span, { from: FEB, to: MAR });
		assert.deepEqual([second!.kind, second!.name], ['export', 'talk.zip']);
	});
	it('is the one on the list that it was offered for, or the only one of its kind and time', () => {
		const offered = placesWith(given, list([place({ kind: 'other-side', offer: 'talk.zip' })]));
		assert.deepEqual(
			[offered.length, offered[0]!.source, offered[0]!.name, offered[0]!.taken],
			[2, 'talk.zip', 'Odile’s copy', '2 March 2025']
		);
		const only = placesWith(given, list([place({ taken: 'March 2025' })]));
		assert.deepEqual([only.length, only[0]!.source], [2, 'talk.zip']);
		assert.equal(placesWith(given, list([place({ taken: '2023' })])).length, 3);
		assert.equal(placesWith(given, list([place({}), place({ id: 'q' })])).length, 4);
	});
	it('keeps what the user wrote, and goes with the source, or stays off the list', () => {
		const named = placesWith(given, list([])).map((p) => (p.source === 'old' ? { ...p, name: 'The laptop’s', taken: 'February 2025' } : p));
		const again = placesWith(given, list(named));
		assert.deepEqual([again[0]!.name, again[0]!.taken, again.length], ['The laptop’s', 'February 2025', 2]);
		assert.equal(placesWith([], list(named, { all: false })).length, 2, 'before anything is read nothing is taken off');
		const gone = given.filter((s) => s.path === 'talk.zip');
		assert.deepEqual(
			placesWith(gone, list(named, { given: ['talk.zip'] })).map((p) => p.source),
			['talk.zip']
		);
		assert.deepEqual(
			placesWith(given, list([], { offList: ['old'] })).map((p) => p.source),
			['talk.zip']
		);
	});
	it('frees the place that the user had put on the list when it is taken out', () => {
		const tried = { at: TODAY, result: 'found' as const, note: '', byLook: true };
		const [freed] = placesWith([], list([place({ source: 'talk.zip', tried })], { given: [] }));
		assert.deepEqual([freed!.source, freed!.tried], [null, null]);
	});
});
