import type { RecordMessage } from './record';

/** Who wrote a message, as the screen and the record name them; where that is not known, who it can have been. */
export function writerOf(m: Pick<RecordMessage, 'direction' | 'person' | 'correspondent'>, owner: string): string {
	if (m.direction === 'out') return owner;
	const other = m.person ?? m.correspondent;
	if (m.direction === 'in') return other ?? 'Writer not known';
	return other === null ? 'Direction not known' : `Writer not known: ${other} or ${owner}`;
}
