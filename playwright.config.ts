import { defineConfig } from '@playwright/test';
import { chromiumPath } from './scripts/chromium.mjs';

const PORT = 4391;

export default defineConfig({
	testDir: 'test/e2e',
	outputDir: 'test-results',
	// Two browsers, two servers and the building of stores share the machine: what is waited for is that
	// it comes, not how fast.
	timeout: 120_000,
	expect: { timeout: 20_000 },
	workers: 2,
	fullyParallel: true,
	reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
	use: {
		baseURL: `http://127.0.0.1:${PORT}`,
		viewport: { width: 1280, height: 800 },
		launchOptions: {
			executablePath: chromiumPath() ?? undefined,
			args: [
				'--no-sandbox',
				'--disable-gpu',
				'--no-first-run',
				'--disable-background-networking',
				'--disable-component-update',
				'--disable-sync'
			]
		}
	},
	webServer: [
		{
			command: 'node scripts/start.mjs --demo',
			env: { PORT: String(PORT), CI: '1' },
			url: `http://127.0.0.1:${PORT}/`,
			reuseExistingServer: false,
			timeout: 120_000
		},
		{
			command: 'node scripts/start.mjs',
			env: { PORT: String(PORT + 1), CI: '1' },
			url: `http://127.0.0.1:${PORT + 1}/`,
			reuseExistingServer: false,
			timeout: 120_000
		}
	]
});
