/**
 * A sqlite3 shell that has `.recover`: Debian's is built without it. The amalgamation that the registry's `sqlite3`
 * package carries is compiled once into the temporary folder. Null where there is no compiler or no registry.
 */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

export function recoverShell(): string | null {
	const folder = join(tmpdir(), 'ombudsman-bench', 'shell');
	const shell = join(folder, 'sqlite3');
	if (existsSync(shell)) return shell;
	mkdirSync(folder, { recursive: true });
	const run = (command: string, args: string[], cwd: string): void =>
		void execFileSync(command, args, { cwd, stdio: ['ignore', 'pipe', 'ignore'] });
	const newest = (at: string, test: RegExp): string => {
		const found = readdirSync(at).find((name) => test.test(name));
		if (!found) throw new Error(`nothing like ${test} in ${at}`);
		return found;
	};
	try {
		run('npm', ['pack', 'sqlite3'], folder);
		run('tar', ['xzf', newest(folder, /^sqlite3-.*\.tgz$/)], folder);
		const deps = join(folder, 'package', 'deps');
		run('tar', ['xzf', newest(deps, /^sqlite-autoconf-.*\.tar\.gz$/)], deps);
		const source = join(deps, newest(deps, /^sqlite-autoconf-\d+$/));
		const options = ['-O2', '-DSQLITE_ENABLE_DBPAGE_VTAB', '-DSQLITE_THREADSAFE=0', '-DSQLITE_OMIT_LOAD_EXTENSION'];
		run('cc', [...options, 'shell.c', 'sqlite3.c', '-lm', '-o', shell], source);
		return shell;
	} catch {
		return null;
	}
}
