/** From which confidence on a guess about a sheet of messages counts as sure, and what share of its rows must bear one out. */
export const SURELY = 0.7;
export const HARDLY = 0.55;
export const NAMED_THREAD = 0.7;
export const FEW_NAMED = 4;
export const ALL_THREADS = 0.95;
