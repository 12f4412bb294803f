/**
 * Who wrote, by name, and in the same rows by a number or an address: where each name has one of its own, persons are known by
 * that, and are called by the name.
 */
import { addressShare } from './columns';
import type { Context } from './context';
import { areNamedTogether } from './keys-by-kind';
import type { MessageReading } from './reading';
import { keyOf } from './refs';
import { cell, type SheetColumn } from './sheet';

const ROWS = 4000;
/** Of a column of addresses: share of its values that are some, and of the names that one stands beside. */
const ADDRESSES = 0.6;
const MOST = 0.9;
/** Names from which it is told where the columns are not called alike. */
const NAMES = 3;

/** Where persons are named in a message's own row: what they are called by, and their number or address. */
export interface Numbered {
	name: SheetColumn;
	address: SheetColumn;
}

/** Puts the numbers in the place of the names that stand for who wrote. */
export function takeNumbersBesideNames(reading: MessageReading, context: Context): void {
	const { sender } = reading;
	if (!sender || sender.key || reading.peer || reading.recipient || reading.participant || addressShare(sender.value) > 1 - ADDRESSES)
		return;
	const address = addressBeside(sender.value, reading, context);
	if (!address) return;
	reading.numbered = { name: sender.value, address };
	reading.sender = { ...sender, value: address, evidence: [...sender.evidence, `each of them has a number of its own in ${address.name}`] };
	reading.peerName = sender.value;
}

function addressBeside(name: SheetColumn, reading: MessageReading, { tables }: Context): SheetColumn | null {
	const rows = reading.sheet.sure.slice(0, ROWS);
	const used = [reading.text, reading.time, reading.thread].map((part) => part?.value);
	const goTogether = (c: SheetColumn): boolean => {
		const [addresses, names] = [new Map<string | number, string | number>(), new Map<string | number, string | number>()];
		let [both, named] = [0, 0];
		for (const row of rows) {
			const [who, where] = [keyOf(cell(row, name, tables)), keyOf(cell(row, c, tables))];
			if (who === null) continue;
			named++;
			if (where === null) continue;
			both++;
			if ((addresses.get(who) ?? where) !== where || (names.get(where) ?? who) !== who) return false;
			addresses.set(who, where);
			names.set(where, who);
		}
		return both >= named * MOST && addresses.size >= (areNamedTogether(name, c) ? 2 : NAMES);
	};
	return (
		reading.sheet.columns.find((c) => c !== name && c.column >= 0 && !used.includes(c) && addressShare(c) > ADDRESSES && goTogether(c)) ??
		null
	);
}
