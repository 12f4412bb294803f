/**
 * `npm run ombudsman`: the command line, put together from its sources as they are now. Loading each of its many files by
 * itself takes two seconds; this takes a quarter of one.
 */
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'esbuild';

const root = join(import.meta.dirname, '..');
/** Within the packages, where what is not put in is found. */
const kept = join(root, 'node_modules', '.cache', 'ombudsman');
/** Milliseconds after which what was put together from other sources is not being started any more. */
const OLD = 3_600_000;

const { outputFiles } = await build({
	entryPoints: [join(root, 'src', 'cli', 'main.ts')],
	bundle: true,
	platform: 'node',
	format: 'esm',
	mainFields: ['module', 'main'],
	// It loads a binary that lies beside it.
	external: ['7z-wasm'],
	// Packages in the older form ask for the host's own modules by this.
	banner: { js: "import { createRequire as requireOf } from 'node:module'; const require = requireOf(import.meta.url);" },
	write: false,
	logLevel: 'error'
});
const [{ contents }] = outputFiles;
const program = join(kept, `${createHash('sha256').update(contents).digest('hex').slice(0, 16)}.mjs`);

function keep() {
	if (existsSync(program)) return;
	mkdirSync(kept, { recursive: true });
	// Under another name first: two that start at once never read half of it.
	writeFileSync(`${program}.${process.pid}`, contents);
	renameSync(`${program}.${process.pid}`, program);
	const modified = (name) => statSync(join(kept, name), { throwIfNoEntry: false })?.mtimeMs ?? 0;
	for (const name of readdirSync(kept)) if (modified(name) < Date.now() - OLD) rmSync(join(kept, name), { force: true });
}

function isKept() {
	try {
		keep();
		return true;
	} catch {
		return false;
	}
}

if (isKept()) await import(pathToFileURL(program).href);
else {
	// Nothing can be written there: file by file then.
	const { tsImport } = await import('tsx/esm/api');
	await tsImport('../src/cli/main.ts', import.meta.url);
}
