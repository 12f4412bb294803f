import type { Note } from './model';

/** That a store could not be looked at to the end: an error of ours, which must not take the others away. */
export const brokeOff = (store: string, doing: string, error: unknown): Note => ({
	code: 'store-broke-off',
	severity: 'warning',
	detail: { store, doing, problem: error instanceof Error ? error.message : String(error) }
});
