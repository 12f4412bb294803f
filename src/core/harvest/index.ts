/** Harvest: a file's bytes become rows. Each format has a folder; this is their whole public face. */
export type { AccountLine, Harvested, Progress } from './harvested';
export { StoreHarvest } from './sqlite/harvest';
export { ExportHarvest, FILE_COLUMN, openExport, type Mail } from './exported/exported';
export { hasMagic } from './sqlite/header';
export type { StoreFiles } from './sqlite/database';
export { addSighting, agrees, betterGrade, betterStanding, sameValue } from './rowbook';
export { textOfHtml } from './exported/markup';
