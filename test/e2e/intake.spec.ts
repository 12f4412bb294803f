/** Cases and intake: the loss, the places, the log, a case saved and opened again. */
import { readFileSync, writeFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { strFromU8, unzipSync } from 'fflate';

async function openDemo(page: Page): Promise<void> {
	await page.goto('/');
	await expect(page.getByRole('contentinfo')).toContainText('Nothing picked yet', { timeout: 30_000 });
	await page.goto('/intake');
	await expect(page.getByText('6 messages and record numbers of that stretch were lost · 4 found so far · 2 open')).toBeVisible({
		timeout: 15_000
	});
}

const row = (page: Page, name: string) => page.locator('ol > li', { has: page.getByRole('button', { name: new RegExp(name) }) }).first();

test('from an empty case to a ranked list, by keyboard alone', async ({ page }) => {
	await page.goto('http://127.0.0.1:4392/cases');
	await page.getByLabel('Begin a new case').focus();
	await page.keyboard.type('The stairwell lamp');
	await page.keyboard.press('Enter');
	await expect(page).toHaveURL(/intake/);
	await page.keyboard.press('e');
	await expect(page.getByLabel('Owner of the device')).toBeFocused();
	for (const text of ['Piet Hallorann', 'Odile Marchetti', '28 January to 3 February 2025', '10 February 2025', '25 February 2025']) {
		await page.keyboard.type(text);
		await page.keyboard.press('Tab');
	}
	await page.keyboard.type('by hand');
	await page.keyboard.press('Tab');
	await page.keyboard.type('texts');
	await page.keyboard.press('Tab');
	await page.keyboard.type('credit');
	await page.keyboard.press('Tab');
	for (const taken of ['5 January 2025', '9 February 2025']) {
		await page.getByLabel('Another place').focus();
		await page.keyboard.type('Backup of the phone');
		await page.keyboard.press('Tab');
		await page.keyboard.press('Enter');
		await expect(page.getByLabel('Taken on')).toBeVisible();
		await page.getByLabel('Taken on').focus();
		await page.keyboard.type(taken);
		await page.keyboard.press('Enter');
		await page.getByRole('button', { name: 'Close' }).focus();
		await page.keyboard.press('Enter');
	}
	const rows = page.locator('ol > li .verdict strong');
	await expect(rows).toHaveText(['can hold all', 'cannot hold them']);
	await expect(page.getByText('older than the messages')).toBeVisible();
	await page.goto('http://127.0.0.1:4392/log');
	await expect(page.getByText('the chain holds')).toBeVisible();
	await expect(page.getByText(/taken on 9 February 2025/)).toBeVisible();
});

test('what contradicts itself is said at its field, and nothing is lost', async ({ page }) => {
	await openDemo(page);
	await page.getByLabel('When they were last seen').fill('10 January 2025');
	await page.keyboard.press('Tab');
	await expect(page.getByText('They were last seen before they were sent.')).toBeVisible();
	await expect(page.getByLabel('When they were last seen')).toHaveAttribute('aria-invalid', 'true');
	await page.getByLabel('When they were sent').fill('30 February 2025');
	await page.keyboard.press('Tab');
	await expect(page.getByText(/“30 February 2025” is not a date/)).toBeVisible();
	await page.reload();
	await expect(page.getByLabel('When they were sent')).toHaveValue('30 February 2025');
});

test('a place is tried and the numbers of the others change', async ({ page }) => {
	await openDemo(page);
	await expect(row(page, 'Backup on the laptop')).toContainText('can hold 2 of the 6');
	await expect(row(page, 'Restoring it to the phone')).toContainText('not needed');
	await row(page, 'Backup on the laptop').getByRole('button').first().click();
	await page.getByRole('region', { name: 'About Backup on the laptop' }).getByRole('button', { name: 'Look there' }).click();
	await expect(page.getByText('6 messages and record numbers of that stretch were lost · 6 found so far · 0 open')).toBeVisible({
		timeout: 30_000
	});
	await expect(row(page, 'Backup on the laptop')).toContainText('looked: 6 of 6');
	await expect(row(page, 'Restoring it to the phone')).toContainText('cannot hold more');
	await page.goto('/threads');
	await page
		.getByRole('button', { name: /Odile Marchetti/ })
		.first()
		.click();
	await page.getByRole('button', { name: 'Only lost' }).click();
	const message = page.locator('article', { hasText: 'you have my word' });
	await expect(message.getByRole('img', { name: /backup-9-feb.zip: in use; post.box: not there/ })).toBeVisible();
	await message.click();
	await expect(page.getByRole('complementary')).toContainText('Deleted between 9 Feb 2025 and 2 Mar 2025.');
});

test('a message that only the locked backup holds is bracketed by two captures', async ({ page }) => {
	await openDemo(page);
	await row(page, 'Locked backup on the laptop').getByRole('button').first().click();
	const detail = page.getByRole('region', { name: 'About Locked backup on the laptop' });
	await detail.getByRole('button', { name: 'Look there' }).click();
	const passphrase = detail.getByLabel(/^Passphrase/);
	await expect(passphrase).toBeVisible({ timeout: 30_000 });
	await passphrase.fill('cold-lantern-40');
	await passphrase.press('Enter');
	await expect(detail.getByText('No passphrase given opens it. Nothing of it was read.')).toBeVisible({ timeout: 30_000 });
	await passphrase.fill('warm-lantern-40');
	await passphrase.press('Enter');
	await expect(passphrase).toBeHidden({ timeout: 30_000 });
	await expect(row(page, 'Locked backup on the laptop')).toContainText('looked: 6 of 6', { timeout: 30_000 });
	await page.getByRole('link', { name: /Threads/ }).click();
	await page
		.getByRole('button', { name: /Odile Marchetti/ })
		.first()
		.click();
	await page.getByRole('button', { name: 'Only lost' }).click();
	const message = page.locator('article', { hasText: 'Then leave me out of the minutes.' });
	await expect(message.getByRole('img', { name: 'backup-12-feb.age: in use; post.box: not there' })).toBeVisible();
	await expect(message.getByText('dropped')).toBeAttached();
	await message.click();
	await expect(page.getByRole('complementary')).toContainText('Deleted between 12 Feb 2025 and 2 Mar 2025.');
	await expect(page.getByRole('complementary')).toContainText('row in use');
	await page.getByRole('link', { name: 'Log' }).click();
	await expect(page.getByText('A passphrase was given for what is locked. It is not written down.').first()).toBeVisible();
	expect(await page.content()).not.toContain('warm-lantern-40 was');
});

test('the other side’s export joins the thread: what only it has, and the pictures it came with', async ({ page }) => {
	await openDemo(page);
	await row(page, 'Odile’s own copy').getByRole('button').first().click();
	await page.getByRole('region', { name: 'About Odile’s own copy' }).getByRole('button', { name: 'Look there' }).click();
	await expect(page.getByText('6 messages and record numbers of that stretch were lost · 4 found so far · 2 open')).toBeHidden({
		timeout: 30_000
	});
	await page.getByRole('link', { name: /Threads/ }).click();
	await page
		.getByRole('button', { name: /Odile Marchetti/ })
		.first()
		.click();
	await expect(page.getByRole('list', { name: 'Copies compared' })).toContainText(
		/another copy: \d+ in both, 4 only there, 0 only here; its clock is 41 s ahead/
	);
	await page.getByRole('searchbox').fill('not only to me');
	await expect(page.getByRole('button', { name: /Odile Marchetti.*1 found/s })).toBeVisible();
	await page.getByRole('searchbox').press('Enter');
	const hers = page.locator('article', { hasText: 'Then please send it to all of us, not only to me.' });
	await expect(hers).toContainText('only in Conversation with Piet Hallorann.txt');
	await page.getByRole('searchbox').fill('The hall this morning');
	await page.getByRole('searchbox').press('Enter');
	await expect(page.locator('article', { hasText: 'The hall this morning:' })).toContainText('hall-14-degrees.png · 483 B · found by name');
});

test('when a place yields nothing the next best is offered; clocks go into a calendar', async ({ page }) => {
	await openDemo(page);
	const tray = page.getByRole('contentinfo');
	await expect(tray).toContainText('Next: The program’s own bin');
	await row(page, 'The program’s own bin').getByRole('button').first().click();
	await page.getByRole('button', { name: 'Looked, nothing there' }).click();
	await expect(tray).toContainText('Next: Backup on the laptop');
	await row(page, 'The program’s own bin')
		.getByRole('button', { name: 'Mark as not tried' })
		.click({ timeout: 2000 })
		.catch(async () => {
			await page.getByRole('button', { name: 'Mark as not tried' }).click();
		});
	await expect(page.getByText(/The program’s own bin: it empties on 12 Mar 2025/)).toBeVisible();
	const [download] = await Promise.all([
		page.waitForEvent('download'),
		page.getByRole('button', { name: 'Save as a calendar file' }).click()
	]);
	expect(readFileSync(await download.path(), 'utf8')).toContain('DTSTART;VALUE=DATE:20250312');
});

test('a case is saved, the storage cleared, the case opened again: nothing is missing', async ({ page }) => {
	await openDemo(page);
	await page.goto('/threads');
	await expect(page.getByRole('heading', { name: 'Odile Marchetti' })).toBeVisible();
	await page.keyboard.press('Shift+X');
	await expect(page.getByRole('contentinfo')).toContainText('1 thread');
	await page.getByRole('link', { name: 'Ombudsman' }).click();
	await page.getByLabel(/With the originals inside/).check();
	const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as a file' }).click()]);
	const file = test.info().outputPath('saved.case.zip');
	await download.saveAs(file);
	const parts = unzipSync(readFileSync(file));
	expect(Object.keys(parts)).toContain('SHA256SUMS');
	expect((JSON.parse(strFromU8(parts['case.json']!)) as { format: string }).format).toBe('ombudsman-case');
	await page.goto('about:blank');
	await page.context().clearCookies();
	await page.goto('http://127.0.0.1:4392/cases');
	await page.locator('input[type=file]').setInputFiles(file);
	await expect(page).toHaveURL(/intake/, { timeout: 30_000 });
	await expect(page.getByLabel('With whom: names or numbers, separated by commas')).toHaveValue('Odile Marchetti');
	await expect(page.getByText('6 messages and record numbers of that stretch were lost · 4 found so far · 2 open')).toBeVisible();
	await page.getByRole('link', { name: /Threads/ }).click();
	await expect(page.getByRole('contentinfo')).toContainText('1 thread · 134 messages');
	await page
		.getByRole('button', { name: /Odile Marchetti/ })
		.first()
		.click();
	await page.getByRole('button', { name: 'Only lost' }).click();
	await expect(page.locator('article', { hasText: 'you have my word' }).first()).toBeAttached();
	await page.getByRole('link', { name: 'Log' }).click();
	await expect(page.getByText('the chain holds')).toBeVisible();
	await page.getByRole('link', { name: /Sources/ }).click();
	await expect(page.locator('.hash').first()).toHaveText(/^[0-9a-f]{64}$/);
	// A damaged file gives what is readable.
	const bytes = readFileSync(file);
	const cut = test.info().outputPath('cut.case.zip');
	writeFileSync(cut, bytes.subarray(0, Math.floor(bytes.length * 0.6)));
	await page.goto('http://127.0.0.1:4392/cases');
	await page.locator('input[type=file]').setInputFiles(cut);
	await expect(page.getByText('The case is open, but not all of the file could be read:')).toBeVisible({ timeout: 30_000 });
	await page.locator('input[type=file]').setInputFiles({ name: 'x.zip', mimeType: 'application/zip', buffer: Buffer.from('not a zip') });
	await expect(page.getByText('This is no case file, or its first part is damaged.')).toBeVisible();
});

test('two tabs on one case do not lose each other’s work', async ({ page, context }) => {
	await openDemo(page);
	const other = await context.newPage();
	await other.goto('/intake');
	await other.getByLabel('Words they may contain, separated by commas').fill('pump');
	await other.keyboard.press('Tab');
	await page.getByLabel('When they were noticed missing').fill('26 February 2025');
	await page.keyboard.press('Tab');
	await expect(page.getByLabel('Words they may contain, separated by commas')).toHaveValue('pump');
	await other.reload();
	await expect(other.getByLabel('When they were noticed missing')).toHaveValue('26 February 2025');
	await expect(other.getByLabel('Words they may contain, separated by commas')).toHaveValue('pump');
});
