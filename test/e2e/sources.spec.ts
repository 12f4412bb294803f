/** Sources: a survey before the look, what is chosen of it, exports and archives given by hand, pause. */
import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { appendFileSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { createDatabase, type Engine } from '../vectors/engine';
import { TEXT_FORMS, type Said } from '../vectors/exports';

async function openDemo(page: Page): Promise<void> {
	await page.goto('/');
	await expect(page.getByRole('contentinfo')).toContainText('Nothing picked yet', { timeout: 30_000 });
	await page.getByRole('link', { name: /Sources/ }).click();
}

/** A database as bytes. */
function database(fill: (db: Engine) => void): Buffer {
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-e2e-'));
	try {
		const db = createDatabase(join(folder, 'made.db'));
		fill(db);
		db.close();
		return readFileSync(join(folder, 'made.db'));
	} finally {
		rmSync(folder, { recursive: true, force: true });
	}
}

/** A thread of thirty messages, the last of which states a picture of so many bytes. */
const talk = (size: number): Buffer =>
	database((db) => {
		db.exec(
			'create table message(id integer primary key, address text, sent integer, is_from_me integer, body text, file text, size integer)'
		);
		for (let i = 0; i < 30; i++)
			db.run('insert into message values(?,?,?,?,?,null,null)', [
				i + 1,
				'+447700900123',
				1_736_000_000 + i * 700,
				i % 3 === 0 ? 1 : 0,
				`The boiler is cold again, day ${i}`
			]);
		db.run('insert into message values(31,?,?,0,?,?,?)', ['+447700900123', 1_736_900_000, 'Look at the gauge.', 'gauge.png', size]);
	});

const names = (): Buffer =>
	database((db) => {
		db.exec('create table contacts(id integer primary key, display_name text, number text)');
		for (const [i, name] of ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt'].entries())
			db.run('insert into contacts values(?,?,?)', [i + 1, name, `+44770090012${3 + i}`]);
	});

test('a survey says what there is; a look takes what is chosen; a further one adds', async ({ page }) => {
	await openDemo(page);
	await expect(page.getByRole('contentinfo')).toContainText('9 threads · 56 messages brought back');
	await page.getByRole('button', { name: 'Survey, and choose what to look at' }).click();
	const survey = page.getByRole('region', { name: 'What there is, and what to look at' });
	await expect(survey.getByRole('row', { name: /post.box.*messages.*553.*21 Nov 2024 – 2 Mar 2025/ })).toBeVisible({ timeout: 30_000 });
	expect((await new AxeBuilder({ page }).analyze()).violations.filter((v) => v.impact === 'serious' || v.impact === 'critical')).toEqual(
		[]
	);
	await survey.getByLabel(/Only messages of/).fill('31 February 2025');
	await survey.getByRole('button', { name: 'Look at all of it' }).click();
	await expect(survey.getByText(/is not a date/)).toBeVisible();
	await survey.getByLabel(/Only messages of/).fill('January 2025');
	await survey.getByLabel(/Rows in use/).check();
	await survey.getByRole('button', { name: 'Look at all of it' }).click();
	await expect(page.getByRole('contentinfo')).toContainText('8 threads · 0 messages brought back', { timeout: 30_000 });
	await expect(page.getByText('only messages from 1 Jan 2025 to 31 Jan 2025 are kept; the look goes as far as rows in use.')).toBeVisible();
	await page.getByRole('button', { name: 'Survey, and choose what to look at' }).click();
	await survey.getByLabel(/everything/).check({ timeout: 30_000 });
	await survey.getByRole('button', { name: 'Look at all of it' }).click();
	await expect(page.getByRole('contentinfo')).toContainText('9 threads · 56 messages brought back', { timeout: 30_000 });
});

test('a store left out is not looked at, and is said to be', async ({ page }) => {
	await openDemo(page);
	await page.getByRole('button', { name: 'Survey, and choose what to look at' }).click();
	await page.getByLabel('Look at post.box', { exact: true }).uncheck({ timeout: 30_000 });
	await expect(page.getByRole('button', { name: 'Look at 0 of 1 stores' })).toBeDisabled();
	const messages = page.getByRole('checkbox', { name: /^Messages/ });
	await expect(messages).not.toBeChecked();
	await messages.check();
	await expect(page.getByLabel('Look at post.box', { exact: true })).toBeChecked();
	await expect(page.getByRole('button', { name: 'Look at all of it' })).toBeEnabled();
});

test('of two kinds of stores one is chosen, and attachments are not sought where they are not wanted', async ({ page }) => {
	await page.goto('http://127.0.0.1:4392/');
	const file = (name: string, buffer: Buffer): { name: string; mimeType: string; buffer: Buffer } => ({
		name,
		mimeType: 'application/octet-stream',
		buffer
	});
	const picture = Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 1, 2, 3]);
	await page
		.getByTestId('files')
		.setInputFiles([file('talk.db', talk(picture.length)), file('names.db', names()), file('gauge.png', picture)]);
	await expect(page.getByRole('contentinfo')).toContainText('1 threads', { timeout: 30_000 });
	await page.getByRole('button', { name: 'Survey, and choose what to look at' }).click();
	await page.getByRole('checkbox', { name: /^Contacts alone.*1 store/ }).uncheck({ timeout: 30_000 });
	await expect(page.getByLabel('Look at names.db', { exact: true })).not.toBeChecked();
	await page.getByRole('checkbox', { name: /^Attachments/ }).uncheck();
	await page.getByRole('button', { name: 'Look at 1 of 2 stores' }).click();
	await expect(page.getByText('1 store is left out; files that messages state are not sought')).toBeVisible({ timeout: 30_000 });
	await page.getByRole('link', { name: /Threads/ }).click();
	const shown = page.locator('article', { hasText: 'Look at the gauge.' });
	await expect(shown).toContainText('gauge.png · 11 B · not sought');
	// Wanted after all.
	await page.getByRole('link', { name: /Sources/ }).click();
	await page.getByRole('button', { name: 'Survey, and choose what to look at' }).click();
	await page.getByRole('checkbox', { name: /^Attachments/ }).check({ timeout: 30_000 });
	await page.getByRole('button', { name: 'Look at 1 of 2 stores' }).click();
	await page.getByRole('link', { name: /Threads/ }).click();
	await expect(shown).toContainText('gauge.png · 11 B · found by name and size', { timeout: 30_000 });
});

test('a packed folder too large for memory is read from the browser’s own scratch', async ({ page }) => {
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-e2e-'));
	try {
		writeFileSync(join(folder, 'talk.db'), talk(11));
		writeFileSync(join(folder, 'film.mp4'), randomBytes(24 << 20));
		const packed = execFileSync('tar', ['-czf', '-', '-C', folder, 'film.mp4', 'talk.db'], { maxBuffer: 1 << 28 });
		await page.goto('http://127.0.0.1:4392/');
		await page.getByTestId('files').setInputFiles({ name: 'phone.tgz', mimeType: 'application/gzip', buffer: packed });
		await expect(page.getByRole('contentinfo')).toContainText('1 threads', { timeout: 60_000 });
		await page.getByRole('link', { name: /Threads/ }).click();
		await expect(page.locator('article', { hasText: 'Look at the gauge.' })).toBeVisible();
	} finally {
		rmSync(folder, { recursive: true, force: true });
	}
});

test('a file that is gone meanwhile is named, the rest is read; gone after a look it takes nothing away', async ({ page }) => {
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-e2e-'));
	try {
		const [image, names_] = [join(folder, 'image.bin'), join(folder, 'names.db')];
		writeFileSync(image, talk(11));
		const noise = randomBytes(1 << 20);
		for (let i = 0; i < 260; i++) appendFileSync(image, noise);
		writeFileSync(names_, names());
		await page.goto('http://127.0.0.1:4392/');
		await page.getByTestId('files').setInputFiles([image, names_]);
		await expect(page.getByRole('button', { name: 'Look at all of it' })).toBeVisible({ timeout: 60_000 });
		await expect(page.getByRole('row', { name: /^image\.bin/ })).toContainText(/[0-9a-f]{64}/, { timeout: 60_000 });
		rmSync(names_);
		await page.getByRole('button', { name: 'Look at all of it' }).click();
		await expect(page.getByText('names.db could not be read: it was moved, changed or unplugged')).toBeVisible({ timeout: 60_000 });
		await expect(page.getByText('names.db is not a database', { exact: false })).toHaveCount(0);
		await expect(page.getByRole('contentinfo')).toContainText('1 threads');
		rmSync(image);
		await page.getByTestId('files').setInputFiles({ name: 'more.db', mimeType: '', buffer: names() });
		await expect(page.getByText(/can no longer be read.* What was found so far is kept/).first()).toBeVisible({ timeout: 60_000 });
		await expect(page.getByRole('contentinfo')).toContainText('1 threads');
		await page.getByRole('link', { name: /Threads/ }).click();
		await expect(page.locator('article', { hasText: 'Look at the gauge.' })).toBeVisible();
		// Given again it takes its own place; that it is not what it was is said.
		writeFileSync(names_, names());
		writeFileSync(image, talk(11));
		for (let i = 0; i < 261; i++) appendFileSync(image, noise);
		await page.getByRole('link', { name: /Sources/ }).click();
		await page.getByTestId('files').setInputFiles([image, names_]);
		await expect(page.getByRole('button', { name: 'Look at all of it' })).toBeVisible({ timeout: 60_000 });
		await page.getByRole('button', { name: 'Look at all of it' }).click();
		await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 60_000 });
		await expect(page.getByRole('button', { name: /^Take .*image\.bin out$/ })).toHaveCount(1);
		await expect(page.getByRole('alert')).toContainText('image.bin is not what was first given: it was changed since.');
	} finally {
		rmSync(folder, { recursive: true, force: true });
	}
});

test('a long look is paused, said to be, and goes on; stopped, it keeps what it found', async ({ page }) => {
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-e2e-'));
	try {
		const image = join(folder, 'image.bin');
		writeFileSync(image, talk(11));
		const noise = randomBytes(1 << 20);
		for (let i = 0; i < 600; i++) appendFileSync(image, noise);
		const reader = page.waitForRequest(/read-ahead/);
		await page.goto('http://127.0.0.1:4392/');
		await page.getByTestId('files').setInputFiles(image);
		await page.getByRole('button', { name: 'Look at all of it' }).click({ timeout: 60_000 });
		const progress = page.getByRole('region', { name: 'The look' });
		await progress.getByRole('button', { name: 'Pause' }).click({ timeout: 30_000 });
		await expect(progress.getByRole('button', { name: 'Go on' })).toBeVisible();
		await expect(progress.getByText(/Looking at .* of image.bin: paused/)).toBeVisible();
		// Its bytes are read in a worker of their own.
		await reader;
		// All of it can be seen: the words, how far, and both buttons.
		const whole = (await progress.boundingBox())!;
		for (const name of ['Go on', 'Stop']) {
			const box = (await progress.getByRole('button', { name }).boundingBox())!;
			expect(box.y).toBeGreaterThan(whole.y);
			expect(box.y + box.height).toBeLessThan(whole.y + whole.height);
		}
		const seen = await progress.innerText();
		await page.waitForTimeout(1500);
		expect(await progress.innerText()).toBe(seen);
		await progress.getByRole('button', { name: 'Go on' }).click();
		await progress.getByRole('button', { name: 'Stop' }).click();
		await expect(progress).toBeHidden({ timeout: 30_000 });
		await expect(page.getByRole('contentinfo')).toContainText('1 threads');
	} finally {
		rmSync(folder, { recursive: true, force: true });
	}
});

test('what takes long to open says how far it is; stopped there, nothing is lost and it can be looked at after all', async ({ page }) => {
	test.setTimeout(240_000);
	const notes = Array.from({ length: 40_000 }, (_, i) => [`notes/${i}.txt`, new TextEncoder().encode(`Nothing of note, ${i}`)] as const);
	const zip = zipSync({ ...Object.fromEntries(notes), 'talk.db': talk(11) }, { level: 0 });
	await page.goto('http://127.0.0.1:4392/');
	await page.getByTestId('files').setInputFiles({ name: 'all.zip', mimeType: 'application/zip', buffer: Buffer.from(zip) });
	const progress = page.getByRole('region', { name: 'The look' });
	await expect(progress.getByText(/^Opening the file: [\d,]+ in it$/)).toBeVisible({ timeout: 30_000 });
	await progress.getByRole('button', { name: 'Stop' }).click();
	await expect(page.getByText('It was stopped before all was opened. Nothing was looked at yet.')).toBeVisible({ timeout: 30_000 });
	await expect(page.getByRole('contentinfo')).toContainText('Nothing was looked at yet.');
	await page.getByRole('button', { name: 'Look at all of it' }).click();
	await expect(page.getByRole('contentinfo')).toContainText('1 threads', { timeout: 180_000 });
});

test('a folder of 20,000 files is taken in, surveyed and looked at', async ({ page }) => {
	test.setTimeout(180_000);
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-e2e-'));
	try {
		for (let i = 0; i < 20_000; i++) {
			if (i % 500 === 0) mkdirSync(join(folder, `part ${i / 500}`));
			writeFileSync(join(folder, `part ${Math.floor(i / 500)}`, `${i}.txt`), `Nothing of note, ${i}`);
		}
		writeFileSync(join(folder, 'part 7', 'talk.db'), talk(11));
		await page.goto('http://127.0.0.1:4392/');
		await page.getByTestId('folder').setInputFiles(folder);
		await expect(page.getByRole('link', { name: /Sources/ })).toContainText('20,001', { timeout: 60_000 });
		const survey = page.getByRole('region', { name: 'What there is, and what to look at' });
		await expect(survey.or(page.getByText('The look is done.'))).toBeVisible({ timeout: 90_000 });
		if (await survey.isVisible()) await survey.getByRole('button', { name: 'Look at all of it' }).click();
		await expect(page.getByRole('contentinfo')).toContainText('1 threads', { timeout: 90_000 });
	} finally {
		rmSync(folder, { recursive: true, force: true });
	}
});

test('an export zipped with its pictures is read by hand-giving it; times without a zone follow the case’s', async ({ page }) => {
	const said: Said[] = [
		{ at: Date.UTC(2025, 0, 14, 9, 0), writer: 'Odile Marchetti', text: 'Nine days without heat.' },
		{ at: Date.UTC(2025, 0, 14, 9, 2), writer: 'Piet Hallorann', text: 'One month is credited.', file: 'gauge.png' },
		{ at: Date.UTC(2025, 0, 14, 9, 5), writer: 'Odile Marchetti', text: '<b>Merci</b>, =1+1' }
	];
	const zip = zipSync({
		'Talk with Odile Marchetti.txt': new TextEncoder().encode(TEXT_FORMS[0]!.write(said) as string),
		'gauge.png': Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 1, 2, 3)
	});
	// Served without the demo.
	await page.goto('http://127.0.0.1:4392/');
	await expect(page).toHaveURL(/sources/);
	await page.getByTestId('files').setInputFiles({ name: 'talk.zip', mimeType: 'application/zip', buffer: Buffer.from(zip) });
	await expect(page.getByRole('contentinfo')).toContainText('1 threads', { timeout: 30_000 });
	await page.getByLabel(/Times shown in/).selectOption('Asia/Tokyo');
	await expect(page.getByRole('contentinfo')).toContainText('1 threads', { timeout: 30_000 });
	await page.getByRole('link', { name: /Threads/ }).click();
	await expect(page.getByRole('heading', { name: 'Odile Marchetti' })).toBeVisible();
	const credited = page.locator('article', { hasText: 'One month is credited.' });
	await expect(credited).toContainText('gauge.png · 11 B · found by name');
	await expect(credited.locator('time')).toHaveAttribute('datetime', '2025-01-14T00:02:00.000Z');
	await expect(credited.locator('time')).toHaveText('09:02');
	await expect(page.locator('article', { hasText: '<b>Merci</b>, =1+1' })).toBeVisible();
	await credited.click();
	await expect(page.getByRole('complementary')).toContainText('the source states no zone; read in Asia/Tokyo');
	await expect(page.getByRole('complementary')).toContainText('entry of an exported file');
});
