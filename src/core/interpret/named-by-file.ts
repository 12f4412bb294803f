/** Stores of one conversation each, which name nobody but in their file's name: `+447700900123.db`, `chat_447700900123.sqlite`. */
import { baseOf } from '../paths';
import type { Table } from '../model';
import type { Understood, UnderstoodStore } from './messages';
import { PeopleBook } from './people';
import { EMAIL, PHONE } from './profile';
import type { StoreReading } from './reading';

/** Words that go before an address in a file's name, and endings behind it. */
const AROUND =
	/^(?:(?:chats?|messages?|msgs?|conversations?|history|log|with|talk|im|sms)[\s_-]+)+|(?:\.(?:db|db3|sqlite3?|store|dat|data|bak|old|storedata))+$/gi;
const DIGITS_LEAST = 8;

/** The number or address that a file is called by; null where it is called otherwise. */
export function addressOfFile(path: string): string | null {
	const name = baseOf(path).replace(AROUND, '');
	if (EMAIL.test(name)) return name;
	// A date is written with as many digits, and a count with fewer.
	const isNumber = PHONE.test(name) && name.replace(/\D/g, '').length >= DIGITS_LEAST && !/^(?:19|20)\d{6}/.test(name.replace(/\D/g, ''));
	return isNumber ? name : null;
}

/** Gives the messages of a store that name nobody, and no conversation, to whom its file is called by. */
export function nameByFile({ messages }: UnderstoodStore, path: string, reading: StoreReading, tables: readonly Table[]): void {
	const address = addressOfFile(path);
	const isNameless = ({ reading: m }: Understood): boolean =>
		[m.peer, m.sender, m.recipient, m.participant, m.thread].every((party) => party === null) && m.threadJoin === null && m.group === null;
	if (address === null || messages.length === 0 || !messages.every(isNameless)) return;
	const party = new PeopleBook(reading, tables).byAddressText(address);
	for (const message of messages) {
		message.correspondent ??= party;
		message.threadKey = address;
	}
}
