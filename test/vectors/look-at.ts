/** A look at files made up in a test, to the furthest reach. */
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import { unwrap } from '../../src/core/unwrap';

/** `files`: what each path holds; `owner`: whose device it is, where the user says so. */
export async function lookAt(files: Record<string, string | Uint8Array>, owner: string | null): Promise<Look> {
	const given = Object.entries(files).map(([path, content]) => ({
		name: path.slice(path.lastIndexOf('/') + 1),
		path,
		source: new MemorySource(typeof content === 'string' ? new TextEncoder().encode(content) : content)
	}));
	const look = new Look((await unwrap(given, [])).files, { reach: 'raw', owner });
	for (const event of look.run()) void event;
	return look;
}
