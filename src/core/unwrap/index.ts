/** Unwrap: what was given becomes readable files, and the databases among them stores. */
export { filesOf, gather, kindOf, nameAlone, type FileKind, type GivenFile, type StoreGroup } from './gather';
export { type Backup } from './backup/backup';
export { isPlistFields, openArchive } from './plist/archived';
export { readPlist, type PlistValue } from './plist/plist';
export { unwrap, type Heard, type Unwrapped } from './unwrap';
export type { SolidLoader, SolidUnpacker } from './solid/solid';
