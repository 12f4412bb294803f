import type { BundleRecord, RecordMessage } from './record';

/** Who wrote a message, as the record names them. */
export function writerOf(m: RecordMessage, record: Pick<BundleRecord, 'owner'>): string {
	if (m.direction === 'out') return record.owner;
	return m.person ?? m.correspondent ?? (m.direction === 'in' ? 'Writer not known' : 'Direction not known');
}
