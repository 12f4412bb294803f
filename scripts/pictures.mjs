/** `npm run pictures`: docs/screenshots/ afresh from the demo case, at 1280×800. */
import { spawn } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromiumPath } from './chromium.mjs';
import { buildMissing, installMissing } from './prepare.mjs';

const root = join(import.meta.dirname, '..');
const out = join(root, 'docs', 'screenshots');
const PORT = 4371;

installMissing();
buildMissing();
const { chromium } = await import('@playwright/test');
mkdirSync(out, { recursive: true });
const server = spawn(process.execPath, ['scripts/start.mjs', '--demo'], {
	cwd: root,
	env: { ...process.env, PORT: String(PORT), CI: '1' },
	stdio: ['ignore', 'pipe', 'inherit']
});
await new Promise((resolve) => server.stdout.on('data', (d) => String(d).includes('http://') && resolve()));
const browser = await chromium.launch({
	executablePath: chromiumPath() ?? undefined,
	args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking']
});
try {
	const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, locale: 'en-GB' });
	const shot = async (name) => {
		await page.waitForTimeout(700);
		await page.screenshot({ path: join(out, `${name}.png`) });
	};
	await page.goto(`http://127.0.0.1:${PORT}/`);
	await page.getByText('Nothing picked yet').waitFor({ timeout: 30_000 });
	await page.getByRole('button', { name: /Odile Marchetti/ }).click();
	const focused = page.locator('article[aria-current="true"]');
	for (let i = 0; i < 12 && !(await focused.getByText('you have my word').isVisible()); i++) {
		await page.keyboard.press('p');
		await page.waitForTimeout(120);
	}
	await shot('threads');
	await page.getByRole('button', { name: 'Dark paper' }).click();
	await shot('threads-dark');
	await page.getByRole('button', { name: 'Light paper' }).click();
	await page.keyboard.press('Shift+X');
	await page.getByRole('link', { name: 'Sources' }).click();
	await shot('sources');
	await page.getByRole('link', { name: 'How the stores were read' }).click();
	await shot('reading');
	await page.getByRole('link', { name: 'Log' }).click();
	await shot('log');
	await page.getByRole('link', { name: 'Ombudsman' }).click();
	await shot('cases');
	await page.getByRole('link', { name: 'Intake' }).click();
	await shot('intake');
	await page
		.getByRole('button', { name: /Backup on the laptop/ })
		.first()
		.click();
	await page.getByRole('region', { name: 'About Backup on the laptop' }).getByRole('button', { name: 'Look there' }).click();
	await page.getByText('looked: 6 of 6').first().waitFor({ timeout: 30_000 });
	await page.getByRole('link', { name: 'Sources' }).click();
	await page.getByRole('button', { name: 'Survey, and choose what to look at' }).click();
	await page.getByRole('heading', { name: 'What there is, and what to look at' }).waitFor();
	await page.evaluate(() => document.querySelector('main').scrollTo(0, 190));
	await shot('survey');
	await page.getByRole('link', { name: /^Threads/ }).click();
	await page.getByRole('button', { name: 'Asked for' }).click();
	await page.waitForTimeout(600);
	for (let i = 0; i < 12 && !(await focused.getByText('you have my word').isVisible()); i++) {
		await page.keyboard.press('n');
		await page.waitForTimeout(120);
	}
	await shot('captures');
	await page.getByRole('link', { name: 'Intake' }).click();
	await page
		.getByRole('button', { name: /Odile’s own copy/ })
		.first()
		.click();
	await page.getByRole('region', { name: 'About Odile’s own copy' }).getByRole('button', { name: 'Look there' }).click();
	await page.waitForTimeout(3500);
	await page.getByRole('link', { name: /^Threads/ }).click();
	await page.getByRole('searchbox').fill('not only to me');
	await page.keyboard.press('Enter');
	await page.waitForTimeout(900);
	await page.getByRole('searchbox').fill('');
	await shot('sides');
	await page.getByRole('link', { name: 'Bundle' }).click();
	await page.getByText(/Page 1 of/).waitFor({ timeout: 30_000 });
	for (let i = 0; i < 30 && !/my\s+word/.test((await page.locator('#page-text').textContent()) ?? ''); i++) {
		await page.keyboard.press(']');
		await page.waitForTimeout(350);
	}
	await shot('bundle');
	await page.setViewportSize({ width: 390, height: 844 });
	await page.getByRole('link', { name: /^Threads/ }).click();
	await page.getByRole('button', { name: 'Ledger' }).click();
	await shot('threads-narrow');
} finally {
	await browser.close();
	server.kill();
}
