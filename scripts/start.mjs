/** `npm start` and `npm run demo`: install and build what is missing, then serve. */
import { spawn } from 'node:child_process';
import { buildMissing, installMissing } from './prepare.mjs';

const demo = process.argv.includes('--demo');
installMissing();
buildMissing();
const { serve } = await import('./serve.mjs');
const address = await serve({ demo });
process.stdout.write(
	`\nOmbudsman ${demo ? 'with the demo case ' : ''}is at ${address}\nIt answers on this machine only. Stop it with Ctrl+C.\n`
);
if (!process.env.CI && process.stdout.isTTY) {
	const opener = { darwin: ['open'], win32: ['cmd', '/c', 'start', ''] }[process.platform] ?? ['xdg-open'];
	spawn(opener[0], [...opener.slice(1), address], { stdio: 'ignore', detached: true })
		.on('error', () => undefined)
		.unref();
}
