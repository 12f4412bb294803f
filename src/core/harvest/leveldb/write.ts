/** One write to a key, wherever it stands: in the log, in a table. */
export interface Write {
	key: Uint8Array;
	/** Null where the key was deleted. */
	value: Uint8Array | null;
	/** Its number among all writes to the store; a later one of the same key replaces it. */
	sequence: number;
	/** The value breaks off. */
	isCut?: boolean;
}
