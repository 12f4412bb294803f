/** A store of about 50 MB and 140,000 rows, made with the real engine and a fixed seed, a tenth of it deleted. */
import { existsSync, mkdirSync, renameSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createDatabase } from '../vectors/engine';
import { Random } from '../vectors/random';

const ROWS = 140_000;
const WORDS = 'boiler charge winter stair meter board house water valve pump tomorrow please again thanks number letter hall cellar'.split(
	' '
);

export function benchStore(): string {
	const folder = join(tmpdir(), 'ombudsman-bench');
	const path = join(folder, 'store-140000-v2.db');
	if (existsSync(path)) return path;
	mkdirSync(folder, { recursive: true });
	const r = new Random(50);
	const making = `${path}.making`;
	const db = createDatabase(making, ['page_size=4096', 'synchronous=off', 'journal_mode=memory']);
	db.exec(
		'create table handle(id integer primary key, address text); create table message(id integer primary key autoincrement, guid text, text text, handle_id integer, date integer, is_from_me integer, is_read integer, service text)'
	);
	for (let n = 1; n <= 200; n++) db.run('insert into handle values(?,?)', [n, `+4477009${String(n).padStart(5, '0')}`]);
	db.exec('begin');
	for (let i = 1; i <= ROWS; i++) {
		const text = Array.from({ length: r.int(10, 72) }, () => r.pick(WORDS)).join(' ');
		db.run('insert into message(guid,text,handle_id,date,is_from_me,is_read,service) values(?,?,?,?,?,?,?)', [
			`${r.hex(8)}-${r.hex(4)}-${r.hex(4)}-${r.hex(4)}-${r.hex(12)}`,
			`${text} ${i}`,
			r.int(1, 200),
			(700_000_000 + i * 60) * 1000,
			r.chance(0.4) ? 1 : 0,
			1,
			'plain'
		]);
	}
	db.exec('commit');
	db.exec('delete from message where id % 10 = 3');
	db.close();
	renameSync(making, path);
	return path;
}
