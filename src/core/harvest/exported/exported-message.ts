/** A message of an exported conversation. */
export interface ExportedMessage {
	/** Stretch of the file, in bytes. */
	offset: number;
	length: number;
	/** ms UTC where `zoned`, else the written clock as if it were UTC. */
	at: number;
	written: string;
	/** Null for a line of the program itself. */
	writer: string | null;
	/** Null where there is only a file. */
	text: string | null;
	/** Names of the files that came with it, a line each; '' where one is said to have been left out. */
	file: string | null;
	/** The other side, where the message says so itself; null where the file is one conversation. */
	with: string | null;
	/** What the other side is called, where the message gives its address besides. */
	called: string | null;
}
