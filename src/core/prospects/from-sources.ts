/** A source that was given is a place: one that is on the list already, or one of its own. */
import { baseOf, isUnder } from '../paths';
import type { Source } from '../sources';
import { parseVagueDate } from './dates';
import type { Place } from './places';

/** The kind of place that each is, of the catalogue; an address book holds no messages. */
const KINDS: Record<Source['what'], string | null> = {
	backup: 'computer-backup',
	folder: 'profile',
	packed: 'store-copy',
	store: 'store-copy',
	export: 'export',
	'other side': 'other-side',
	'address book': null,
	locked: 'locked-container'
};

/** Sources that become places at most: a list of more is none that anybody reads. */
const MOST = 500;

export interface ListedPlaces {
	places: readonly Place[];
	/** Sources that were taken off the list, by path. */
	offList: readonly string[];
	/** Paths of the files given. */
	given: readonly string[];
	/** Whether the sources are all there are: before anything is read only those are known that say themselves what they are. */
	all: boolean;
	today: number;
	zone: string;
}

const ofSource = (path: string): string => `given:${path}`;
/** Whether a place is on the list because a source was given. */
export const isFromSource = ({ id }: Pick<Place, 'id'>): boolean => id.startsWith(ofSource(''));

/** The places, each source among them with its span. What was not given any more, or never, is none. */
export function placesWith(sources: readonly Source[], { places, offList, given, all, today, zone }: ListedPlaces): Place[] {
	const day = (at: number | null): string =>
		at === null ? '' : new Intl.DateTimeFormat('en-GB', { timeZone: zone, day: 'numeric', month: 'long', year: 'numeric' }).format(at);
	const isThere = (path: string): boolean => given.some((file) => isUnder(file, path) || isUnder(path, file));
	const listed = places
		.filter((p) => !isFromSource(p) || isThere(p.source!))
		// What was found in it is gone with it.
		.map((p): Place => (p.source !== null && !isThere(p.source) ? { ...p, source: null, tried: null } : { ...p }));
	const taken = new Set<Place>();
	for (const source of sources.slice(0, MOST)) {
		const { path, what, from, to } = source;
		const kind = KINDS[what];
		if (kind === null || offList.includes(path)) continue;
		const span = from === null && to === null ? null : { from, to };
		const on = day(source.taken);
		const place = placeOf(source, kind, listed, taken, { today, zone });
		if (!place) {
			listed.push({ ...made(source, kind), taken: on, span });
			taken.add(listed.at(-1)!);
			continue;
		}
		taken.add(place);
		place.source ??= path;
		place.span ??= span;
		if (place.taken.trim() === '') place.taken = on;
		if (isFromSource(place)) Object.assign(place, { kind, span });
	}
	return listed.filter((p) => !isFromSource(p) || taken.has(p) || !all);
}

/** The place on the list that a source is: it says so, or it is the only one of its kind that could be. */
function placeOf(
	{ path, taken: at }: Source,
	kind: string,
	places: readonly Place[],
	taken: ReadonlySet<Place>,
	{ today, zone }: Pick<ListedPlaces, 'today' | 'zone'>
): Place | undefined {
	// What lies at the top of what was given is not all of it.
	const isOne = (other: string | null): boolean => !!other && path !== '' && (isUnder(path, other) || isUnder(other, path));
	const said = places.find((p) => p.source === path) ?? places.find((p) => isOne(p.source)) ?? places.find((p) => isOne(p.offer));
	if (said) return said;
	const open = places.filter((p) => p.kind === kind && p.source === null && p.offer === null && p.tried === null && !taken.has(p));
	const [only, ...more] = open;
	return only && more.length === 0 && isOfTime(only.taken, at, today, zone) ? only : undefined;
}

/** Whether what was taken then can be what is said to be of that time; where either is not known it can. */
function isOfTime(said: string, at: number | null, today: number, zone: string): boolean {
	const parsed = parseVagueDate(said, today, zone);
	if (at === null || !parsed.ok) return true;
	const { from, to } = parsed.span;
	return (from === null || at >= from) && (to === null || at <= to);
}

function made({ path, what, device }: Source, kind: string): Place {
	const name = what === 'backup' && device !== null ? `Backup of ${device}` : baseOf(path) || 'What was given';
	return {
		id: ofSource(path),
		kind,
		name: name.slice(0, 200),
		note: '',
		taken: '',
		span: null,
		source: path,
		offer: null,
		capture: null,
		tried: null
	};
}
