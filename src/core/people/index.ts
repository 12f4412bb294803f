/** People: address books, and the names they give. */
export { AddressBook } from './book';
export { isVcard, readList, readVcards, type Card } from './vcard';
export { Identities, type NamedParty } from './identity';
