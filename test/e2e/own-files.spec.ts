/** Files of one's own: dropped, chosen, broken, large. Served without the demo. */
import { mkdirSync, mkdtempSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { BlobWriter, Uint8ArrayReader, ZipWriter } from '@zip.js/zip.js';
import { createDatabase } from '../vectors/engine';
import { isDeleted, OBJECT_MESSAGES, OBJECT_PAGE } from '../vectors/object-pages';
import { leftByPage } from '../vectors/object-stores';

test.use({ baseURL: 'http://127.0.0.1:4392' });

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-own-'));

function store(name: string, count: number, texts: (i: number) => string): string {
	const path = join(folder, name);
	const db = createDatabase(path, ['synchronous=off']);
	db.exec('create table c0(c0 integer primary key autoincrement, c1 text, c2 text, c3 integer, c4 integer)');
	db.exec('begin');
	for (let i = 1; i <= count; i++)
		db.run('insert into c0 values(?,?,?,?,?)', [
			i,
			i % 4 === 0 ? '+447700900222' : '+447700900111',
			texts(i),
			1_700_000_000 + i * 90,
			Number(i % 3 === 0)
		]);
	db.exec('commit');
	db.exec('delete from c0 where c0 in (5, 9)');
	db.close();
	return path;
}

async function give(page: Page, ...paths: string[]): Promise<void> {
	await page.goto('/');
	await expect(page).toHaveURL(/sources/);
	await page.getByTestId('files').setInputFiles(paths);
}

test('a database nobody has seen is read, and its lost messages with it', async ({ page }) => {
	await give(
		page,
		store('strange.db', 60, (i) => `Shall we meet at the pump house on day ${i}?`)
	);
	await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 30_000 });
	await expect(page.getByRole('contentinfo')).toContainText('2 threads · 2 messages brought back');
	await page.getByRole('link', { name: 'Read the threads' }).click();
	await page.getByRole('button', { name: /111/ }).click();
	await page.getByRole('button', { name: 'Only lost' }).click();
	await expect(page.locator('article')).toHaveCount(2);
	await expect(page.locator('article').first()).toContainText('on day 5?');
});

test('markup in texts and names stays text', async ({ page }) => {
	let ran = false;
	page.on('dialog', () => (ran = true));
	await give(
		page,
		store('<b>markup.db', 40, (i) => `<img src=x onerror=alert(1)><script>alert(${i})</script> said the note`)
	);
	await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 30_000 });
	await page.goto('/threads');
	await expect(page.locator('article').first()).toContainText('<img src=x onerror=alert(1)>');
	expect(await page.locator('article img, article script').count()).toBe(0);
	expect(ran).toBe(false);
});

test('a file that is no database gives one line that says what to do', async ({ page }) => {
	const path = join(folder, 'letter.txt');
	writeFileSync(path, 'Dear Sir or Madam, '.repeat(400));
	await give(page, path);
	await expect(page.getByText(/letter\.txt is not a database that can be read here/)).toBeVisible({ timeout: 30_000 });
	await page.goto('/threads');
	await expect(page.getByRole('heading', { name: 'No messages were found' })).toBeVisible();
});

test('a talk in an old code page is read by its letters, which is said; of free space nothing is, as it has none', async ({ page }) => {
	// Windows-1251: the letters from А on lie together, in the order they have in Unicode.
	const inCodePage = (text: string): Uint8Array =>
		Uint8Array.from([...text].map((letter) => (letter >= 'А' ? letter.charCodeAt(0) - 0x350 : letter.charCodeAt(0))));
	const said = ['ключ под горшком, принеси суп', 'завтра утром приду', 'отопление сломано, позвони'];
	const talk = Array.from(
		{ length: 9 },
		(_, i) => `[1${i}.09.2024 10:00] ${i % 2 ? 'Piet Hallorann' : 'Катя Волкова'}: ${said[i % 3]}, ${i}`
	);
	const path = join(folder, 'Катя Волкова.txt');
	writeFileSync(path, inCodePage(talk.join('\n')));
	await give(page, path);
	await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 30_000 });
	await expect(page.getByText('By its letters it is windows-1251, and is read so.')).toBeVisible();
	await expect(page.getByText('nothing deleted is left in it')).toHaveCount(0);
	await page.getByRole('link', { name: 'Read the threads' }).click();
	await expect(page.locator('article').first()).toContainText('ключ под горшком, принеси суп, 0');
});

test('another file joins the case, and leaves it with what was found in it', async ({ page }) => {
	const first = store('first.db', 40, (i) => `The first case has line ${i} in it`);
	await give(page, first);
	await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 30_000 });
	await page.getByTestId('files').setInputFiles(store('second.db', 60, (i) => `Quite another store speaks of thing ${i} here`));
	await expect(page.getByRole('cell', { name: 'second.db', exact: true }).first()).toBeVisible();
	await expect(page.getByRole('contentinfo')).toContainText('4 messages brought back', { timeout: 30_000 });
	await page.getByRole('button', { name: 'Take second.db out' }).click();
	await page.getByRole('button', { name: 'Take it out' }).click();
	await expect(page.getByRole('contentinfo')).toContainText('2 messages brought back', { timeout: 30_000 });
	await page.goto('/threads');
	await expect(page.locator('article').first()).toContainText('The first case');
	await page.getByRole('searchbox').fill('another store');
	await expect(page.getByText(/nothing|no thread/i).first()).toBeVisible();
});

test('an original that is changed later is noticed, and takes nothing away', async ({ page }) => {
	const path = store('later.db', 40, (i) => `What was said is kept, line ${i}`);
	await give(page, path);
	await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 30_000 });
	await expect(page.getByRole('alert')).toHaveCount(0);
	writeFileSync(path, 'not what it was');
	await page.getByRole('link', { name: /^Threads/ }).click();
	await expect(page.locator('article').first()).toBeVisible();
	await page.getByRole('link', { name: /^Sources/ }).click();
	await expect(page.getByRole('alert')).toContainText(
		'later.db is not there any more as it was given: it was moved, changed or unplugged.'
	);
	await expect(page.getByRole('contentinfo')).toContainText('2 messages brought back');
});

test('where the browser has no space left that is said, and nobody is left waiting', async ({ page }) => {
	await page.goto('/');
	await page.evaluate(() => {
		for (const act of ['put', 'add'] as const) {
			const own = IDBObjectStore.prototype[act];
			IDBObjectStore.prototype[act] = function (this: IDBObjectStore, ...given: Parameters<typeof own>) {
				if (Object.hasOwn(window, 'full') && this.name !== 'originals') throw new DOMException('full', 'QuotaExceededError');
				return own.apply(this, given);
			};
		}
	});
	await page.getByTestId('files').setInputFiles(store('before.db', 40, (i) => `What was found before is here, line ${i}`));
	await expect(page.getByRole('contentinfo')).toContainText('2 messages brought back', { timeout: 30_000 });
	await page.evaluate(() => Object.assign(window, { full: true }));
	await page.getByTestId('files').setInputFiles(store('after.db', 40, (i) => `There is no space for it, line ${i}`));
	await expect(page.getByRole('alert').first()).toContainText('The browser has no space left, so this could not be kept.');
	await expect(page.getByRole('region', { name: 'The look' })).toHaveCount(0);
	await expect(page.getByRole('contentinfo')).toContainText('2 messages brought back');
});

test('names are pasted, and put right by hand', async ({ page }) => {
	await give(
		page,
		store('unnamed.db', 40, (i) => `Nobody here is called anything in line ${i}`)
	);
	await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 30_000 });
	await page.getByRole('button', { name: 'Paste names' }).click();
	await page.getByRole('dialog').getByRole('textbox').fill('Odile Marchetti\t07700 900111\nBram Vesterholt\t+44 (0)7700 900222');
	await page.getByRole('button', { name: 'Take them in' }).click();
	await expect(page.getByRole('region', { name: 'What was given' })).toContainText(/Address book.*names put in by hand.*2 people/, {
		timeout: 30_000
	});
	await page.getByRole('link', { name: /^Threads/ }).click();
	await page.getByRole('button', { name: /Bram Vesterholt/ }).click();
	await expect(page.getByRole('heading', { name: 'Bram Vesterholt' })).toBeVisible();
	await page.getByRole('button', { name: 'Name', exact: true }).click();
	await page.getByRole('dialog').getByRole('textbox', { name: '+447700900222' }).fill('Li Wen');
	await page.getByRole('button', { name: 'Call them so' }).click();
	await expect(page.getByRole('heading', { name: 'Li Wen' })).toBeVisible({ timeout: 30_000 });
	await expect(page.getByText('named by hand')).toBeVisible();
	await expect(page.locator('article').filter({ hasText: 'Li Wen' }).first()).toBeVisible();
	await page.reload();
	await page.getByRole('button', { name: /Li Wen/ }).click();
	await page.goto('/log');
	await expect(page.getByText('+447700900222 is called “Li Wen”: put in by hand.')).toBeVisible();
});

test('folders given are sources that can be opened, and leave the case whole', async ({ page }) => {
	for (const name of ['first', 'second']) {
		mkdirSync(join(folder, 'given', name, 'more'), { recursive: true });
		renameSync(
			store(`${name}.db`, 40, (i) => `Of the ${name} copy line ${i} is this one here`),
			join(folder, 'given', name, `${name}.db`)
		);
		writeFileSync(join(folder, 'given', name, 'more', 'note.txt'), `A note of the ${name} copy`);
	}
	await page.goto('/');
	await page.locator('input[webkitdirectory]').setInputFiles(join(folder, 'given'));
	await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 30_000 });
	const opens = page.getByRole('button', { name: 'given/second, 2 files' });
	await expect(opens).toHaveAttribute('aria-expanded', 'false');
	await opens.click();
	await expect(page.getByRole('list', { name: 'Files in given/second' })).toContainText('more/note.txt');
	const sources = page.getByRole('region', { name: 'What was given' });
	await expect(sources.getByRole('row').filter({ hasText: 'given/second' })).toContainText(/Program’s folder.*38 messages.*everything/);
	await sources.getByRole('row').filter({ hasText: 'given/first' }).getByRole('button').click();
	await expect(sources.getByRole('list', { name: 'Files in given/first' })).toContainText(/first\.db.*messages/);
	// Each is a place at once, and what is said of it is judged by its own span.
	await page.getByRole('link', { name: 'Intake' }).click();
	const places = page.getByRole('region', { name: 'Where they can still be' });
	await expect(places.getByRole('button', { name: 'second Profile folder' })).toContainText('looked: 2 of 4');
	await page.getByRole('link', { name: 'Sources' }).click();
	await page.getByRole('button', { name: 'Take given/second out' }).click();
	await expect(page.getByRole('dialog')).toContainText('Take these 2 files out?');
	await expect(page.getByRole('dialog')).toBeInViewport({ ratio: 1 });
	await page.getByRole('button', { name: 'Take them out' }).click();
	await expect(opens).toHaveCount(0);
	await expect(page.getByRole('contentinfo')).toContainText('2 messages brought back', { timeout: 30_000 });
	await page.getByRole('link', { name: 'Intake' }).click();
	await expect(places.getByRole('button', { name: 'first Profile folder' })).toContainText('looked: 2 of 2');
	await expect(places.getByRole('button', { name: 'second Profile folder' })).toHaveCount(0);
	await page.goto('/threads');
	await expect(page.locator('article').first()).toContainText('Of the first copy');
	await page.goto('/log');
	await expect(page.getByText('The 2 files of the folder given/second were taken out', { exact: false })).toBeVisible();
});

test('two programs’ stores in two copies each have their captures, and both can be read and dated', async ({ page }) => {
	const errors: string[] = [];
	page.on('pageerror', (error) => errors.push(String(error)));
	const root = join(folder, 'two programs');
	for (const [copy, count] of [
		['earlier', 30],
		['later', 50]
	] as const)
		for (const [program, what] of [
			['post', 'The pump'],
			['talk', 'The lift']
		] as const) {
			mkdirSync(join(root, copy, program), { recursive: true });
			store(join('two programs', copy, program, 'store.db'), count, (i) => `${what} was out again on day ${i}, in the morning`);
		}
	await page.goto('/');
	await page.locator('input[type=file]').nth(1).setInputFiles(root);
	await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 30_000 });
	for (const program of ['post', 'talk'])
		await expect(page.getByRole('heading', { name: `Captures of one store, ${program}/store.db` })).toBeVisible();
	// What is stated of a copy goes for all that lies in it.
	await page.getByLabel('When earlier was taken').first().fill('9 Feb 2025');
	await page.getByLabel('When earlier was taken').first().press('Enter');
	await expect(page.getByText('as you state')).toHaveCount(2, { timeout: 30_000 });
	await page.goto('/threads');
	await expect(page.locator('.flag')).toHaveCount(2);
	await expect(page.locator('article').first()).toBeVisible();
	expect(errors).toEqual([]);
});

test('a column put right changes how messages read, before it is applied and after', async ({ page }) => {
	await give(
		page,
		store('flags.db', 60, (i) => `Shall we meet at the pump house on day ${i}?`)
	);
	await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 30_000 });
	await page.getByRole('link', { name: 'How the stores were read' }).click();
	await expect(page.getByRole('heading', { name: 'c0', level: 2 })).toBeVisible();
	await expect(page.getByLabel('What c2 is')).toHaveValue('text');
	await expect(page.getByLabel('Epoch and unit of c3')).toHaveValue('seconds since 1970');
	await page.getByLabel('Epoch and unit of c3').selectOption('seconds since 2001');
	await page.getByRole('button', { name: 'Show some messages' }).click();
	const now = page.locator('.two > div').first();
	await expect(now.locator('li').first()).toContainText('2023');
	await expect(page.locator('.two > div').last().locator('li').first()).toContainText('2054');
	await page.getByRole('button', { name: 'Apply' }).click();
	await expect(page.getByText('Read as you put it right.')).toBeVisible({ timeout: 30_000 });
	await page.goto('/threads');
	await expect(page.locator('article time').first()).toHaveAttribute('datetime', /^2054-/);
	await page.goto('/sources/reading');
	const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save it as a file' }).click()]);
	const file = await download.path();
	await page.getByRole('button', { name: 'Read as told again' }).click();
	await expect(page.getByText('Read as told from the bytes.')).toBeVisible({ timeout: 30_000 });
	await page.locator('input[type=file]').setInputFiles(file);
	await expect(page.getByLabel('Epoch and unit of c3')).toHaveValue('seconds since 2001');
});

test('a locked archive asks for its passphrase, says when one is wrong, and is read once one is right', async ({ page }) => {
	const bytes = readFileSync(store('inside.db', 60, (i) => `Behind the lock is line ${i} of it`));
	const writer = new ZipWriter(new BlobWriter());
	await writer.add('Profile/inside.db', new Uint8ArrayReader(new Uint8Array(bytes)), {
		useWebWorkers: false,
		password: 'thermostat',
		encryptionStrength: 3
	});
	const path = join(folder, 'locked.zip');
	writeFileSync(path, Buffer.from(await (await writer.close()).arrayBuffer()));
	await give(page, path);
	await expect(page.getByText('locked.zip is locked. Give its passphrase to read it.')).toBeVisible({ timeout: 30_000 });
	await expect(page.getByRole('region', { name: 'What was given' })).toContainText(/Locked.*locked\.zip.*needs its passphrase/);
	const passphrase = page.getByLabel('Passphrase, or the text of an identity file');
	await passphrase.fill('boiler');
	await page.getByRole('button', { name: 'Try it' }).click();
	await expect(page.getByText('No passphrase given opens locked.zip. Nothing of it was read.')).toBeVisible({ timeout: 30_000 });
	await passphrase.fill('thermostat');
	await page.getByRole('button', { name: 'Try it' }).click();
	await expect(page.getByRole('contentinfo')).toContainText('2 threads · 2 messages brought back', { timeout: 30_000 });
	await page.getByRole('region', { name: 'What was given' }).getByRole('button').click();
	await expect(page.getByRole('list', { name: 'Files in locked.zip' })).toContainText('Profile/inside.db');
	await page.goto('/log');
	await expect(page.getByText('A passphrase was given for what is locked. It is not written down.').first()).toBeVisible();
	expect(await page.content()).not.toContain('thermostat');
});

test('a ledger of 100,000 messages keeps only what is visible in the page, and the page responsive', async ({ page }) => {
	test.setTimeout(180_000);
	const path = join(folder, 'long.db');
	const db = createDatabase(path, ['synchronous=off', 'journal_mode=memory']);
	db.exec('create table m(id integer primary key, who text, body text, at integer, mine integer)');
	db.exec('begin');
	for (let i = 1; i <= 100_000; i++)
		db.run('insert into m values(?,?,?,?,?)', [
			i,
			'+447700900111',
			`Line ${i} of a long correspondence about the heating`,
			1_600_000_000 + i * 700,
			Number((i * 7) % 3 === 0)
		]);
	db.exec('commit');
	db.close();
	await page.addInitScript(() => {
		const slow: number[] = [];
		Object.assign(window, { slow });
		new PerformanceObserver((list) => slow.push(...list.getEntries().map((e) => e.duration))).observe({ type: 'longtask', buffered: true });
	});
	await give(page, path);
	await page.getByRole('link', { name: 'Threads' }).click();
	await expect(page.locator('article').first()).toBeVisible({ timeout: 120_000 });
	await expect(page.getByText('100000 messages')).toBeVisible({ timeout: 120_000 });
	expect(await page.locator('article').count()).toBeLessThan(120);
	const list = page.locator('.ledger-list');
	await list.evaluate(async (el) => {
		for (let i = 0; i < 40; i++) {
			el.scrollTop = (el.scrollHeight / 40) * i;
			await new Promise((r) => requestAnimationFrame(r));
		}
		el.scrollTop = el.scrollHeight;
	});
	// The list learns the heights of its lines as they come into view, so its end moves while it is gone to.
	await expect(async () => {
		await list.evaluate((el) => (el.scrollTop = el.scrollHeight));
		await expect(page.locator('article', { hasText: 'Line 100000 of a long correspondence' })).toBeVisible({ timeout: 1500 });
	}).toPass({ timeout: 25_000 });
	expect(await page.locator('article').count()).toBeLessThan(120);
	const slowest = await page.evaluate(() => Math.max(0, ...(window as unknown as { slow: number[] }).slow));
	console.log(`slowest task on the page's thread: ${Math.round(slowest)} ms`);
	test.info().annotations.push({ type: 'slowest task', description: `${Math.round(slowest)} ms` });
});

test('the folder of a program that keeps objects gives its threads, with what was deleted', async ({ page }) => {
	const profile = join(folder, 'profile');
	for (const [path, bytes] of Object.entries(await leftByPage(OBJECT_PAGE))) {
		mkdirSync(dirname(join(profile, path)), { recursive: true });
		writeFileSync(join(profile, path), bytes);
	}
	const deleted = OBJECT_MESSAGES.find((m, i) => isDeleted(i) && m.conversationId === 'conv-p1')!;
	await page.goto('/');
	await page.locator('input[webkitdirectory]').setInputFiles(profile);
	await expect(page.getByText('The look is done.')).toBeVisible({ timeout: 30_000 });
	await expect(page.getByRole('contentinfo')).toContainText('4 threads · 10 messages brought back');
	await page.goto('/threads');
	await page.getByText('Odile Marchetti', { exact: true }).first().click();
	await page.getByRole('button', { name: 'Only lost' }).click();
	const line = page.locator('article', { hasText: deleted.body });
	await expect(line).toHaveClass(/dropped/);
	await line.click();
	const margin = page.getByRole('complementary').last();
	await expect(margin).toContainText('entry of the store’s log of writes');
	await expect(margin).toContainText('known by its key');
	await expect(margin).toContainText('value.body');
});
