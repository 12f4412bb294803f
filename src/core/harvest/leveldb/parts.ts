/**
 * The files of one LevelDB store ("impl"): `CURRENT` names the manifest, `MANIFEST-000002` lists the tables in use
 * (`000005.ldb`, older `.sst`), `000003.log` has what was written last. `LOG` is the engine's own protocol, `LOCK` is empty.
 */
import { isCutText, type ByteSource } from '../../bytes';
import { hasMagic } from '../sqlite/header';
import { isLog } from './log';
import { isTable } from './table';

export type PartKind = 'log' | 'table' | 'manifest' | 'current' | 'other';

const NAMED: readonly [RegExp, PartKind][] = [
	[/^\d{3,}\.log$/i, 'log'],
	[/^\d{3,}\.(?:ldb|sst)$/i, 'table'],
	[/^MANIFEST-\d+$/, 'manifest'],
	[/^CURRENT$/, 'current'],
	[/^(?:LOG(?:\.old)?|LOCK)$/, 'other']
];

/** What a file is called as, of a store's files; null for any other name. */
export const partNamed = (name: string): PartKind | null => NAMED.find(([form]) => form.test(name))?.[1] ?? null;

/** Number of a table or a log, by its name. */
export const numberOf = (name: string): number => Number(/\d+/.exec(name)?.[0] ?? 0);

/**
 * The files of a folder that make a store, of those that are called so; none where nothing in them is one. What is called
 * a log or a table and is a text or a file of another kind is none of it, unless its bytes are damaged beyond telling.
 */
export function partsOf<T extends { name: string; source: ByteSource }>(named: readonly T[]): T[] {
	const isEntries = ({ name, source }: T): boolean => {
		const kind = partNamed(name);
		return (kind === 'log' && isLog(source)) || (kind === 'table' && isTable(source));
	};
	const proven = new Set(named.filter(isEntries));
	if (proven.size === 0) return [];
	return named.filter((part) => proven.has(part) || !['log', 'table'].includes(partNamed(part.name)!) || !isOther(part.source));
}

/** Whether bytes are something else: a text, or a database. */
function isOther(source: ByteSource): boolean {
	const head = source.read(0, HEAD);
	return hasMagic(head) || (head.length > 0 && isCutText(head, 0, head.length, 'utf8'));
}
const HEAD = 512;
