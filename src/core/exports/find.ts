/** Which of the files of a case are exported conversations, and which of them belong together. */
import { brokeOff } from '../broke-off';
import { cardsIn } from '../books';
import { openExport, type DateOrder, type ExportHarvest, type PageSides } from '../harvest';
import { readRecords, readStore, sheetsOf, type MessageReading } from '../interpret';
import type { Note } from '../model';
import { isVcard, type Card } from '../people';
import type { GivenFile } from '../unwrap';
import { joinDays } from './days-of-logs';
import { joinParts, withFurtherPages, type Found } from './pages';
import { joinSingles } from './singles';
import { findDocuments } from './documents';
import { findWorkbooks } from './workbooks';
import { takeListsBeside } from './tables-beside';
import { joinTalks } from './talks-of-folder';
import { baseOf, folderIn } from '../paths';

/** Folders between a conversation and the files that came with it, at most. */
const MEDIA_BELOW = 3;

/** Exported conversations among the files that are no part of a database; which files were read with others, as parts or as lists of them. */
export function findExports(
	files: readonly GivenFile[],
	stores: ReadonlySet<number>
): { found: Found[]; notes: Note[]; joined: ReadonlySet<number>; lists: ReadonlySet<number>; books: { file: number; cards: Card[] }[] } {
	const folders = new Map<string, Set<string>>();
	for (const f of files) {
		const name = baseOf(f.path);
		// What came with a conversation lies beside it, or in a folder beside it.
		let path = folderIn(f.path);
		for (let up = 0; up <= MEDIA_BELOW; up++) {
			const folder = folders.get(path);
			if (folder) folder.add(name);
			else folders.set(path, new Set([name]));
			if (path === '') break;
			path = path.slice(0, path.lastIndexOf('/', path.length - 2) + 1);
		}
	}
	const notes: Note[] = [];
	const almost: Found[] = [];
	const workbooks = findWorkbooks(files);
	const documents = findDocuments(files);
	const parts = new Set([...workbooks.parts, ...documents.parts]);
	notes.push(...workbooks.notes, ...documents.notes);
	const found = files.flatMap((f, file) => {
		if (stores.has(file) || f.opened || parts.has(file)) return [];
		try {
			const one = exportIn(f, file, folders.get(folderIn(f.path))!, undefined, almost);
			return one ? [one] : [];
		} catch (error) {
			notes.push(brokeOff(f.name, 'its beginning', error));
			return [];
		}
	});
	const usual = usualOrders(found, files);
	for (const one of found) {
		const f = files[one.file]!;
		const order = one.harvest.dates.flatMap((d) => (d.open ? (usual.get(writtenSo(f, one.harvest, d)) ?? []) : []))[0];
		if (order) Object.assign(one, exportIn(f, one.file, folders.get(folderIn(f.path))!, order));
	}
	tellSides(found, almost, files, (file, sides) => exportIn({ ...files[file]!, sides }, file, folders.get(folderIn(files[file]!.path))!));
	found.push(...workbooks.found, ...documents.found);
	/** Files that were read with others already. */
	const read = new Set<number>(parts);
	for (const { file } of found) read.delete(file);
	const openPart = (file: number, like?: ExportHarvest, isEntry = false): ExportHarvest | null => {
		const f = files[file]!;
		if (stores.has(file) || read.has(file)) return null;
		const usual = like?.dates[0]?.order;
		try {
			const harvest = openExport({ ...f, isPart: true, isEntry, ...(usual ? { usual } : {}) }, file, folders.get(folderIn(f.path))!);
			if (harvest?.form !== 'records') return null;
			for (const step of harvest.run('used')) void step;
			return harvest;
		} catch {
			// What cannot be read is no part of anything, and is named as any other file that is not.
			return null;
		}
	};
	/** What a step makes of the exports, or what they were where it fails on one of them. */
	const guarded = <T>(step: () => T, otherwise: T): T => {
		try {
			return step();
		} catch (error) {
			notes.push(brokeOff('exported conversations', 'joining those that belong together', error));
			return otherwise;
		}
	};
	const none = new Set<number>();
	const isTaken = (file: number): boolean => stores.has(file) || read.has(file);
	const own = new Set(found.map((f) => f.file));
	const isRead = (file: number): boolean => stores.has(file) || own.has(file);
	const singles = guarded(() => joinSingles(files, isRead, (file) => openPart(file, undefined, true)), { found: [], joined: none });
	found.push(...singles.found);
	for (const file of singles.joined) read.add(file);
	const pages = guarded(() => joinParts(withFurtherPages(found, files), files, openPart), { found, joined: none });
	for (const file of pages.joined) read.add(file);
	const talks = guarded(() => joinTalks(pages.found, almost, files, isTaken, openPart), { found: pages.found, joined: none });
	for (const file of talks.joined) read.add(file);
	const beside = guarded(() => takeListsBeside(talks.found, almost, files, isTaken, openPart), { found: talks.found, lists: none });
	const openDay = (file: number, like: ExportHarvest): ExportHarvest | null => {
		const f = files[file]!;
		return stores.has(file) ? null : openExport({ ...f, usual: like.dates[0]!.order, isLog: true }, file, folders.get(folderIn(f.path))!);
	};
	const days = guarded(() => joinDays(beside.found, files, openDay), { found: beside.found, joined: none });
	return { found: days.found, joined: new Set([...read, ...days.joined]), lists: beside.lists, books: workbooks.books, notes };
}

/** Pages of a folder that do not say which of their two classes is which way are read as those that do, where these agree. */
function tellSides(
	found: Found[],
	almost: Found[],
	files: readonly GivenFile[],
	open: (file: number, sides: PageSides) => Found | null
): void {
	const byFolder = new Map<string, Found[]>();
	for (const one of [...found, ...almost]) {
		if (!/\.x?html?$/i.test(files[one.file]!.name)) continue;
		const folder = folderIn(files[one.file]!.path);
		const pages = byFolder.get(folder);
		if (pages) pages.push(one);
		else byFolder.set(folder, [one]);
	}
	for (const pages of byFolder.values()) {
		const told = pages.flatMap(({ harvest }) => harvest.sides ?? []);
		const [sides] = told;
		if (!sides || told.length === pages.length || told.some((other) => [...other].some(([value, way]) => sides.get(value) !== way)))
			continue;
		for (const one of pages) {
			const read = one.harvest.sides ? null : open(one.file, sides);
			if (!read) continue;
			if (found.includes(one)) Object.assign(one, read);
			else {
				found.push(read);
				almost.splice(almost.indexOf(one), 1);
			}
		}
	}
}

/** What files of one export have in common in how they write dates: the folder they lie in, or that around their folders, and the form. */
function writtenSo(f: GivenFile, { form }: ExportHarvest, date: ExportHarvest['dates'][number]): string {
	const folders = f.path.split('/').slice(0, -1);
	// Each archive is an export of its own, a folder for each conversation is not.
	const top = folders.length > 1 && !ARCHIVE.test(folders.at(-1)!) ? folders.slice(0, -1) : folders;
	return JSON.stringify([top.join('/'), form, date.column, date.form]);
}
const ARCHIVE = /\.(?:zip|7z|tar|tgz|gz|bz2|xz|zst)$/i;

/** In which order exports write dates, where all of their files that decide it agree. */
function usualOrders(found: readonly Found[], files: readonly GivenFile[]): Map<string, DateOrder> {
	const orders = new Map<string, Set<DateOrder>>();
	for (const { file, harvest } of found)
		for (const date of harvest.dates) {
			if (date.open) continue;
			const key = writtenSo(files[file]!, harvest, date);
			orders.set(key, (orders.get(key) ?? new Set()).add(date.order));
		}
	return new Map([...orders].flatMap(([key, set]) => (set.size === 1 ? [[key, [...set][0]!]] : [])));
}

/** Files kept that may be exports together with others, and the bytes of all of them. */
const ALMOST_AT_MOST = 64;
const ALMOST_BYTES = 64 << 20;

/** The conversation that a file is an export of, if it is one. `almost` takes files of records that are none by themselves. `beside` are the names in its folder and below; `usual`: how others of its export write dates. */
function exportIn(
	f: GivenFile & { sides?: PageSides },
	file: number,
	beside: ReadonlySet<string>,
	usual?: DateOrder,
	almost: Found[] = []
): Found | null {
	if (isVcard(new TextDecoder().decode(f.source.read(0, 200)))) return null;
	const harvest = openExport(usual ? { ...f, usual } : f, file, beside);
	if (harvest?.codePage)
		harvest.notes.push({ code: 'code-page', severity: 'note', file, detail: { name: f.name, page: harvest.codePage } });
	const [place] = harvest?.broken ?? [];
	if (place !== undefined) {
		const isEnd = !harvest!.broken.some((at) => at < f.source.size - 1);
		harvest!.notes.push({
			code: isEnd ? 'export-cut' : 'export-damaged',
			severity: 'note',
			file,
			offset: place,
			detail: { name: f.name, place }
		});
	}
	if (harvest?.form === 'store') {
		for (const step of harvest.run('used')) void step;
		const { messages, persons, personEntries } = readStore(sheetsOf(harvest), harvest.tables, []);
		return messages.length + persons.length + personEntries.length > 0 ? { file, harvest } : null;
	}
	if (harvest?.form !== 'records') return harvest && { file, harvest };
	// Records are a conversation only if they read as one.
	for (const step of harvest.run('used')) void step;
	const reading = readRecords(harvest, { asked: [], title: '' });
	if (reading && (reading.messages.some(statesHours) || !listsPersons(f))) return { file, harvest, reading };
	const bytes = almost.reduce((sum, one) => sum + (one.harvest.account[0]?.bytes ?? 0), f.source.size);
	if (!reading && almost.length < ALMOST_AT_MOST && bytes <= ALMOST_BYTES) almost.push({ file, harvest });
	return null;
}

/** Whether nearly all of its entries have a time of day: messages have, birthdays have none. */
function statesHours({ sheet, time }: MessageReading): boolean {
	const values = time ? [...time.value.profile.distinct.keys()].slice(0, 200) : [];
	const hours = values.filter((v) => typeof v === 'number' || /\d[:.hH]\d\d|\d{10}/.test(v)).length;
	return time !== null && time.value.profile.filled >= sheet.sure.length * NEARLY_ALL && hours >= values.length * NEARLY_ALL;
}

/** Whether a file is a list of persons, each of them there once. */
function listsPersons(file: GivenFile): boolean {
	const cards = cardsIn(file);
	return cards.length > 0 && new Set(cards.map((c) => c.name)).size >= cards.length * NEARLY_ALL;
}
const NEARLY_ALL = 0.8;
