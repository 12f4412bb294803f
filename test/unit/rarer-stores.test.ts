/** What some stores keep in ways of their own: addresses with devices and nicknames, files within rows, days by number, tables listed with their highest number. */
import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { deflateSync } from 'node:zlib';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { messageLine } from '../../src/cli/lines';
import { Look } from '../../src/core/look';
import { createDatabase, type Engine } from '../vectors/engine';
import { insertInto } from '../vectors/plainly';

interface Line {
	text: string | null;
	sentAt: string | null;
	direction: string | null;
	correspondent: string | null;
	person: string | null;
	thread: string;
	attachments: { name: string | null; sha256: string | null; size: number | null; link: string | null }[];
}

const DAY = 20_100;
const line = (i: number): string => `Nobody has answered about the stairs since ${i} days, so who pays?`;

describe('stores of other habits', () => {
	let folder: string;
	let made = 0;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-rarer-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	function lookAt(write: (db: Engine) => void): Look {
		const path = join(folder, `${made++}.db`);
		const db = createDatabase(path);
		write(db);
		db.close();
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		return look;
	}
	function linesOf(look: Look): Line[] {
		const { stores, weave } = look.findings();
		return weave.threads.flatMap((t) =>
			t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as Line)
		);
	}

	it('names who wrote in a room by the nickname behind its address, and a device by nobody', () => {
		const lines = linesOf(
			lookAt((db) => {
				db.exec(
					'create table roster(address text primary key, nick text); create table log(id integer primary key, "from" text, "to" text, at integer, body text)'
				);
				for (const name of ['agathe', 'dorian', 'elvira']) db.run(insertInto('roster', 2), [`${name}@talk.example`, `${name} morrow`]);
				const me = 'hedda@talk.example';
				for (let i = 0; i < 80; i++) {
					const name = ['agathe', 'dorian', 'elvira'][i % 3]!;
					const room = 'stairs@rooms.talk.example';
					const other = i % 4 === 0 ? `${room}/${name} morrow` : `${name}@talk.example/pad${i % 2}`;
					const [from, to] = i % 2 ? [`${me}/desk${i % 3}`, i % 4 === 1 ? room : other] : [other, me];
					db.run(insertInto('log', 5), [null, from, to, 1_736_000_000 + i * 700, line(i)]);
				}
			})
		);
		const of = (i: number): Line => lines.find((l) => l.text === line(i))!;
		assert.equal(lines.length, 80);
		assert.deepEqual([of(4).direction, of(4).person], ['in', 'dorian morrow']);
		assert.equal(of(4).thread, of(5).thread, 'what the owner wrote to the room stands in the room');
		assert.deepEqual([of(2).direction, of(2).correspondent], ['in', 'elvira@talk.example']);
		assert.deepEqual([of(11).direction, of(11).correspondent], ['out', 'elvira@talk.example']);
		assert.equal(of(2).thread, of(11).thread);
		assert.equal(new Set(lines.map((l) => l.thread)).size, 4);
	});

	/** Handles written like files' names; rooms among the other sides; `from` and `to` as two programs have them. */
	for (const [how, from, to] of [
		[
			'the owner is in either column',
			(me: string, who: string) => who || me,
			(me: string, who: string, room: string) => room || (who ? me : '')
		],
		[
			'the owner is in neither',
			(_: string, who: string) => who || null,
			(_: string, who: string, room: string) => room || (who ? null : '')
		]
	] as const)
		it(`tells handles from files, and who wrote in rooms, where ${how}`, () => {
			const names = ['lena.marchetti', 'santo.obi', 'yusuf.nair', 'wen.li'];
			const lines = linesOf(
				lookAt((db) => {
					db.exec('create table brief(id integer primary key, talk, body text, "to", at, "from")');
					for (let i = 0; i < 90; i++) {
						const room = i % 5 === 0 ? `room-${i % 2}` : '';
						const partner = `@${names[i % 4]}`;
						const writer = i % 3 === 0 ? '' : partner;
						const recipient = to('@piet.hallorann', writer, room) === '' ? partner : to('@piet.hallorann', writer, room);
						const row = [i, room || partner, line(i), recipient, 1_736_000_000 + i * 700, from('@piet.hallorann', writer)];
						db.run(insertInto('brief', 6), row);
					}
				})
			);
			assert.equal(lines.length, 90);
			for (let i = 0; i < 90; i++) {
				const { direction, correspondent } = lines.find((l) => l.text === line(i))!;
				const other = i % 3 === 0 && i % 5 === 0 ? null : `@${names[i % 4]}`;
				assert.deepEqual([direction, correspondent], [i % 3 === 0 ? 'out' : 'in', other], line(i));
			}
			assert.equal(new Set(lines.map((l) => l.thread)).size, 6);
			assert.deepEqual(
				lines.filter((l) => l.attachments.length > 0),
				[]
			);
		});

	it('knows the number in a service’s handle of the conversation as the writer’s own, and names who never wrote', () => {
		const number = (k: number): string => `+4479460100${10 + k}`;
		const lines = linesOf(
			lookAt((db) => {
				db.exec(`create table person(id integer primary key, called text, phone text);
					create table msg(id integer primary key, chat text, person integer, outgoing integer, body text, at integer)`);
				for (let k = 0; k < 5; k++) db.run(insertInto('person', 3), [k + 3, `Bram ${'ABCDE'[k]}lder`, number(k)]);
				for (let i = 0; i < 60; i++) {
					const k = i % 5;
					const mine = k === 4 || i % 3 === 0;
					db.run(insertInto('msg', 6), [
						null,
						`${number(k).slice(1)}@talk.example`,
						mine ? null : k + 3,
						Number(mine),
						line(i),
						1_736_000_000 + i * 700
					]);
				}
			})
		);
		for (let i = 0; i < 60; i++) {
			const { correspondent, person, direction } = lines.find((l) => l.text === line(i))!;
			const k = i % 5;
			assert.equal(direction, k === 4 || i % 3 === 0 ? 'out' : 'in');
			assert.equal(person, `Bram ${'ABCDE'[k]}lder`, line(i));
			assert.equal(correspondent, k === 4 ? `${number(k).slice(1)}@talk.example` : number(k), line(i));
		}
		assert.equal(new Set(lines.map((l) => l.thread)).size, 5);
	});

	it('knows whom a conversation is with by the address it is called by, where writers are known by keys of nobody', () => {
		const look = lookAt((db) => {
			db.exec(`create table z_msg(z_id integer primary key, z_conv text, z_src integer, z_dir integer, z_body text, z_time integer);
					create table z_conv_p(conv text, person integer); create table device(id integer primary key, name text)`);
			for (let n = 1; n <= 6; n++) db.run(insertInto('device', 2), [n, `Tablet ${n}`]);
			const handle = (k: number): string => (k === 3 ? 'g000316@rooms.example' : `44794601001${k}@talk.example`);
			for (const [k, members] of [[1], [5], [6], [1, 5, 6]].entries())
				for (const person of members) db.run(insertInto('z_conv_p', 2), [handle(k), person]);
			for (let i = 0; i < 80; i++) {
				const k = i % 4;
				const mine = i % 3 === 0;
				const by = mine ? null : k === 3 ? [1, 5, 6][i % 3]! : [1, 5, 6][k]!;
				db.run(insertInto('z_msg', 6), [null, handle(k), by, mine ? 2 : 1, line(i), 1_736_000_000 + i * 700]);
			}
		});
		const lines = linesOf(look);
		for (let i = 0; i < 80; i++) {
			const { correspondent, direction } = lines.find((l) => l.text === line(i))!;
			assert.deepEqual(
				[direction, correspondent],
				[i % 3 === 0 ? 'out' : 'in', i % 4 === 3 ? null : `44794601001${i % 4}@talk.example`],
				line(i)
			);
		}
		const { sheets } = look.findings().stores[0]!.reading;
		const roles = Object.fromEntries(sheets.map(({ sheet, role }) => [sheet.name, role.value]));
		assert.deepEqual(roles, { z_msg: 'messages', z_conv_p: 'members', device: 'other' });
	});

	it('takes the one of two members whose number a conversation is called by for its other side', () => {
		const lines = linesOf(
			lookAt((db) => {
				db.exec(`create table msg(id integer primary key, conv text, src text, dir integer, body text, at integer);
					create table conv_member(conv text, person text)`);
				const number = (k: number): string => `+44794601001${k}`;
				for (let k = 0; k < 4; k++) db.run(insertInto('conv_member', 2), [`${number(k).slice(1)}@talk.example`, number(k)]);
				db.run(insertInto('conv_member', 2), [`${number(2).slice(1)}@talk.example`, '+447946010099']);
				for (let i = 0; i < 80; i++) {
					const mine = i % 3 === 0;
					db.run(insertInto('msg', 6), [
						null,
						`${number(i % 4).slice(1)}@talk.example`,
						mine ? null : number(i % 4),
						mine ? 2 : 1,
						line(i),
						1_736_000_000 + i * 700
					]);
				}
			})
		);
		for (let i = 0; i < 80; i++) assert.equal(lines.find((l) => l.text === line(i))!.correspondent, `+44794601001${i % 4}`, line(i));
	});

	it('links a few files by a list of pairs whose column is called for messages in short', () => {
		const lines = linesOf(
			lookAt((db) => {
				db.exec(`create table message(id integer primary key, peer text, at integer, mine integer, body text);
					create table attach(id integer primary key, name text, mime text, size integer);
					create table msg_attach(msg integer, attach integer)`);
				for (let i = 1; i <= 40; i++)
					db.run(insertInto('message', 5), [i, `+4479460100${10 + (i % 3)}`, 1_736_000_000 + i * 900, i % 2, line(i)]);
				for (const [k, i] of [17, 25, 26].entries()) {
					db.run(insertInto('attach', 4), [k + 1, `letter ${i}.jpg`, 'image/jpeg', 1000 + i]);
					db.run(insertInto('msg_attach', 2), [i, k + 1]);
				}
			})
		);
		for (let i = 1; i <= 40; i++)
			assert.deepEqual(
				lines.find((l) => l.text === line(i))!.attachments.map((a) => a.name),
				[17, 25, 26].includes(i) ? [`letter ${i}.jpg`] : []
			);
	});

	it('takes a flag called "own" in another language for the way, and none that is called a state', () => {
		for (const own of ['eigene', 'propio', 'egen', 'g']) {
			const lines = linesOf(
				lookAt((db) => {
					db.exec(`create table brief(id integer primary key, wer text, state integer, body text, at integer, ${own} integer)`);
					for (let i = 0; i < 80; i++)
						db.run(insertInto('brief', 6), [
							null,
							`+4479460100${10 + (i % 3)}`,
							1 + Number(i % 7 < 3),
							line(i),
							1_736_000_000 + i * 700,
							Number(i % 5 < 2)
						]);
				})
			);
			for (let i = 0; i < 80; i++)
				assert.equal(lines.find((l) => l.text === line(i))!.direction, i % 5 < 2 ? 'out' : 'in', `${own}: ${line(i)}`);
		}
	});

	it('gives a file whose bytes stand in its row, be it large, and no small picture of it', () => {
		const bytesOf = (i: number): Buffer =>
			Buffer.concat([Buffer.from([0xff, 0xd8, 0xff, 0xe0]), Buffer.from(`picture ${i} `.repeat(i === 40 ? 50_000 : 90))]);
		const lines = linesOf(
			lookAt((db) => {
				db.exec(`create table msg(id integer primary key, peer text, at integer, mine integer, body text);
					create table enclosed(id integer primary key, msg integer references msg(id), title text, kind text, thumbnail blob, data blob)`);
				for (let i = 1; i <= 40; i++) {
					db.run(insertInto('msg', 5), [i, `+4479460100${10 + (i % 3)}`, 1_736_000_000 + i * 900, i % 2, line(i)]);
					if (i % 8 === 0)
						db.run(insertInto('enclosed', 6), [null, i, `stairs ${i}.jpg`, 'image/jpeg', bytesOf(i).subarray(0, 80), bytesOf(i)]);
				}
			})
		);
		for (let i = 1; i <= 40; i++) {
			const { attachments } = lines.find((l) => l.text === line(i))!;
			if (i % 8 !== 0) assert.deepEqual(attachments, []);
			else
				assert.deepEqual(
					attachments.map(({ name, sha256, size, link }) => ({ name, sha256, size, link })),
					[
						{
							name: `stairs ${i}.jpg`,
							sha256: createHash('sha256').update(bytesOf(i)).digest('hex'),
							size: bytesOf(i).length,
							link: 'inside the store'
						}
					]
				);
		}
	});

	it('holds only files by their beginning: a packed document is read whole, however large', () => {
		const said = Array.from({ length: 30 }, (_, i) => ({
			id: `e${i}x`,
			sender: `+4479460100${10 + (i % 2)}`,
			at: 1_736_000_000_000 + i * 60_000,
			// Digests do not pack.
			body: `${line(i)} ${Array.from({ length: 300 }, (_, k) => createHash('sha256').update(`${i} ${k}`).digest('hex')).join(' ')}`
		}));
		const packed = deflateSync(JSON.stringify({ id: 'a', messages: said }));
		assert.ok(packed.length > 1 << 18);
		const lines = linesOf(
			lookAt((db) => {
				db.exec('create table talks(id text primary key, doc blob)');
				db.run(insertInto('talks', 2), ['a', packed]);
			})
		);
		for (const { body } of said) assert.equal(lines.filter((l) => l.text === body).length, 1);
	});

	it('tells the writers from calls that are numbered as the persons are', () => {
		const persons = [
			'Agathe Morrow',
			'Balthasar Morrow',
			'Clementine Oxenford',
			'Dorian Oxenford',
			'Elvira Nightingale',
			'Fenno Nightingale'
		];
		const lines = linesOf(
			lookAt((db) => {
				db.exec(`create table person(pid integer primary key, number text not null unique, name text);
					create table talk(tid integer primary key, name text);
					create table in_talk(tid int, pid int);
					create table note(nid integer primary key, talk int, who int, at integer, body text);
					create table dialled(id integer primary key, number text, secs int)`);
				for (const [i, name] of persons.entries()) db.run(insertInto('person', 3), [i + 1, `+44794601001${i}`, name]);
				for (let i = 1; i <= 5; i++) db.run(insertInto('dialled', 3), [i, `+44794601001${i % 2}`, i * 7]);
				for (let t = 1; t <= 3; t++) {
					db.run(insertInto('talk', 2), [t, null]);
					for (const pid of [t === 3 ? 5 : t + 1, 4]) db.run(insertInto('in_talk', 2), [t, pid]);
				}
				for (let i = 1; i <= 90; i++) {
					const t = (i % 3) + 1;
					db.run(insertInto('note', 5), [i, t, i % 2 ? 4 : t === 3 ? 5 : t + 1, 1_736_000_000 + i * 900, line(i)]);
				}
			})
		);
		for (let i = 1; i <= 90; i++) {
			const found = lines.find((l) => l.text === line(i))!;
			const other = persons[[1, 2, 4][i % 3]!];
			assert.deepEqual([found.direction, found.person], [i % 2 ? 'out' : 'in', other], line(i));
		}
	});

	it('reads days by their number with the second of the day, told by growing one within the other', () => {
		const lines = linesOf(
			lookAt((db) => {
				db.exec('create table said(id integer primary key, peer text, a integer, b integer, mine integer, words text)');
				for (let i = 1; i <= 60; i++)
					db.run(insertInto('said', 6), [i, `+4479460100${10 + (i % 3)}`, DAY + Math.floor(i / 4), (i % 4) * 20_000 + i, i % 2, line(i)]);
			})
		);
		for (let i = 1; i <= 60; i++) {
			const at = ((DAY + Math.floor(i / 4)) * 86_400 + (i % 4) * 20_000 + i) * 1000;
			assert.equal(lines.find((l) => l.text === line(i))!.sentAt, new Date(at).toISOString());
		}
	});

	it('takes the highest number that a list of tables states for one that was given out, and its names for nobody', () => {
		const look = lookAt((db) => {
			db.exec(`create table counters(no integer primary key, entity text, highest integer);
				create table letter(pk integer primary key, writer integer, at integer, body text);
				create table person(pk integer primary key, full_name text, phone text)`);
			for (const [i, row] of (
				[
					['letter', 66],
					['person', 4]
				] as const
			).entries())
				db.run(insertInto('counters', 3), [i + 1, ...row]);
			for (let i = 1; i <= 4; i++) db.run(insertInto('person', 3), [i, `Agathe Morrow ${'IVX'[i % 3]}`, `+4479460100${10 + i}`]);
			for (let i = 1; i <= 66; i++) db.run(insertInto('letter', 4), [i, (i % 4) + 1, 1_736_000_000 + i * 900, line(i)]);
			db.all('pragma secure_delete=on');
			db.exec(
				"delete from letter where pk > 60; delete from person where pk > 3; insert into person values(4, 'Dorian Oxenford', '+447946010014')"
			);
		});
		const { weave, stores } = look.findings();
		const gaps = weave.gaps.filter((g) => g.table === 'letter').map((g) => [g.from, g.to, g.count, g.why]);
		assert.deepEqual(gaps, [[61, 66, 6, 'sequence']]);
		assert.ok(stores[0]!.reading.persons.every((p) => p.sheet.name === 'person'));
	});
});
