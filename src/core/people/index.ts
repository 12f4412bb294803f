/** People: address books, and the names they give. */
export { AddressBook } from './book';
export { isEmail, isNumber, utf8Size, type Card } from './card';
export { isVcard, readVcards } from './vcard';
export { readList } from './list';
export { isLdif } from './ldif';
export { readRows, type ListRow } from './list';
export { HOLDS, readEntries, type Entry, type Place } from './entries';
export { headingOf } from './headings';
export { readBook, REACHED_BY, type BookText } from './read-book';
export { Identities, type NamedParty } from './identity';
