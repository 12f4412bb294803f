/** Persons of a store as contacts: name, numbers, mail addresses, handles. */
import type { Sighting, Standing, Table } from '../model';
import type { StoreReading } from './reading';
import { PHONE } from './profile';
import { cell } from './sheet';

export interface Contact {
	name: string | null;
	numbers: string[];
	emails: string[];
	handles: string[];
	standing: Standing;
	sightings: Sighting[];
}

export function contactsOf(reading: StoreReading, tables: readonly Table[]): Contact[] {
	return reading.persons.flatMap((person) =>
		person.sheet.rows.flatMap((row): Contact[] => {
			const name = person.name ? cell(row, person.name, tables) : null;
			const contact: Contact = {
				name: typeof name === 'string' && name !== '' ? name : null,
				numbers: [],
				emails: [],
				handles: [],
				standing: row.standing,
				sightings: [...row.sightings]
			};
			for (const column of person.addresses) {
				const value = cell(row, column, tables);
				if (value === null || value === undefined || value === '' || typeof value === 'object') continue;
				const text = String(value);
				(PHONE.test(text) ? contact.numbers : text.includes('@') ? contact.emails : contact.handles).push(text);
			}
			const addresses = contact.numbers.length + contact.emails.length + contact.handles.length;
			return contact.name !== null || addresses > 0 ? [contact] : [];
		})
	);
}
