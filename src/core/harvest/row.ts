import type { Grade, Method, Row, Sighting, Standing, Value } from '../model';

/** A row with its first sighting. Most rows are never asked for it, so it is made only when they are. */
export class HarvestedRow implements Row {
	moreSightings?: number;
	private seen: Sighting[] | null = null;

	constructor(
		public table: number,
		public tableKnown: boolean,
		public rowid: number | bigint | null,
		public values: (Value | undefined)[],
		public cut: number,
		public standing: Standing,
		public grade: Grade,
		readonly file: number,
		readonly offset: number,
		private readonly length: number,
		private readonly method: Method,
		private readonly page: number,
		private readonly frame: number
	) {}

	get sightings(): Sighting[] {
		if (!this.seen) {
			const first: Sighting = {
				file: this.file,
				offset: this.offset,
				length: this.length,
				method: this.method,
				page: this.page,
				standing: this.standing,
				grade: this.grade
			};
			if (this.frame) first.frame = this.frame;
			this.seen = [first];
		}
		return this.seen;
	}
}
