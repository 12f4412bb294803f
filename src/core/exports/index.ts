/** Exported conversations among the files of a case. */
export { findExports } from './find';
