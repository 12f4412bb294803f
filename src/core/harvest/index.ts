/** Harvest: a file's bytes become rows. Each format has a folder; this is their whole public face. */
export { StoreHarvest, type AccountLine, type Progress } from './sqlite/harvest';
export { hasMagic } from './sqlite/header';
export type { StoreFiles } from './sqlite/database';
export { addSighting, agrees, betterGrade, betterStanding, sameValue } from './rowbook';
