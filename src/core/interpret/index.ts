/** Interpret: the rows of one store get their meaning, by nobody's name. */
export { readStore } from './roles';
export { sheetsOf, cell, type Sheet, type SheetColumn } from './sheet';
export { keyOf, type Key } from './refs';
export { timeOf, numberIn, type TimeReading } from './time';
export { PeopleBook, normalAddress } from './people';
export { understand, type Understood } from './messages';
export type { StoreReading, MessageReading, DirectionRule, Guess } from './reading';
