/** Weave: the messages of all stores become threads. */
export { weave, type Weave, type WovenStore, type WovenThread } from './weave';
export { bracketOf, capturesFor, type Bracket, type CaptureState } from './captures';
export { familiesOf, isSomebodysExport, storesOf, type Capture, type Family } from './families';
export { patternOf, patternSchema, type LossPattern } from './pattern';
export { Woven } from './woven';
export { plainMessage, plainThread, type NamedSource, type PlainOptions } from './plain';
export { MediaIndex, type MediaLink } from './media';
export {
	directionSchema,
	gapSchema,
	gradeSchema,
	messageSchema,
	seenAtSchema,
	standingSchema,
	threadSchema,
	type Message,
	type SeenAt,
	type Thread
} from './thread';
export { sidesSchema, type SidesOfThread } from './sides';
