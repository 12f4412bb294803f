/**
 * Tables without a schema: where page 1 is gone or belongs to another file, the trees are found from their pages and
 * what their rows look like from the rows. Names are lost; shapes are not.
 */
import { readU32Be, type Encoding } from '../../bytes';
import type { Column, Table } from '../../model';
import { PageUse, type Database } from './database';
import { cellPointer, INTERIOR_TABLE, LEAF_TABLE, localPayload, readPageHeader } from './page';
import { sizeOfSerialType } from './record';
import { readVarint, varintLength } from './varint';

interface Tree {
	root: number;
	leaves: number[];
}

const PAGES_AT_MOST = 4_000_000;
const LEAVES_SAMPLED = 24;
const DEPTH_AT_MOST = 20;

/** B-trees of tables: pages that are such, grouped under those that no other page names as its child. */
function findTrees(db: Database): Tree[] {
	const children = new Map<number, number[]>();
	const leaves = new Set<number>();
	const named = new Set<number>();
	for (let page = 1; page <= Math.min(db.current.pageCount, PAGES_AT_MOST); page++) {
		if (db.use[page] !== PageUse.Unreached) continue;
		const bytes = db.current.read(page);
		const header = bytes && readPageHeader(bytes, page, db.usable);
		if (!bytes || !header || header.cellCount === 0 || header.contentStart > db.usable) continue;
		if (header.type === LEAF_TABLE) leaves.add(page);
		if (header.type !== INTERIOR_TABLE) continue;
		const list = [header.rightChild];
		for (let i = 0; i < header.cellCount; i++) {
			const at = cellPointer(bytes, header, i, db.usable);
			if (at >= 0 && at + 4 <= bytes.length) list.push(readU32Be(bytes, at));
		}
		children.set(page, list);
		for (const child of list) named.add(child);
	}
	const trees: Tree[] = [];
	const taken = new Set<number>();
	const gather = (page: number, into: number[], depth: number): void => {
		if (taken.has(page) || depth > DEPTH_AT_MOST) return;
		taken.add(page);
		if (leaves.has(page)) into.push(page);
		for (const child of children.get(page) ?? []) gather(child, into, depth + 1);
	};
	for (const page of [...children.keys(), ...leaves]) {
		if (named.has(page)) continue;
		const under: number[] = [];
		gather(page, under, 0);
		if (under.length > 0) trees.push({ root: page, leaves: under });
	}
	return trees;
}

type Kinds = { nulls: number; ints: number; reals: number; texts: number; blobs: number };

/** Serial types of a leaf's records, column by column; null where they are no records. */
function sampleTypes(db: Database, leaves: readonly number[]): number[][] {
	const rows: number[][] = [];
	for (const page of leaves.slice(0, LEAVES_SAMPLED)) {
		const bytes = db.current.read(page);
		const header = bytes && readPageHeader(bytes, page, db.usable);
		if (!bytes || !header) continue;
		for (let i = 0; i < header.cellCount; i++) {
			const types = typesOfCell(bytes, cellPointer(bytes, header, i, db.usable), db.usable);
			if (types) rows.push(types);
		}
	}
	return rows;
}

function typesOfCell(bytes: Uint8Array, start: number, usable: number): number[] | null {
	if (start < 0) return null;
	const payload = readVarint(bytes, start, usable);
	if (!varintLength) return null;
	let at = start + varintLength;
	readVarint(bytes, at, usable);
	if (!varintLength) return null;
	at += varintLength;
	const headerSize = readVarint(bytes, at, usable);
	const end = at + headerSize;
	if (!(headerSize > 1) || end > at + localPayload(payload, usable, true)) return null;
	at += varintLength;
	const types: number[] = [];
	let size = headerSize;
	while (at < end) {
		const type = readVarint(bytes, at, end);
		if (!varintLength || Number.isNaN(sizeOfSerialType(type))) return null;
		at += varintLength;
		types.push(type);
		size += sizeOfSerialType(type);
	}
	return size === payload ? types : null;
}

function columnsOf(rows: readonly number[][]): { columns: Column[]; rowidColumn: number } {
	const count = rows.reduce((n, r) => Math.max(n, r.length), 0);
	const kinds: Kinds[] = Array.from({ length: count }, () => ({ nulls: 0, ints: 0, reals: 0, texts: 0, blobs: 0 }));
	for (const row of rows) {
		row.forEach((type, k) => {
			const kind = kinds[k]!;
			if (type === 0) kind.nulls++;
			else if (type === 7) kind.reals++;
			else if (type < 10) kind.ints++;
			else if (type % 2) kind.texts++;
			else kind.blobs++;
		});
	}
	// A column that is null in every row, and comes first, is the rowid's own.
	const rowidColumn = count > 1 && kinds[0]!.nulls === rows.length ? 0 : -1;
	const columns = kinds.map((k, i): Column => {
		const filled = k.ints + k.reals + k.texts + k.blobs;
		const type =
			i === rowidColumn
				? 'INTEGER'
				: filled === 0 || k.blobs > 0
					? ''
					: k.texts === filled
						? 'TEXT'
						: k.reals > 0 && k.texts === 0
							? 'REAL'
							: k.texts === 0
								? 'INTEGER'
								: '';
		return { name: `column ${i + 1}`, type, notNull: false, virtual: false, defaultValue: null };
	});
	return { columns, rowidColumn };
}

/** The encoding that the texts of these rows are in: UTF-16 shows by its zero bytes. */
export function inferEncoding(db: Database): Encoding | null {
	let even = 0;
	let odd = 0;
	let all = 0;
	for (let page = 2; page <= Math.min(db.current.pageCount, 400); page++) {
		const bytes = db.current.read(page);
		const header = bytes && readPageHeader(bytes, page, db.usable);
		if (!bytes || header?.type !== LEAF_TABLE) continue;
		for (let i = 0; i < Math.min(header.cellCount, 20); i++) {
			const start = cellPointer(bytes, header, i, db.usable);
			const types = typesOfCell(bytes, start, db.usable);
			if (!types) continue;
			const text = types.findIndex((t) => t >= 29 && t % 2 === 1);
			if (text < 0) continue;
			readVarint(bytes, start, db.usable);
			let at = start + varintLength;
			readVarint(bytes, at, db.usable);
			at += varintLength;
			at += readVarint(bytes, at, db.usable);
			for (let k = 0; k < text; k++) at += sizeOfSerialType(types[k]!);
			const size = Math.min(sizeOfSerialType(types[text]!), bytes.length - at);
			for (let k = 0; k < size; k++) {
				all++;
				if (bytes[at + k] === 0) {
					if (k % 2) odd++;
					else even++;
				}
			}
		}
	}
	if (all < 40) return null;
	return odd > all * 0.2 ? 'utf16le' : even > all * 0.2 ? 'utf16be' : 'utf8';
}

/** Tables as far as their rows tell them: trees whose rows look alike are one. Largest first. */
export function inferTables(db: Database): { table: Omit<Table, 'index'>; roots: number[] }[] {
	const groups = new Map<string, { rows: number[][]; roots: number[]; leaves: number }>();
	for (const tree of findTrees(db)) {
		const rows = sampleTypes(db, tree.leaves);
		if (rows.length === 0) continue;
		const { columns, rowidColumn } = columnsOf(rows);
		const key = `${rowidColumn}|${columns.map((c) => c.type).join(',')}`;
		const group = groups.get(key);
		if (group) {
			group.rows.push(...rows);
			group.roots.push(tree.root);
			group.leaves += tree.leaves.length;
		} else groups.set(key, { rows, roots: [tree.root], leaves: tree.leaves.length });
	}
	return [...groups.values()]
		.sort((a, b) => b.leaves - a.leaves)
		.map(({ rows, roots }, i) => {
			const { columns, rowidColumn } = columnsOf(rows);
			return {
				table: {
					name: `table ${i + 1}, name lost`,
					rootPage: roots[0]!,
					columns,
					rowidColumn,
					primaryKey: rowidColumn < 0 ? [] : [rowidColumn],
					withoutRowid: false,
					autoIncrement: false,
					dropped: false,
					inferred: true
				},
				roots
			};
		});
}
