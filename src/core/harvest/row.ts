import type { Grade, Method, Row, Sighting, Standing, Value } from '../model';

type Values = (Value | undefined)[];

/** Reads the values of a row that is still where it was found; most rows in use are asked for theirs late or never. */
export interface RowReader {
	values(row: HarvestedRow): Values;
}

/** Where the rows of one page were found, and how. */
export interface RowPlace {
	/** Index into the store's files. */
	file: number;
	/** Of the page within the file, in bytes. */
	offset: number;
	page: number;
	/** Frame of the log or record of the journal; 0 for the database file itself. */
	frame: number;
	method: Method;
	reader: RowReader | null;
}

/** A row with its first sighting. Sightings and, where a reader is given, values are made only when asked for. */
export class HarvestedRow implements Row {
	moreSightings: number | undefined = undefined;
	rest: Row['rest'] = undefined;
	tableByPage: boolean | undefined = undefined;
	tableByLooks: boolean | undefined = undefined;
	private seen: Sighting[] | null = null;

	constructor(
		public table: number,
		public tableKnown: boolean,
		public rowid: number | bigint | null,
		private held: Values | null,
		public cut: number,
		public standing: Standing,
		public grade: Grade,
		readonly place: RowPlace,
		/** Where it starts within the page, and its length, in bytes. */
		readonly start: number,
		readonly length: number
	) {}

	get values(): Values {
		return (this.held ??= this.place.reader!.values(this));
	}

	set values(values: Values) {
		this.held = values;
	}

	get sightings(): Sighting[] {
		if (!this.seen) {
			const { file, offset, page, frame, method } = this.place;
			const { length, standing, grade } = this;
			const first: Sighting = { file, offset: offset + this.start, length, method, page, standing, grade };
			if (frame) first.frame = frame;
			this.seen = [first];
		}
		return this.seen;
	}
}

/** A row in use whose cell lies wholly on its page, its values still there. */
export const rowOfCell = (table: number, rowid: number | bigint, place: RowPlace, start: number, length: number): HarvestedRow =>
	new HarvestedRow(table, true, rowid, null, -1, 'kept', 'whole', place, start, length);

/** A row's own fields; a spread would miss those it makes when asked. */
export const plainRow = (row: Row): Row => ({
	table: row.table,
	tableKnown: row.tableKnown,
	rowid: row.rowid,
	values: row.values,
	cut: row.cut,
	standing: row.standing,
	grade: row.grade,
	sightings: row.sightings
});
