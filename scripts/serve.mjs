/** Starts the built application on this machine's own address only, on its port or the next free one. */
import { createServer } from 'node:net';

const FIRST_PORT = Number(process.env.PORT ?? 4310);
const HOST = '127.0.0.1';

const isFree = (port) =>
	new Promise((resolve) => {
		const probe = createServer();
		probe.once('error', () => resolve(false));
		probe.listen(port, HOST, () => probe.close(() => resolve(true)));
	});

async function freePort() {
	for (let port = FIRST_PORT; port < FIRST_PORT + 200; port++) if (await isFree(port)) return port;
	throw new Error(`No free port between ${FIRST_PORT} and ${FIRST_PORT + 199}.`);
}

export async function serve({ demo }) {
	const port = await freePort();
	process.env.HOST = HOST;
	process.env.PORT = String(port);
	process.env.ORIGIN = `http://${HOST}:${port}`;
	// A record of a big thread is sent to the page setter as one body; it never leaves this machine.
	process.env.BODY_SIZE_LIMIT ??= '512M';
	if (demo) process.env.OMBUDSMAN_DEMO = '1';
	await import('../build/index.js');
	return `http://${HOST}:${port}/`;
}
