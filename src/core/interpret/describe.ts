/** A store's reading as plain data for the screen: each table and column with its role, why, samples and the runner-up. */
import { z } from 'zod';
import type { Table, Value } from '../model';
import type { ColumnRole } from './correction';
import { filesOfMessages, type FileColumns } from './files';
import type { Guess, MessageReading, StoreReading, TimeColumn } from './reading';
import { cell, type Sheet, type SheetColumn } from './sheet';

export const readingColumnSchema = z.object({
	name: z.string(),
	type: z.string(),
	role: z.string(),
	/** Role in words the screen can show beside it; '' where it has none. */
	why: z.array(z.string()),
	confidence: z.number(),
	runnerUp: z.string().nullable(),
	/** For a time: epoch and unit. */
	time: z.string().nullable(),
	/** For the direction and the deletion mark: values that mean sent, or deleted. */
	values: z.array(z.union([z.string(), z.number()])),
	/** The distinct values where they are few. */
	distinct: z.array(z.union([z.string(), z.number()])),
	filled: z.number(),
	samples: z.array(z.string())
});

export const readingTableSchema = z.object({
	name: z.string(),
	tables: z.array(z.string()),
	declared: z.array(z.string()),
	role: z.string(),
	why: z.array(z.string()),
	confidence: z.number(),
	rows: z.number(),
	lost: z.number(),
	columns: z.array(readingColumnSchema)
});

export const storeReadingSchema = z.object({ store: z.string(), tables: z.array(readingTableSchema) });
export type PlainReading = z.infer<typeof storeReadingSchema>;
export type PlainTable = z.infer<typeof readingTableSchema>;
export type PlainColumn = z.infer<typeof readingColumnSchema>;

const SAMPLES = 4;
const SAMPLE_LENGTH = 60;
const FEW_VALUES = 12;
const MOST_TABLES = 400;

export function describeReading(store: string, reading: StoreReading, tables: readonly Table[]): PlainReading {
	return {
		store,
		tables: reading.sheets.slice(0, MOST_TABLES).map(({ sheet, role }) => ({
			name: sheet.name,
			tables: sheet.tables.slice(0, 50).map((t) => tables[t]!.name),
			declared: tables[sheet.tables[0]!]!.columns.map((c) => c.name),
			role: role.value,
			why: sheet.file === undefined ? role.evidence : [...role.evidence, `it stands beside, in ${sheet.file}`],
			confidence: role.confidence,
			rows: sheet.rows.filter((r) => r.standing === 'kept').length,
			lost: sheet.rows.filter((r) => r.standing !== 'kept').length,
			columns: describeColumns(sheet, reading, tables)
		}))
	};
}

function describeColumns(sheet: Sheet, reading: StoreReading, tables: readonly Table[]): PlainColumn[] {
	const m = reading.messages.find((x) => x.sheet === sheet);
	const files = m ? filesOfMessages(m, tables) : null;
	return shownColumns(sheet).map((c) => describeColumn(c, sheet, reading, tables, files));
}

/** Each declared column once, as it is read; what is found inside JSON beside it. */
const shownColumns = (sheet: Sheet): SheetColumn[] =>
	sheet.columns.filter((c) => !sheet.columns.some((other) => other !== c && other.name === c.name && other.body)).slice(0, 200);

/** `files`: what its messages' own columns say of files. */
function describeColumn(
	column: SheetColumn,
	sheet: Sheet,
	reading: StoreReading,
	tables: readonly Table[],
	files: FileColumns | null
): PlainColumn {
	const p = column.profile;
	const given = roleOf(column, sheet, reading, files);
	const isNumber = column.column >= 0 && column.column === tables[sheet.tables[0]!]!.rowidColumn;
	const declared = column.column >= 0 ? tables[sheet.tables[0]!]!.columns[column.column]! : null;
	return {
		name: column.name,
		type: declared?.type ?? '',
		role: given.role,
		why: [...given.why, ...(isNumber ? ['the record number'] : []), ...(column.body ? [`its bytes are read as ${column.body.kind}`] : [])],
		confidence: given.confidence,
		runnerUp: given.runnerUp,
		time: given.time ?? p.time?.label ?? null,
		values: given.values,
		distinct: !p.many && p.distinct.size <= FEW_VALUES ? [...p.distinct.keys()] : [],
		filled: sheet.sure.length === 0 ? 0 : Math.min(1, p.filled / sheet.sure.length),
		samples: samplesOf(column, sheet, tables)
	};
}

function samplesOf(column: SheetColumn, sheet: Sheet, tables: readonly Table[]): string[] {
	const out: string[] = [];
	const step = Math.max(1, Math.floor(sheet.rows.length / 50));
	for (let i = 0; i < sheet.rows.length && out.length < SAMPLES; i += step) {
		const shown = show(cell(sheet.rows[i]!, column, tables));
		if (shown !== null && !out.includes(shown)) out.push(shown);
	}
	return out;
}

function show(value: Value | undefined): string | null {
	if (value === null || value === undefined || value === '') return null;
	const text = typeof value === 'object' ? `${value.length} bytes` : String(value);
	return text.length > SAMPLE_LENGTH ? `${text.slice(0, SAMPLE_LENGTH)} …` : text;
}

interface Given {
	role: ColumnRole | string;
	why: string[];
	confidence: number;
	runnerUp: string | null;
	time: string | null;
	values: (string | number)[];
}

const NOTHING: Given = { role: 'none', why: [], confidence: 0, runnerUp: null, time: null, values: [] };

function roleOf(column: SheetColumn, sheet: Sheet, reading: StoreReading, own: FileColumns | null): Given {
	const m = reading.messages.find((x) => x.sheet === sheet);
	const given = m ? roleInMessages(column, m, own) : NOTHING;
	if (given !== NOTHING) return given;
	const other = (role: string): Given => ({ ...NOTHING, role, confidence: 0.6 });
	// Messages can give the names of those whose addresses they have.
	if (reading.persons.some((p) => p.sheet.index === sheet.index && p.names.includes(column))) return other('name');
	const person = reading.persons.find((p) => p.sheet === sheet);
	if (person?.addresses.includes(column) || person?.lists?.includes(column) || person?.cards === column) return other('address');
	const flag = reading.deletedPersons.find((d) => d.column === column);
	if (flag)
		return {
			...other('deleted'),
			why: ['its name says deletion: the store keeps these persons and shows them no more'],
			values: flag.values
		};
	const files = reading.attachments.find((a) => a.sheet === sheet);
	const ofFile = files && roleOfFile(column, files.columns);
	if (ofFile) return ofFile;
	const beside = besides(sheet, reading).find(([c]) => c === column);
	if (beside) return { ...other(beside[1]), why: [beside[2]] };
	if (person?.via?.column === column) return { ...other('of person'), why: [`its values name rows of ${person.via.key.sheet.name}`] };
	const entries = reading.personEntries.find((e) => e.sheet === sheet);
	if (entries?.value === column) return other('address');
	const thread = reading.threads.find((t) => t.sheet === sheet);
	if (thread?.title === column) return { ...other('title'), why: ['its values read as names, one for each conversation'] };
	if (thread?.list?.column === column) return { ...other('members'), why: ['its values list who takes part'] };
	if (thread?.peer?.column === column) return { ...other('other side'), why: ['its values name the one whom each conversation is with'] };
	return NOTHING;
}

/** A column, what it says, and why. */
type Told = [column: SheetColumn | null | undefined, role: string, why: string];

/** Columns of a table beside the messages that say something of them. */
function besides(sheet: Sheet, reading: StoreReading): Told[] {
	const of = <T extends { sheet: Sheet }>(all: readonly T[]): T[] => all.filter((one) => one.sheet === sheet);
	const message = (c: SheetColumn | null): Told => [c, 'of message', 'its values name messages'];
	const when = (time: TimeColumn | null): Told => [time?.value, 'when', 'its values are times'];
	const text = (c: SheetColumn): Told => [c, 'wording', 'its values are texts of messages'];
	const sign = (c: SheetColumn | null): Told => [c, 'reactions', 'its values say what was done'];
	const doer = (c: SheetColumn | undefined): Told => [c, 'of person', 'its values name who did it'];
	const member = (c: SheetColumn): Told => [c, 'members', 'its values name who takes part'];
	const thread = (c: SheetColumn, list: Sheet): Told => [
		c,
		'of thread',
		list === sheet ? 'its values name conversations as messages do' : `its values name rows of ${list.name}`
	];
	return [
		...of(reading.attachments).flatMap((a) => (a.link.kind === 'direct' ? [message(a.link.key)] : [])),
		...of(reading.copies).flatMap((c) => [text(c.text), message(c.key), when(c.time)]),
		...of(reading.bins).flatMap((b) => [message(b.key), when(b.time)]),
		...of(reading.attached).flatMap((a) => [message(a.key), sign(a.what), doer(a.who?.value), when(a.time)]),
		...of(reading.properties).flatMap((p): Told[] => [
			message(p.key),
			[p.name, 'property', 'its values name what the rows say'],
			[p.value, 'property value', 'under one of the names it is what people read']
		]),
		...of(reading.members).flatMap((m) => [thread(m.thread, m.threadKey.sheet), member(m.person)]),
		...of(reading.messages.flatMap((m) => m.sizesTold ?? [])).flatMap((list): Told[] => [
			thread(list.room, sheet),
			[list.person, 'members', 'its values are keys of who takes part; no list says whose']
		])
	];
}

function roleInMessages(column: SheetColumn, m: MessageReading, files: FileColumns | null): Given {
	const from = (role: ColumnRole | string, guess: Guess<unknown>, more: Partial<Given> = {}): Given => ({
		...NOTHING,
		role,
		why: guess.evidence,
		confidence: guess.confidence,
		runnerUp: guess.runnerUp ?? null,
		...more
	});
	const rule = m.direction.value;
	if (m.text.value === column) return from('text', m.text);
	if (m.time?.value === column) return from('time', m.time, { time: m.time.reading.label });
	if (m.sender?.value === column) return from('writer', m.sender);
	if (m.recipient?.value === column) return from('recipient', m.recipient);
	if (m.peer?.value === column) return from('correspondent', m.peer);
	if (m.participant?.value === column) return from('writer', m.participant);
	if (m.thread?.value === column) return from('thread', m.thread);
	// Whom a row names as its writer, where another column has the other side.
	if (rule.kind === 'sender' && rule.column === column) return from('writer', m.direction);
	if ('column' in rule && rule.column === column) return from('direction', m.direction, { values: 'out' in rule ? rule.out : [] });
	if (m.deleted?.value.column === column) return from('deleted', m.deleted, { values: marksOf(m.deleted.value) });
	if (m.otherKinds?.value.column === column) return from('kind', m.otherKinds, { values: m.otherKinds.value.values });
	const inferred = (role: string, why: string): Given => ({ ...NOTHING, role, confidence: 0.6, why: [why] });
	if (m.wordings.some((list) => list.column === column)) return inferred('wordings', 'its lists hold texts the messages had before');
	if (m.listedReactions.some((list) => list.column === column)) return inferred('reactions', 'its lists hold signs, and who made them');
	if (m.reactions?.to === column) return inferred('reacts', 'rows that are a sign alone name a message in it');
	if (m.replyTo?.column === column) return inferred('answers', 'its values name other messages');
	return (files && roleOfFile(column, files)) ?? NOTHING;
}

/** What a column says of the files that rows state, or null where it says nothing. */
function roleOfFile(column: SheetColumn, files: FileColumns): Given | null {
	if (column.profile.filled === 0) return null;
	const says = (role: string, why: string): Given => ({ ...NOTHING, role, confidence: 0.6, why: [why] });
	if (files.path === column || files.name === column || files.key === column) return says('file', 'its values name files');
	if (files.content === column) return says('file', 'its bytes are files');
	if (files.mime === column) return says('file type', 'its values are types of media');
	if (files.size === column) return says('file size', 'its values go with the files');
	if (files.hash === column) return says('file digest', 'its values are as long as digests');
	if (files.width === column || files.height === column) return says('file measures', 'its values go with the pictures');
	return null;
}

/** Few marks of deletion by themselves; where any value is one, as of times, none is named. */
const marksOf = ({ column, values, isAny }: NonNullable<MessageReading['deleted']>['value']): (string | number)[] => {
	const { distinct } = column.profile;
	return isAny && distinct.size <= MARKS_NAMED ? [...distinct.keys()].filter((v) => v !== 0) : values;
};
const MARKS_NAMED = 8;
