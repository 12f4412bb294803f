/** `npm test`: installs what is missing, then type check, lint, unit and end-to-end tests. Ends with one count. */
import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { chromiumPath } from './chromium.mjs';
import { buildMissing, installMissing } from './prepare.mjs';

const root = join(import.meta.dirname, '..');
let passed = 0;
let failed = 0;

function step(name, command, args, options = {}) {
	process.stdout.write(`\n── ${name}\n`);
	const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', encoding: 'utf8', maxBuffer: 1 << 28, ...options });
	return { ok: result.status === 0, out: String(result.stdout ?? '') };
}

function check(name, command, args) {
	const { ok } = step(name, command, args);
	if (ok) passed++;
	else failed++;
}

function findChromium() {
	if (chromiumPath()) return true;
	const mayInstall = process.getuid?.() === 0 && existsSync('/usr/bin/apt-get');
	if (mayInstall) {
		process.stdout.write('Chromium is missing; installing it from Debian’s packages …\n');
		const quiet = { stdio: ['ignore', 'ignore', 'inherit'] };
		spawnSync('apt-get', ['update', '-qq'], quiet);
		spawnSync('apt-get', ['install', '-y', '-qq', 'chromium'], { ...quiet, env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } });
		if (chromiumPath()) return true;
	}
	process.stdout.write('Chromium is missing: install Debian’s package "chromium", or name another in CHROMIUM, and run npm test again.\n');
	return false;
}

function unit() {
	const files = readdirSync(join(root, 'test', 'unit'))
		.filter((f) => f.endsWith('.test.ts'))
		.map((f) => join('test', 'unit', f));
	const { ok, out } = step('unit tests', process.execPath, ['--import', 'tsx', '--test', '--test-reporter=tap', ...files], {
		stdio: ['ignore', 'pipe', 'inherit']
	});
	const count = (word) => Number(new RegExp(`^# ${word} (\\d+)`, 'm').exec(out)?.[1] ?? 0);
	passed += count('pass');
	const bad = count('fail') + count('cancelled');
	failed += ok ? bad : Math.max(1, bad);
	if (bad || !ok) {
		// Only what failed, with its reasons.
		for (const block of out.split(/\n(?=\s*(?:not )?ok \d+)/))
			if (/^\s*not ok/.test(block)) process.stdout.write(`${block.slice(0, 4000)}\n`);
	}
	process.stdout.write(`unit: ${count('pass')} passed, ${bad} failed, ${count('skipped')} skipped\n`);
}

function endToEnd(hasBrowser) {
	if (!hasBrowser) {
		failed++;
		return;
	}
	buildMissing();
	const report = join(root, 'test-results', 'e2e.json');
	rmSync(report, { force: true });
	const { ok } = step('end-to-end tests', 'npx', ['playwright', 'test']);
	const stats = existsSync(report) ? JSON.parse(readFileSync(report, 'utf8')).stats : null;
	passed += (stats?.expected ?? 0) + (stats?.flaky ?? 0);
	failed += stats ? stats.unexpected + (ok || stats.unexpected ? 0 : 1) : 1;
}

installMissing();
check('svelte-kit sync', 'npx', ['svelte-kit', 'sync']);
check('type check', 'npx', ['svelte-check', '--tsconfig', './tsconfig.json', '--fail-on-warnings', '--output', 'human']);
check('lint', 'npx', ['eslint', '.']);
check('format', 'npx', ['prettier', '--check', '--log-level', 'warn', '.']);
// Unit tests have the browser make stores, too.
const hasBrowser = findChromium();
unit();
endToEnd(hasBrowser);
process.stdout.write(`\n${passed} passed, ${failed} failed\n`);
process.exit(failed === 0 ? 0 : 1);
