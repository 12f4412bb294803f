/**
 * Backups of the phone on the laptop: a folder of files named by the SHA-1 of what they are, a list that gives their
 * names, and a property list that says which device and when. The third is locked (age, by passphrase).
 */
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Encrypter } from 'age-encryption';
import { zipSync } from 'fflate';
import { createDatabase } from '../test/vectors/engine';
import { gauge, thermometer } from './pictures';

/** On the lid of the laptop, as the place's note says. */
export const PASSPHRASE = 'warm-lantern-40';

const MTIME = Date.UTC(2025, 1, 12, 12);

/** One backup as a zip of its folder. `store`: the text store as it was then. */
export function backup(folder: string, store: Uint8Array, taken: number): Uint8Array {
	const held: Record<string, Uint8Array> = {
		'Postern/letters/post.box': store,
		'Postern/settings/account.txt': new TextEncoder().encode('device=Fennel 3\nkeep_binned_days=30\n'),
		'Album/2025/gauge-22-jan.png': gauge(0.04),
		'Album/2025/hall-14-degrees.png': thermometer(14)
	};
	const work = mkdtempSync(join(tmpdir(), 'ombudsman-backup-'));
	const db = createDatabase(join(work, 'held.list'), ['page_size=4096']);
	db.exec('create table held(mark text primary key, area text, path text, bytes integer)');
	const files: Record<string, [Uint8Array, { mtime: number }]> = {};
	for (const [path, bytes] of Object.entries(held)) {
		const mark = createHash('sha1').update(path).digest('hex');
		const area = path.slice(0, path.indexOf('/'));
		db.run('insert into held values(?,?,?,?)', [mark, area, path.slice(area.length + 1), bytes.length]);
		files[`${folder}/${mark.slice(0, 2)}/${mark}`] = [bytes, { mtime: MTIME }];
	}
	db.close();
	files[`${folder}/held.list`] = [readFileSync(join(work, 'held.list')), { mtime: MTIME }];
	rmSync(work, { recursive: true, force: true });
	const about = `<?xml version="1.0" encoding="UTF-8"?>
<plist version="1.0"><dict>
<key>Device Name</key><string>Fennel 3 of Piet Hallorann</string>
<key>Made</key><date>${new Date(taken).toISOString().slice(0, 19)}Z</date>
<key>Locked</key><false/>
</dict></plist>
`;
	files[`${folder}/about.plist`] = [new TextEncoder().encode(about), { mtime: MTIME }];
	return zipSync(files, { level: 9 });
}

/** The same under a passphrase. Its salt is new each time, so its bytes are as well. */
export async function locked(zip: Uint8Array): Promise<Uint8Array> {
	const encrypter = new Encrypter();
	encrypter.setPassphrase(PASSPHRASE);
	encrypter.setScryptWorkFactor(14);
	return encrypter.encrypt(zip);
}
