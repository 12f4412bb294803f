/** People: address books, and the names they give. */
export { AddressBook } from './book';
export { utf8Size, type Card } from './card';
export { isVcard, readVcards } from './vcard';
export { readList } from './list';
export { readEntries } from './entries';
export { readBook, type BookText } from './read-book';
export { Identities, type NamedParty } from './identity';
