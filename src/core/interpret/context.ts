/** What the parts of a reading know of the store while it is made. */
import type { Harvested } from '../harvest';
import type { Table } from '../model';
import type { Key, Reference } from './refs';
import type { Sheet } from './sheet';

export interface Context {
	tables: readonly Table[];
	sheets: Sheet[];
	keys: Key[];
	references: Map<Sheet, Reference[]>;
	/** Whose device it is, where the user said so: what he is called, in every form known. */
	owner: readonly string[];
	/** What the store's own settings call the owner. */
	stated?: readonly (string | number)[];
	/** What several accounts of the owner are called by, where the store has them. */
	accounts?: readonly string[];
	/** The store and its other captures, as they were harvested. */
	harvests?: readonly Harvested[];
}
