/** Earlier states of a database: which pages are left of them, and as views: pages of the log or the journal laid over the file, as they were together then. */
import type { Database } from './database';
import type { JournalRecord } from './journal';
import type { Frame } from './wal';
import { LaidView, LazyView, type PageAt, type PageView } from './view';

/** The frames of the log, where it is this database's. */
export const framesOf = ({ wal, logForeign }: Database): readonly Frame[] => (wal && !logForeign ? wal.frames : []);

/** The pages of the journal, where it is this database's. */
export const recordsOf = ({ journal, journalForeign, pageSize }: Database): readonly JournalRecord[] =>
	journal && !journalForeign && journal.pageSize === pageSize ? journal.records : [];

/** Pages of the database file that the log or the journal replaces: an earlier state, or an undone one. */
export function replacedPages(db: Database): number[] {
	const replaced: number[] = [];
	for (let page = 1; page <= db.filePages; page++) {
		const at = db.current.locate(page);
		if (at && at.file !== db.files.db) replaced.push(page);
	}
	return replaced;
}

/** How many pages an earlier state had is not known: any that the file reaches to can be one of them. */
const ANY_PAGE = 0x7fffffff;

/** The states that the frames of a log belong to, asked for one frame after the other: those of one commit have one. */
export class StatesOfLog {
	private commit = '';
	private view: PageView | null = null;

	constructor(private readonly db: Database) {}

	of(index: number): PageView {
		const { generation, commitFrame } = this.db.wal!.frames[index]!;
		const commit = `${generation}|${commitFrame}`;
		if (!this.view || commit !== this.commit) this.view = stateOfFrame(this.db, index);
		this.commit = commit;
		return this.view;
	}
}

/** The state a frame of the log belongs to: each page as the newest frame of that generation up to its commit has it. */
function stateOfFrame(db: Database, index: number): PageView {
	const frames = db.wal!.frames;
	const frame = frames[index]!;
	return new LazyView(() => {
		const over = new Map<number, PageAt>();
		for (const f of frames) {
			if (f.generation === frame.generation && f.number <= frame.commitFrame)
				over.set(f.page, { file: db.files.wal, offset: f.offset, frame: f.number });
		}
		return new LaidView(db.files.sources, db.files.db, db.pageSize, ANY_PAGE, over);
	});
}

/** The state that the journal would bring back. */
export function stateOfJournal(db: Database): PageView {
	return new LazyView(() => {
		const over = new Map<number, PageAt>();
		for (const r of db.journal!.records)
			if (!over.has(r.page)) over.set(r.page, { file: db.files.journal, offset: r.offset, frame: r.number });
		return new LaidView(db.files.sources, db.files.db, db.pageSize, ANY_PAGE, over);
	});
}

/** The database file as it is, without its log or journal. */
export const stateOfFile = (db: Database): PageView => new LaidView(db.files.sources, db.files.db, db.pageSize, db.filePages, new Map());
