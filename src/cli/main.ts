/** The command line over the same core: NDJSON on standard output, words for people on standard error. See docs/cli.md. */
import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { REACHES, type Note, type Reach } from '../core/model';
import { describeNote } from '../core/wording';
import { Look } from '../core/look';
import { wallTimeToUtc } from '../core/walltime';
import { unwrap, type Unwrapped } from '../core/unwrap';
import { loadSolid } from '../workers/solid';
import { contactLines } from './contacts';
import { openPaths, UnreadablePath, vanished } from './files';
import { makeScratch } from './scratch';
import { gapLine, messageLine } from './lines';
import { surveyLines } from './survey';
import { treeLines } from './tree';

const COMMANDS = ['messages', 'gaps', 'tree', 'survey', 'contacts'] as const;
type Command = (typeof COMMANDS)[number];

const USAGE = `Usage: npm run --silent ombudsman -- COMMAND [options] PATH…

Commands
  messages   a line for each message, and for each earlier wording of an edited one
  gaps       a line for each run of record numbers that existed and were seen nowhere
  tree       a line for each file inside: of folders, archives and backups
  survey     a line for each store: what it holds, before any look
  contacts   a line for each person of the stores and of the address books

Options
  --reach used|logs|freed|raw   how far to look (default raw, everything)
  --zone NAME                   IANA time zone for sources that state none
  --owner NUMBER-OR-NAME        whose device it is, where the source does not tell
  --passphrase-file F           passphrases for locked containers, one a line
  --find TEXT                   tree: only paths that contain it
  --fast                        tree: without SHA-256
`;

class WrongUsage extends Error {
	override readonly name = 'WrongUsage';
}

interface Asked {
	command: Command;
	paths: string[];
	reach: Reach;
	zone: string | null;
	owner: string | null;
	passphrases: string[];
	find: string | null;
	fast: boolean;
}

function asked(argv: string[]): Asked | null {
	let parsed;
	try {
		parsed = parseArgs({
			args: argv,
			allowPositionals: true,
			options: {
				reach: { type: 'string', default: 'raw' },
				zone: { type: 'string' },
				owner: { type: 'string' },
				'passphrase-file': { type: 'string' },
				'code-file': { type: 'string' },
				find: { type: 'string' },
				fast: { type: 'boolean', default: false },
				help: { type: 'boolean', default: false }
			}
		});
	} catch (error) {
		throw new WrongUsage((error as Error).message);
	}
	const { values } = parsed;
	if (values.help) return null;
	const [command, ...paths] = parsed.positionals;
	if (!COMMANDS.includes(command as Command)) throw new WrongUsage(command ? `There is no command "${command}".` : 'No command was given.');
	if (paths.length === 0) throw new WrongUsage('No PATH was given.');
	if (!REACHES.includes(values.reach as Reach)) throw new WrongUsage(`--reach takes one of ${REACHES.join(', ')}.`);
	checkZone(values.zone);
	return {
		command: command as Command,
		paths,
		reach: values.reach as Reach,
		zone: values.zone ?? null,
		owner: values.owner ?? null,
		passphrases: values['passphrase-file'] ? passphrasesIn(values['passphrase-file']) : [],
		find: values.find ?? null,
		fast: values.fast
	};
}

function checkZone(zone: string | undefined): void {
	if (zone === undefined) return;
	try {
		wallTimeToUtc(0, zone);
	} catch (error) {
		throw new WrongUsage((error as Error).message);
	}
}

function passphrasesIn(path: string): string[] {
	try {
		return readFileSync(path, 'utf8')
			.split(/\r?\n/)
			.filter((line) => line !== '' && !line.startsWith('# '));
	} catch {
		throw new UnreadablePath(`${path}: the file of passphrases cannot be read. Check its path and permissions.`);
	}
}

/** Lines out in blocks. */
function write(lines: Iterable<object>): void {
	let block: string[] = [];
	for (const line of lines) {
		block.push(JSON.stringify(line));
		if (block.length < 500) continue;
		process.stdout.write(`${block.join('\n')}\n`);
		block = [];
	}
	if (block.length > 0) process.stdout.write(`${block.join('\n')}\n`);
}

const few = (paths: readonly string[]): string =>
	`${paths.slice(0, 3).join(', ')}${paths.length > 3 ? ` and ${paths.length - 3} more` : ''}`;

function say(notes: readonly Note[]): void {
	for (const note of notes.filter((n) => n.severity === 'warning').slice(0, 5)) process.stderr.write(`${describeNote(note)}\n`);
}

async function main(argv: string[]): Promise<number> {
	const a = asked(argv);
	if (!a) {
		process.stderr.write(USAGE);
		return 0;
	}
	const unreadable: string[] = [];
	const given = openPaths(a.paths, unreadable);
	if (unreadable.length > 0) process.stderr.write(`Passed over, not readable: ${few(unreadable)}.\n`);
	const unwrapped = await unwrap(given, a.passphrases, () => loadSolid(), makeScratch);
	if (a.command === 'tree') {
		write(await treeLines(unwrapped, a.paths, a.find, a.fast));
		say(unwrapped.notes);
		return 0;
	}
	const look = new Look(unwrapped.files, {
		reach: a.reach,
		owner: a.owner,
		zone: a.zone,
		takenAt: unwrapped.takenAt,
		devices: unwrapped.devices
	});
	if (look.groups.length === 0 && a.command !== 'contacts') return nothingToRead(look, unwrapped, given.length);
	if (a.command === 'survey') {
		write(surveyLines(look, unwrapped));
		say([...unwrapped.notes, ...look.allNotes()]);
		return 0;
	}
	for (const event of look.run()) void event;
	const { stores, weave } = look.findings();
	if (a.command === 'gaps') write(weave.gaps.map(gapLine));
	else if (a.command === 'contacts') write(contactLines(look));
	else
		write(
			(function* () {
				for (const thread of weave.threads)
					for (const m of thread.messages) yield messageLine(m, stores, weave, look.files, look.media, a.zone);
			})()
		);
	say([...unwrapped.notes, ...look.allNotes(), ...(a.command === 'messages' ? look.notesOfOthers() : [])]);
	if (vanished.size > 0) process.stderr.write(`Could not be read to the end, gone or changed meanwhile: ${few([...vanished])}.\n`);
	return 0;
}

/** No store: 1 where what was given could not be read at all, with one line that says why. */
function nothingToRead(look: Look, unwrapped: Unwrapped, given: number): number {
	const notes = [...unwrapped.notes, ...look.notes];
	const [note] = notes;
	process.stderr.write(`${note ? describeNote(note) : 'No message store was found in what was given.'}\n`);
	return given === 1 && note && unwrapped.files.filter((f) => !f.opened).length <= 1 ? 1 : 0;
}

process.stdout.on('error', (error: NodeJS.ErrnoException) => {
	// The reader closed the pipe: nothing more is wanted.
	if (error.code === 'EPIPE') process.exit(0);
	throw error;
});

try {
	process.exitCode = await main(process.argv.slice(2));
} catch (error) {
	if (error instanceof WrongUsage) {
		process.stderr.write(`${error.message}\n\n${USAGE}`);
		process.exitCode = 2;
	} else if (error instanceof UnreadablePath) {
		process.stderr.write(`${error.message}\n`);
		process.exitCode = 1;
	} else throw error;
}
