/** Installs and builds what is missing, and only that. Uses nothing but Node and npm. */
import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';

const root = join(import.meta.dirname, '..');

export function run(command, args, options = {}) {
	const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', shell: process.platform === 'win32', ...options });
	if (result.status !== 0) {
		process.stderr.write(`${command} ${args.join(' ')} did not succeed.\n`);
		process.exit(result.status ?? 1);
	}
}

const newest = (path) => {
	const info = statSync(path);
	if (!info.isDirectory()) return info.mtimeMs;
	return readdirSync(path).reduce((max, name) => Math.max(max, newest(join(path, name))), info.mtimeMs);
};

export function installMissing() {
	const lock = join(root, 'node_modules', '.package-lock.json');
	if (existsSync(lock) && statSync(lock).mtimeMs >= statSync(join(root, 'package-lock.json')).mtimeMs) return;
	process.stderr.write('Installing packages …\n');
	run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
}

export function buildMissing() {
	const built = join(root, 'build', 'index.js');
	const inputs = ['src', 'static', 'package.json', 'svelte.config.js', 'vite.config.ts'].map((p) => join(root, p));
	if (existsSync(built) && inputs.every((p) => newest(p) <= statSync(built).mtimeMs)) return;
	process.stderr.write('Building …\n');
	run('npx', ['vite', 'build', '--logLevel', 'error']);
}
