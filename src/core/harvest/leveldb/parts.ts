/**
 * The files of one LevelDB store ("impl"): `CURRENT` names the manifest, `MANIFEST-000002` lists the tables in use
 * (`000005.ldb`, older `.sst`), `000003.log` has what was written last. `LOG` is the engine's own protocol, `LOCK` is empty.
 */
import type { ByteSource } from '../../bytes';
import { beginsAsLog } from './log';
import { endsAsTable } from './table';

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

/** Whether a file is what it is called: one of those that hold entries, which make a store. A table may have lost its end. */
export function holdsEntries(name: string, source: ByteSource): boolean {
	const kind = partNamed(name);
	return (kind === 'log' && beginsAsLog(source)) || (kind === 'table' && (endsAsTable(source) || /\.ldb$/i.test(name)) && source.size > 0);
}
