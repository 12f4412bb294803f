/** Unwrap: what is given becomes readable files. So far: databases and their side files, as they are. */
export { gather, kindOf, type FileKind, type GivenFile, type StoreGroup } from './gather';
