/** Interpret: the rows of one store get their meaning, by nobody's name. */
export { readStore } from './roles';
export { sheetsOf, cell, type Sheet, type SheetColumn } from './sheet';
export { keyOf, type Key } from './refs';
export { timeOf, numberIn, type TimeReading } from './time';
export { PeopleBook, normalAddress } from './people';
export { understand, type Understood, type UnderstoodStore } from './messages';
export { messageKeyOf } from './companions';
export type { Attached, Copied, StatedFile } from './belongings';
export type { StoreReading, MessageReading, DirectionRule, Guess } from './reading';
