/**
 * Addresses with the device, or the nickname in a room, behind a stroke ("odile@marrow.example/desk"): the bare
 * address says who it is (RFC 6120, section 2.1; RFC 7622, section 3.4 "Resourcepart").
 */
import type { Row, Value } from '../model';
import { EMAIL } from './profile';

const ROWS = 2000;
const LEAST = 4;
const NEARLY_ALL = 0.95;
const LONGEST = 1000;

interface FullAddress {
	bare: string;
	resource: string | null;
}

function fullAddress(value: unknown): FullAddress | null {
	if (typeof value !== 'string' || value.length > LONGEST) return null;
	const stroke = value.indexOf('/');
	const bare = stroke < 0 ? value : value.slice(0, stroke);
	return EMAIL.test(bare) ? { bare, resource: stroke < 0 ? null : value.slice(stroke + 1) || null } : null;
}

export interface FullAddresses {
	bare: (row: Row) => string | undefined;
	/** Who wrote, of what came out of a room; null where none of them is a room. */
	nickname: { read: (row: Row) => string | undefined; inRooms: true } | null;
}

/** Reads a column's addresses without what stands behind them, or null where nothing does. `valueOf`: undefined for what is cut. */
export function fullAddressesIn(rows: readonly Row[], valueOf: (row: Row) => Value | undefined): FullAddresses | null {
	const values = rows.slice(0, ROWS).flatMap((row) => {
		const value = valueOf(row);
		return typeof value === 'string' ? [value] : [];
	});
	const read = values.map(fullAddress).filter((one) => one !== null);
	const full = read.filter((one) => one.resource !== null);
	if (read.length < Math.max(LEAST, values.length * NEARLY_ALL) || full.length === 0) return null;
	const rooms = roomsAmong(read);
	const of = (row: Row): FullAddress | null => fullAddress(valueOf(row));
	const nickname = (row: Row): string | undefined => {
		const one = of(row);
		return one && rooms.has(one.bare) ? (one.resource ?? undefined) : undefined;
	};
	return { bare: (row) => of(row)?.bare, nickname: rooms.size > 0 ? { read: nickname, inRooms: true } : null };
}

/** Those behind which people stand rather than devices: written as names are, by their own addresses, or called as those of others. */
function roomsAmong(addresses: readonly FullAddress[]): Set<string> {
	const behind = new Map<string, Set<string>>();
	for (const { bare, resource } of addresses)
		if (resource !== null) behind.set(bare, (behind.get(bare) ?? new Set<string>()).add(resource));
	const called = new Set(addresses.map(({ bare }) => bare.slice(0, bare.indexOf('@')).toLowerCase()));
	const isSomebody = (nickname: string): boolean =>
		/\p{L}\s+\p{L}/u.test(nickname) || EMAIL.test(nickname) || called.has(nickname.toLowerCase());
	return new Set([...behind].filter(([, names]) => [...names].filter(isSomebody).length * 2 > names.size).map(([bare]) => bare));
}
