/** Prospects: what is missing, where it can still be, in which order to look, and until when. */
export { isWith, type Named } from './asked';
export { CATALOGUE, catalogueSchema, kindSchema, kindsWith, readCatalogue, type Catalogue, type Harm, type PlaceKind } from './catalogue';
export { calendarOf, clocksOf, type Clock } from './clocks';
export { countPlaces, type Numbered } from './counted';
export { parseVagueDate, type Span, type VagueDate } from './dates';
export { isFromSource, placesWith, type ListedPlaces } from './from-sources';
export { sayJudgement, type Asked } from './judge';
export {
	emptyLoss,
	HOW_LOST,
	isStated,
	KINDS_WANTED,
	lossSchema,
	readLoss,
	type Loss,
	type LossProblem,
	type LossRead,
	type LossSpans
} from './loss';
export {
	isOpen,
	placeProblem,
	placeSchema,
	rankPlaces,
	type Can,
	type Counted,
	type Place,
	type Ranked,
	type Situation,
	type Verdict
} from './places';
export { WARNINGS, type WarningId } from './warnings';
