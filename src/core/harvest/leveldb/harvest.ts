/**
 * Harvest of one LevelDB store. Each entry is a row of the table that its key belongs to. The newest write to a key that the
 * files in use hold is its row in use, unless it deletes the key; what earlier writes said, what logs and tables hold that
 * are in use no more, and batches never ended are rows of earlier states.
 */
import type { ByteSource, Encoding } from '../../bytes';
import type { Note, Reach, Row, Sighting, Standing, Table } from '../../model';
import type { AccountLine, Harvested, Progress, Rows } from '../harvested';
import { beginningOf, held } from '../large';
import { plainTable } from '../plain-table';
import { hasFiles } from '../structured-clone';
import { writesOf } from './batch';
import { blockAt, TRAILER } from './block';
import { areIndexed, layoutOfIndexed } from './indexed-db';
import { PLAIN_LAYOUT, type KeyLayout } from './key-layout';
import { bytesAgain, logRecords, placeIn } from './log';
import { readManifest, type Manifest } from './manifest';
import { numberOf, partNamed } from './parts';
import { tableBlocks } from './table';
import { merged, nameOf, rowOf, sameBytes, versionOf, type Kept, type Merged, type Version } from './versions';
import type { Write } from './write';

/** A file of the store: its place in the look's list, and what it is called. */
export interface LevelPart {
	file: number;
	name: string;
	source: ByteSource;
}

const HELD_AT_MOST = 512 << 20;
/** A value is long from so many bytes on. */
const LONG = 16 << 10;

export class LevelHarvest implements Harvested {
	readonly account: AccountLine[] = [];
	readonly notes: Note[] = [];
	readonly sequences: ReadonlyMap<string, number> = new Map();
	readonly encoding: Encoding = 'utf8';
	readonly engineVersion = 0;
	readonly book: Rows;
	private readonly keys = new Map<string, Kept>();
	private readonly manifest: Manifest | null;
	private reached: Reach | null = null;
	private settled: { writes: number; lost: boolean; tables: Table[]; rows: Row[][] } | null = null;
	private writes = 0;
	private isReading = false;

	/** Its logs and tables. */
	private readonly parts: readonly LevelPart[];

	private heldBytes = 0;

	/** `folder`: what the store's folder is called; `files`: all files of it; `most`: bytes of values from which on long ones are not kept whole. */
	constructor(
		private readonly folder: string,
		files: readonly LevelPart[],
		private readonly most = HELD_AT_MOST
	) {
		this.manifest = manifestOf(files);
		this.parts = files.filter((p) => ['log', 'table'].includes(partNamed(p.name)!));
		this.sayWhatIsMissing();
		const rowsOf = (): Row[][] => this.settle().rows;
		// Asked for with every step: while files are read it is about as many as there are keys.
		const sizeSoFar = (): number => (this.isReading ? this.keys.size : this.settle().rows.reduce((sum, rows) => sum + rows.length, 0));
		this.book = {
			get size() {
				return sizeSoFar();
			},
			get rows() {
				return rowsOf().flat();
			},
			rowsOf: (table) => rowsOf()[table] ?? []
		};
	}

	get tables(): Table[] {
		return this.settle().tables;
	}

	/** The number of the last write: what was changed later has a higher one. */
	get changeCounter(): number {
		return this.manifest?.lastSequence ?? 0;
	}

	*run(reach: Reach): Generator<Progress, void, void> {
		if (this.reached === null) {
			const inUse = this.parts.filter((p) => this.isInUse(p));
			yield* this.readAll(inUse, 'used');
			this.reached = 'used';
			this.account.push({ space: 'rows in use', bytes: sizeOf(inUse), rows: this.book.size });
		}
		if (reach !== 'used' && this.reached === 'used') {
			const before = this.book.size;
			const others = this.parts.filter((p) => !this.isInUse(p));
			yield* this.readAll(others, 'logs');
			this.reached = 'logs';
			this.account.push({ space: 'entries replaced', bytes: sizeOf(others), rows: this.book.size - before });
		}
	}

	/** Whether a log or a table is in use, as the manifest says; without one all are. */
	private isInUse({ name }: LevelPart): boolean {
		const { manifest } = this;
		const number = numberOf(name);
		if (!manifest) return true;
		return partNamed(name) === 'table' ? manifest.tables.has(number) : number >= manifest.log || number === manifest.logBefore;
	}

	private *readAll(parts: readonly LevelPart[], reach: Reach): Generator<Progress, void, void> {
		const total = sizeOf(parts);
		let before = 0;
		this.isReading = true;
		try {
			for (const part of parts) {
				const isLive = reach === 'used';
				for (const done of partNamed(part.name) === 'table' ? this.readTable(part, isLive) : this.readLog(part, isLive))
					yield { reach, done: before + done, total };
				before += part.source.size;
			}
		} finally {
			this.isReading = false;
		}
		if (total > 0) yield { reach, done: total, total };
	}

	private *readLog({ file, name, source }: LevelPart, isLive: boolean): Generator<number, void, void> {
		for (const record of logRecords(source)) {
			const { writes, isCut } = writesOf(record.data);
			// The engine takes nothing from a batch that was not ended, or whose bytes changed.
			const state = { isSound: record.isSound, isLive: isLive && record.isSound && !isCut };
			for (const write of writes) {
				const seen = { file, ...placeIn(record, write.from, write.to), method: 'store-log' as const };
				const from = write.to - (write.value?.length ?? 0);
				this.take(write, seen, state, () => bytesAgain(source, record.pieces, from, write.to));
			}
			if (!record.isWhole && record.end >= source.size) this.say('export-cut', file, name, record.end);
			else if (!record.isSound || isCut) this.say('export-damaged', file, name, record.pieces[0]!.offset);
			yield record.end;
		}
	}

	private *readTable({ file, name, source }: LevelPart, isLive: boolean): Generator<number, void, void> {
		let at = 0;
		for (const found of tableBlocks(source)) {
			if (!found?.block.isSound) this.say('export-damaged', file, name, found?.offset ?? at);
			if (!found) continue;
			const { writes, offset, block } = found;
			at = offset + block.taken;
			for (const write of writes) {
				const place = block.isPlain ? { offset: offset + write.from, length: write.to - write.from } : { offset, length: block.taken };
				const seen = { file, ...place, method: 'store-table' as const };
				const handle = { offset, size: block.taken - TRAILER };
				const from = write.to - (write.value?.length ?? 0);
				this.take(write, seen, { isLive, isSound: block.isSound }, () => blockAt(source, handle)!.bytes.subarray(from, write.to));
			}
			yield at;
		}
	}

	private say(code: 'export-cut' | 'export-damaged', file: number, name: string, place: number): void {
		if (this.notes.some((n) => n.file === file && n.code === code)) return;
		this.notes.push({ code, severity: 'warning', file, detail: { name, place } });
	}

	private sayWhatIsMissing(): void {
		const there = new Set(this.parts.filter((p) => partNamed(p.name) === 'table').map((p) => numberOf(p.name)));
		const missing = [...(this.manifest?.tables ?? [])].filter((number) => !there.has(number));
		const [first] = this.parts;
		if (missing.length > 0 && first)
			this.notes.push({ code: 'store-part-missing', severity: 'warning', detail: { count: missing.length, files: missing.join(', ') } });
	}

	private take(
		write: Write,
		seen: Omit<Sighting, 'standing' | 'grade'>,
		state: { isLive: boolean; isSound: boolean },
		again: () => Uint8Array
	): void {
		const { isLive, isSound } = state;
		const name = nameOf(write.key);
		const kept = this.keys.get(name) ?? { key: Uint8Array.from(write.key), versions: [] };
		if (kept.versions.length === 0) this.keys.set(name, kept);
		const isCut = write.isCut ?? false;
		const same = versionOf(kept, write.sequence);
		const known = same && !isCut && !same.isCut && sameBytes(same.value, write.value) ? same : undefined;
		const sighting: Sighting = { ...seen, standing: 'dropped', grade: isCut || !isSound ? 'fragment' : 'whole' };
		this.writes++;
		if (known) {
			known.isLive ||= isLive;
			known.isSound ||= isSound;
			known.seen.push(sighting);
			return;
		}
		const value = write.value && this.hold(write.value, again, seen.file);
		const version = { value, sequence: write.sequence, isCut, isSound, isLive, seen: [sighting] };
		kept.versions.push(version);
		kept.numbered?.set(write.sequence, version);
	}

	/** A value as it is kept: where there is no more room, of a long one the beginning. */
	private hold(value: Uint8Array, again: () => Uint8Array, file: number): Uint8Array {
		const isTooMuch = this.heldBytes > this.most && value.length > LONG;
		if (isTooMuch && !this.notes.some((n) => n.code === 'values-shortened'))
			this.notes.push({ code: 'values-shortened', severity: 'warning', file, detail: { name: this.folder } });
		const kept = isTooMuch ? beginningOf(value, again) : held(value, again);
		this.heldBytes += kept.length;
		return kept;
	}

	/** The rows of all keys read so far: those in use, and from the reach of logs on those of earlier states. */
	private settle(): { tables: Table[]; rows: Row[][] } {
		const lost = this.reached !== null && this.reached !== 'used';
		if (this.settled && this.settled.writes === this.writes && this.settled.lost === lost) return this.settled;
		const all = [...this.keys.values()];
		const layout = this.layoutOf(all);
		// The first of a store's tables is the list of them.
		const tables = [{ name: 'tables', columns: ['name'] }, ...layout.tables].map(({ name, columns }, i) => keyedTable(i, name, columns));
		const rows = tables.map((): Row[] => []);
		for (const { key, versions } of all) {
			versions.sort((a, b) => b.sequence - a.sequence);
			const newest = versions.find((v) => v.isLive && !v.isCut);
			for (const version of merged(versions)) {
				const standing: Standing = version.all.includes(newest!) ? 'kept' : version.all.some((v) => v.isSound) ? 'dropped' : 'remnant';
				if (standing !== 'kept' && !lost) continue;
				const placed = layout.place(key, version.value);
				if (!placed) continue;
				this.tellFiles(layout, key, version);
				const index = placed.table + 1;
				rows[index]!.push(rowOf(index, placed.values, version.all, standing));
			}
		}
		this.settled = { writes: this.writes, lost, tables, rows };
		return this.settled;
	}

	/** Says of an object which files the list that was written with it has. */
	private tellFiles(layout: KeyLayout, key: Uint8Array, { value, all }: Merged): void {
		const list = layout.listOf?.(key);
		const lists = list ? (this.keys.get(nameOf(list))?.versions ?? []).filter((v) => v.value !== null) : [];
		const away = (v: Version): number => Math.abs(v.sequence - all[0]!.sequence);
		const closest = lists.toSorted((a, b) => away(a) - away(b))[0];
		if (closest) hasFiles(value, layout.filesIn!(list!, closest.value!));
	}

	private layoutOf(all: readonly Kept[]): KeyLayout {
		const keys = all.map((kept) => kept.key);
		if (!areIndexed(this.manifest?.order ?? '', keys)) return PLAIN_LAYOUT;
		const entries = all.flatMap(({ key, versions }) => versions.flatMap(({ value }) => (value ? [{ key, value }] : [])));
		return layoutOfIndexed(entries, this.folder);
	}
}

const sizeOf = (parts: readonly LevelPart[]): number => parts.reduce((sum, p) => sum + p.source.size, 0);

/** The manifest that `CURRENT` names, or the newest. */
function manifestOf(parts: readonly LevelPart[]): Manifest | null {
	const current = parts.find((p) => partNamed(p.name) === 'current');
	const named = current ? new TextDecoder().decode(current.source.read(0, 64)).trim() : '';
	const all = parts.filter((p) => partNamed(p.name) === 'manifest').sort((a, b) => numberOf(b.name) - numberOf(a.name));
	const chosen = all.find((p) => p.name === named) ?? all[0];
	return chosen ? readManifest(chosen.source) : null;
}

/** Entries are known by their first column, the key. */
const keyedTable = (index: number, name: string, columns: readonly string[]): Table => ({
	...plainTable(index, name, columns),
	primaryKey: [0],
	withoutRowid: true
});
