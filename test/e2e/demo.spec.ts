/** The demo case as a user meets it: reading, keys, filters, picking, the bundle. */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { unzipSync } from 'fflate';
import Papa from 'papaparse';

async function openDemo(page: Page): Promise<void> {
	await page.goto('/');
	await expect(page.getByRole('heading', { name: 'Odile Marchetti' })).toBeVisible({ timeout: 30_000 });
	// The look has ended when the tray no longer says what it is doing.
	await expect(page.getByRole('contentinfo')).toContainText('Nothing picked yet', { timeout: 30_000 });
}

const focused = (page: Page) => page.locator('article[aria-current="true"]');

test('what was deleted stands in its place, marked, with where it was seen', async ({ page }) => {
	const outside: string[] = [];
	page.on('request', (r) => {
		if (!r.url().startsWith('http://127.0.0.1:') && !r.url().startsWith('blob:') && !r.url().startsWith('data:')) outside.push(r.url());
	});
	const problems: string[] = [];
	page.on('console', (m) => m.type() === 'error' && problems.push(m.text()));
	await openDemo(page);
	await page.getByRole('searchbox').fill('you have my word');
	await expect(page.getByRole('button', { name: /Odile Marchetti.*1 found/s })).toBeVisible();
	await page.keyboard.press('Escape');
	for (let i = 0; i < 12 && !(await focused(page).getByText('you have my word').isVisible()); i++) {
		await page.keyboard.press('p');
		await page.waitForTimeout(80);
	}
	const message = focused(page);
	await expect(message).toContainText('The January charge will be credited, you have my word.');
	await expect(message).toContainText('Piet Hallorann');
	await expect(message.locator('time')).toHaveAttribute('datetime', '2025-01-30T17:44:16.000Z');
	await expect(message.getByText('remnant')).toBeAttached();
	const margin = page.getByRole('complementary');
	await expect(margin).toContainText('Found only in freed bytes');
	await expect(margin).toContainText('freed cell on a page in use');
	await expect(margin).toContainText('seconds since 2001');
	// The marked bytes are the text.
	const bytes = await margin.locator('pre .value').allTextContents();
	expect(Buffer.from(bytes.join(''), 'hex').toString('utf8')).toContain('No. I agree it was our fault.');
	await page.keyboard.press('j');
	await page.keyboard.press('j');
	await expect(page.getByText(/2 record numbers accounted for nowhere · 40513–40514/)).toBeVisible();
	expect(outside).toEqual([]);
	expect(problems).toEqual([]);
});

test('keys move, find the lost, pick; filters and the span narrow', async ({ page }) => {
	await openDemo(page);
	await page.getByRole('button', { name: /^With losses/ }).click();
	const listed = page.getByRole('region', { name: 'Threads' }).getByRole('listitem');
	expect(await listed.count()).toBe(7);
	await page.getByRole('button', { name: 'Only lost' }).click();
	const marks = page.locator('article');
	await expect(marks.first()).toBeVisible();
	expect(await marks.count()).toBeGreaterThan(4);
	await expect(page.locator('article.kept')).toHaveCount(0);
	await page.getByRole('button', { name: 'All', exact: true }).click();
	await page.keyboard.press('k');
	const before = await focused(page).textContent();
	await page.keyboard.press('j');
	await expect.poll(() => focused(page).textContent()).not.toBe(before);
	await page.keyboard.press('x');
	await expect(page.getByRole('contentinfo')).toContainText('1 thread · 1 message in the bundle');
	await page.keyboard.press('Shift+X');
	await expect(page.getByRole('contentinfo')).toContainText('1 thread · 134 messages');
	await page.keyboard.press('?');
	await expect(page.getByRole('dialog')).toContainText('next lost message');
	await page.keyboard.press('Escape');
	await page.getByLabel('From', { exact: true }).fill('2025-01-30');
	await page.getByLabel('To', { exact: true }).fill('2025-01-31');
	await expect(page.getByRole('heading', { level: 2 }).filter({ hasText: '2025' }).first()).toContainText('30 January 2025');
	await page.getByRole('button', { name: 'Whole span' }).click();
	await expect(focused(page)).toBeInViewport();
	// A span is read from its start, wherever the ledger was.
	await page.locator('.ledger-list').evaluate((list) => list.scrollTo(0, list.scrollHeight));
	await page.getByLabel('To', { exact: true }).fill('2025-01-31');
	await expect(page.getByRole('heading', { level: 2 }).filter({ hasText: '2024' }).first()).toBeInViewport();
	await page.getByRole('button', { name: 'Whole span' }).click();
	await page.keyboard.press('/');
	await expect(page.getByRole('searchbox')).toBeFocused();
	await page.keyboard.type('账单');
	await expect(page.getByRole('button', { name: /李雯.*found/s })).toBeVisible();
});

test('an earlier wording stands under its message', async ({ page }) => {
	await openDemo(page);
	await page.getByRole('button', { name: /Tamsin Okafor/ }).click();
	await page.getByRole('button', { name: 'Only lost' }).click();
	const edited = page.locator('article', { hasText: 'I said we would look into it.' });
	await expect(edited).toContainText('earlier wording: Yes, put it on the agenda. I agreed to it on the 30th.');
});

test('a reload shows the same case without looking again', async ({ page }) => {
	await openDemo(page);
	await page.goto('/sources');
	await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 30_000 });
	await page.reload();
	await expect(page.getByText('The look is done.')).toBeVisible();
	await expect(page.locator('.hash').first()).toHaveText(/^[0-9a-f]{64}$/);
	await page.goto('/threads');
	await expect(page.getByRole('heading', { name: 'Odile Marchetti' })).toBeVisible();
	await expect(page.getByText('Looking at')).toHaveCount(0);
});

test('the bundle shows its real pages and is saved as a zip whose sums hold', async ({ page }) => {
	await openDemo(page);
	await page.keyboard.press('Shift+X');
	await page.getByRole('button', { name: 'Open the bundle' }).click();
	await expect(page.getByRole('contentinfo')).toContainText(/Page 1 of \d+/, { timeout: 30_000 });
	await page.keyboard.press(']');
	await expect(page.locator('#page-text')).toContainText('Piet Hallorann and Odile Marchetti');
	await expect(page.locator('#page-text')).toContainText('21 Nov 2024');
	await expect(page.getByText('Every source has its SHA-256')).toBeVisible();
	const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save the bundle' }).click()]);
	expect(download.suggestedFilename()).toBe('marrow-lane-heat-charges.zip');
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-bundle-'));
	const files = unzipSync(readFileSync(await download.path()));
	const names = Object.keys(files).map((n) => n.split('/')[1]!);
	expect(names.sort()).toEqual(['SHA256SUMS', 'about.txt', 'messages.csv', 'record.pdf']);
	for (const [name, bytes] of Object.entries(files)) writeFileSync(join(folder, name.split('/')[1]!), bytes);
	expect(execFileSync('sha256sum', ['-c', 'SHA256SUMS'], { cwd: folder, encoding: 'utf8' }).match(/: OK/g)).toHaveLength(3);
	const csv = readFileSync(join(folder, 'messages.csv'), 'utf8');
	expect(csv.startsWith('\ufeff')).toBe(true);
	const rows = Papa.parse<Record<string, string>>(csv.slice(1), { header: true, skipEmptyLines: true }).data;
	expect(rows).toHaveLength(134);
	expect(rows.every((r) => r.date && r.time)).toBe(true);
	expect(rows.find((r) => r.text!.includes('you have my word'))).toMatchObject({
		standing: 'remnant',
		grade: 'rebuilt',
		utc: '2025-01-30T17:44:16.000Z',
		time: '18:44:16',
		zone: 'UTC+1',
		writer: 'Piet Hallorann'
	});
	// An address begins with a plus: a spreadsheet must not run it.
	expect(rows.every((r) => !/^[=+\-@]/.test(r.address!))).toBe(true);
	const pdf = readFileSync(join(folder, 'record.pdf'));
	expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
	expect(pdf.includes('pdfaid:part')).toBe(true);
	if (existsSync('/usr/bin/pdftotext')) {
		const text = execFileSync('pdftotext', [join(folder, 'record.pdf'), '-'], { encoding: 'utf8' }).replace(/\s+/g, ' ');
		expect(text).toContain('you have my word');
		expect(text).toContain('page 1 of');
		expect(text).toContain('SHA-256');
	}
});

/** Waits until a pick is in the browser's database: while a look still writes there, it takes its turn. */
async function storedPick(page: Page): Promise<void> {
	const stored = (): Promise<boolean> =>
		new Promise((done) => {
			const opening = indexedDB.open('ombudsman');
			opening.onsuccess = (): void => {
				const reading = opening.result.transaction('picks').objectStore('picks').getAll();
				reading.onsuccess = (): void => {
					opening.result.close();
					done(reading.result.some((pick: { threads: object }) => Object.keys(pick.threads).length > 0));
				};
			};
		});
	await expect.poll(() => page.evaluate(stored), { timeout: 30_000 }).toBe(true);
}

for (const mode of ['light', 'dark'] as const) {
	test(`access checks find nothing serious, ${mode}`, async ({ page }) => {
		await page.emulateMedia({ colorScheme: mode });
		await openDemo(page);
		await page.keyboard.press('Shift+X');
		await expect(page.getByRole('contentinfo')).toContainText('1 thread');
		await storedPick(page);
		for (const path of ['/threads', '/intake', '/sources', '/sources/reading', '/cases', '/log', '/bundle']) {
			await page.goto(path);
			if (path === '/bundle') await expect(page.getByRole('contentinfo')).toContainText(/Page 1 of/, { timeout: 30_000 });
			else await page.waitForTimeout(800);
			const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']).analyze();
			const serious = violations.filter((v) => v.impact === 'serious' || v.impact === 'critical');
			expect(serious.map((v) => `${path}: ${v.id} ${v.nodes.map((n) => n.html.slice(0, 120)).join(' | ')}`)).toEqual([]);
		}
	});
}

test('it can be used on a narrow screen', async ({ page }) => {
	await page.setViewportSize({ width: 390, height: 844 });
	await openDemo2(page);
	await page.getByRole('button', { name: /Odile Marchetti/ }).click();
	await expect(page.locator('article').first()).toBeVisible();
	await page.getByRole('button', { name: 'Margin' }).click();
	await expect(page.getByRole('heading', { name: 'Sightings' })).toBeVisible();
	for (const path of ['/threads', '/intake', '/sources', '/sources/reading', '/cases', '/log', '/bundle']) {
		await page.goto(path);
		await page.waitForTimeout(500);
		expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
	}
	async function openDemo2(p: Page): Promise<void> {
		await p.goto('/');
		await expect(p.getByRole('button', { name: /Odile Marchetti/ })).toBeVisible({ timeout: 30_000 });
	}
});
