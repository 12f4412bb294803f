/** Weave: the messages of all stores become threads. */
export { weave, type Weave, type Woven, type WovenStore, type WovenThread } from './weave';
export { plainMessage, plainThread, type NamedSource, type PlainOptions } from './plain';
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
