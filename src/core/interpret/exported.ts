/** The readings of exports whose columns need no guess: a conversation read from text, and mail. */
import type { ExportHarvest } from '../harvest';
import type { Row } from '../model';
import { normalAddress } from './people';
import { blankReading, type DirectionRule, type MessageReading, type PersonReading, type StoreReading } from './reading';
import { sheetsOf, type Sheet, type SheetColumn } from './sheet';
import type { TimeReading } from './time';

/** Words by which people's programs call the one whose device it is. */
const SELF = new Set(
	'you me myself i ich du ik jij moi je vous yo tú io tu eu você mig mej jag du jeg meg minä sinä ja ty já ty én я вы ты ми я 我 你 您 私 自分 나 أنا أنت אני אתה ben sen sen'.split(
		' '
	)
);

/** Whether a program calls the owner so. */
export const isSelf = (name: string): boolean => SELF.has(name.toLowerCase());

/** Whom of the writers is the device's owner, with what says so; null where nothing does. `asked`: who the user says it is, in every form known. */
export function ownerAmong(writers: readonly string[], asked: readonly string[], title: string): { owner: string; why: string } | null {
	const wanted = asked.map(normalAddress);
	const named =
		writers.find((w) => wanted.includes(normalAddress(w))) ??
		writers.find((w) => wanted.some((form) => isSameNumber(form, normalAddress(w)))) ??
		writers.find((w) => asked.some((form) => sameWords(w, form)));
	if (named) return { owner: named, why: BY_USER };
	const self = writers.find(isSelf);
	if (self) return { owner: self, why: 'called so by the program that exported it' };
	if (writers.length === 2) {
		const inTitle = writers.filter((w) => isCalledAfter(title, w));
		if (inTitle.length === 1) return { owner: writers.find((w) => w !== inTitle[0])!, why: `the file is called after ${inTitle[0]}` };
	}
	return null;
}

/** A name of a file has other signs between its words. */
const lettersOf = (text: string): string => text.toLowerCase().replace(/[^\p{L}\p{M}\d]+/gu, '');

/** Whether the name is in the title of an export, as written or with letters that any keyboard has. */
export function isCalledAfter(title: string, name: string): boolean {
	if (lettersOf(name) === '') return false;
	const titles = spellingsOf(lettersOf(title));
	return spellingsOf(lettersOf(name)).some((spelling) => titles.some((t) => t.includes(spelling)));
}

/** A text as it stands, without its accents, and with two letters for one that has them: "müller", "muller", "mueller". */
const spellingsOf = (text: string): string[] => [
	text,
	withoutAccents(text),
	withoutAccents(text.replace(/[äöüßøåæœ]/g, (letter) => TWO_LETTERS[letter]!))
];
const withoutAccents = (text: string): string =>
	text
		.normalize('NFD')
		.replace(/(\p{Script=Latin})\p{M}+/gu, '$1')
		.normalize('NFC');
const TWO_LETTERS: Record<string, string> = { ä: 'ae', ö: 'oe', ü: 'ue', ß: 'ss', ø: 'oe', å: 'aa', æ: 'ae', œ: 'oe' };

export const BY_USER = 'the user says so';

/** One number written with its country and without it. */
function isSameNumber(a: string, b: string): boolean {
	if (!/^[+\d]+$/.test(a) || !/^[+\d]+$/.test(b) || (a.startsWith('+') && b.startsWith('+'))) return false;
	const [x, y] = [a, b].map((n) => n.replace(/\D/g, ''));
	return Math.min(x!.length, y!.length) >= NATIONAL && x!.slice(-NATIONAL) === y!.slice(-NATIONAL);
}
const NATIONAL = 9;

const wordsOf = (name: string): string[] =>
	name
		.toLowerCase()
		.split(/[^\p{L}\p{M}\d]+/u)
		.filter((w) => w !== '');

/** One name is the other, or a part of it in whole words. */
export function sameWords(a: string, b: string): boolean {
	const [short, long] = [wordsOf(a), wordsOf(b)].sort((x, y) => x.length - y.length) as [string[], string[]];
	return short.length > 0 && short.every((w) => long.includes(w));
}

const written = (zoned: boolean): TimeReading => ({
	label: zoned ? 'written date with zone' : 'written date',
	kind: 'number',
	epoch: 0,
	unit: 1,
	zoned,
	score: 3
});

/** Writers of an exported conversation, most lines first. */
export function writersOf(harvest: ExportHarvest): string[] {
	const counts = new Map<string, number>();
	const at = harvest.form === 'mail' ? 2 : 3;
	for (const row of harvest.book.rows) {
		const writer = row.values[at];
		if (typeof writer === 'string') counts.set(writer, (counts.get(writer) ?? 0) + 1);
	}
	return [...counts].sort((a, b) => b[1] - a[1]).map(([w]) => w);
}

/** The addresses under which mail has somebody of this name. */
export function addressesOf(mail: ExportHarvest, name: string): string[] {
	const found = new Set<string>();
	const take = (address: unknown, called: unknown): void => {
		if (typeof address === 'string' && typeof called === 'string' && called.toLowerCase() === name.toLowerCase()) found.add(address);
	};
	for (const { values } of mail.book.rows) {
		const [, , from, fromName, to, toName] = values;
		take(from, fromName);
		take(to, toName);
	}
	return [...found];
}

/** The reading of a conversation or of mail. `owner`: one of its writers, or null. */
export function readExported(harvest: ExportHarvest, owner: { owner: string; why: string } | null): StoreReading {
	const [sheet] = sheetsOf(harvest);
	const none = {
		persons: [],
		personEntries: [],
		deletedPersons: [],
		threads: [],
		members: [],
		copies: [],
		attached: [],
		attachments: [],
		bins: [],
		properties: [],
		refused: new Set<Sheet>()
	};
	if (!sheet) return { sheets: [], messages: [], ...none };
	const column = (name: string): SheetColumn => sheet.columns.find((c) => c.name === name && !c.body)!;
	const sure = (name: string, why: string): { value: SheetColumn; confidence: number; evidence: string[]; key: null } => ({
		value: column(name),
		confidence: 1,
		evidence: [why],
		key: null
	});
	const mail = harvest.form === 'mail';
	const sender = sure(mail ? 'from' : 'writer', mail ? 'the address that wrote' : 'who stands before the text');
	// Where only the one wrote whom the file is called after, all came from there.
	const [only, more] = [...sender.value.profile.distinct.keys()];
	const titles = [...column(mail ? 'between' : 'conversation').profile.distinct.keys()];
	const isOfOther =
		!mail && !owner && only !== undefined && more === undefined && titles.every((t) => isCalledAfter(String(t), String(only)));
	const rule: DirectionRule =
		owner || isOfOther ? { kind: 'sender', column: sender.value, owner: owner ? [owner.owner] : [] } : { kind: 'unknown' };
	const dates = harvest.dates[0];
	const m: MessageReading = {
		...blankReading(sheet, { value: column('text'), confidence: 1, evidence: ['what stands behind the writer'] }, null),
		time: {
			value: column('sent'),
			confidence: 1,
			evidence: [dates ? `dates are read ${dates.order.split('').join('-')}: ${dates.why}` : 'the date of the mail'],
			reading: written(harvest.zoned),
			...(dates?.runnerUp ? { runnerUp: dates.runnerUp.split('').join('-') } : {})
		},
		direction: {
			value: rule,
			confidence: owner ? 0.9 : isOfOther ? 0.7 : 0,
			evidence: [
				owner
					? `${owner.owner} is the owner: ${owner.why}`
					: isOfOther
						? 'the file is called after the only one who wrote'
						: 'nothing says which of the writers is the owner'
			]
		},
		sender,
		thread: sure(mail ? 'between' : 'conversation', mail ? 'who wrote to whom' : 'the file is one conversation'),
		threadTitled: !mail
	};
	// So it is known of what nobody answered as well whom it was sent to.
	if (!mail && owner && isWithWriters(sheet, column('writer'), column('conversation'), owner.owner))
		m.peer = sure('conversation', 'it is called as those are who wrote to the owner');
	if (mail) {
		m.recipient = sure('to', 'to whom it was sent');
		m.guid = column('id');
		m.replyTo = { column: column('answers'), key: column('id') };
	}
	const file = column(mail ? 'files' : 'file');
	m.files = { path: null, name: file, mime: null, size: null, hash: null };
	return {
		sheets: [{ sheet, role: { value: 'messages', confidence: 1, evidence: ['an exported conversation'] } }],
		messages: [m],
		...none,
		persons: mail
			? [
					{ sheet, names: [column('from name')], addresses: [column('from')], via: null },
					{ sheet: toOne(sheet, column('to name')), names: [column('to name')], addresses: [column('to')], via: null }
				]
			: namedBeside(sheet, column('called'), column('writer'), column('conversation'), owner?.owner ?? null)
	};
}

/** Whether the conversations are called as those who write in them, the owner aside. */
function isWithWriters(sheet: Sheet, writer: SheetColumn, other: SheetColumn, owner: string): boolean {
	const received = sheet.rows.filter((row) => row.values[writer.column] !== owner);
	return received.length > 0 && received.every((row) => row.values[writer.column] === row.values[other.column]);
}

/** The names of those whose addresses stand beside them: of whom the conversation is with, and in a group of who wrote. */
function namedBeside(sheet: Sheet, called: SheetColumn, writer: SheetColumn, other: SheetColumn, owner: string | null): PersonReading[] {
	const rows = sheet.rows.filter((row) => typeof row.values[called.column] === 'string' && row.values[called.column] !== '');
	const received = rows.filter((row) => row.values[writer.column] !== owner);
	const isWith = received.some((row) => row.values[writer.column] === row.values[other.column]);
	// What stands beside the owner's own in a group is the group's name.
	const own = isWith ? rows : received;
	return own.length > 0
		? [{ sheet: { ...sheet, rows: own, sure: own }, names: [called], addresses: [isWith ? other : writer], via: null }]
		: [];
}

/** The mails to one alone that say what he is called: some are written to and never write. */
function toOne(sheet: Sheet, name: SheetColumn): Sheet {
	const one = (row: Row): boolean => {
		const called = row.values[name.column];
		return typeof called === 'string' && called !== '' && !called.includes(', ');
	};
	return { ...sheet, rows: sheet.rows.filter(one), sure: sheet.sure.filter(one) };
}
