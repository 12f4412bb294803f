/** Interpret: the rows of one store get their meaning, by nobody's name. */
export { readStore } from './roles';
export { openDocuments } from './documents';
export { capturesOf, siblingsOf } from './captures';
export { sheetsBeside, withoutStrangers, type NamedHarvest } from './beside';
export { keepOwnRows, sheetsOf, cell, type Sheet, type SheetColumn } from './sheet';
export { tableListsOf } from './table-list';
export { keyOf, type Key } from './refs';
export { timeOf, numberIn, TIME_LABELS, type TimeReading } from './time';
export { columnRoleSchema, correctionSchema, tableRoleSchema, type ColumnRole, type Correction, type TableCorrection } from './correction';
export { describeReading, storeReadingSchema, type PlainColumn, type PlainReading, type PlainTable } from './describe';
export { addressesTogether, PeopleBook, normalAddress, type Party } from './people';
export { understand, type Understood, type UnderstoodStore } from './messages';
export { messageKeyOf } from './message-keys';
export type { Attached, Copied, StatedFile } from './belongings';
export type { StoreReading, MessageReading, DirectionRule, Guess } from './reading';
export { ContactList, contactsOf, namedByTitles, withoutBareAddresses, type Contact } from './contacts';
export { addressesOf, isCalledAfter, isSelf, ownerAmong, readExported, sameWords, writersOf } from './exported';
export { isCalledMessages, readRecords, writersIn } from './records';
