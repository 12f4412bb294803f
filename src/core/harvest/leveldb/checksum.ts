/** The sums of LevelDB's log and tables: CRC-32C, turned and with a constant added (its documentation, "log_format" and "table_format"). */
import crc32c from 'crc-32/crc32c.js';

/** Whether bytes have the sum that is stored of them. */
export const hasSum = (stored: number, bytes: Uint8Array): boolean => stored === masked(crc32c.buf(bytes) >>> 0);

function masked(crc: number): number {
	return (((crc >>> 15) | (crc << 17)) + 0xa282ead8) >>> 0;
}
