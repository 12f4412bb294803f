/** The command line over the same core: NDJSON on standard output, words for people on standard error. See docs/cli.md. */
import { parseArgs } from 'node:util';
import { REACHES, type Reach } from '../core/model';
import { describeNote } from '../core/wording';
import { Look } from '../core/look';
import { openPaths, UnreadablePath } from './files';
import { gapLine, messageLine } from './lines';
import { wallTimeToUtc } from './zone';

const USAGE = `Usage: npm run --silent ombudsman -- COMMAND [options] PATH…

Commands
  messages   a line for each message, and for each earlier wording of an edited one
  gaps       a line for each run of record numbers that existed and were seen nowhere

Options
  --reach used|logs|freed|raw   how far to look (default raw, everything)
  --zone NAME                   IANA time zone for sources that state none
  --owner NUMBER-OR-NAME        whose device it is, where the source does not tell
`;

class WrongUsage extends Error {
	override readonly name = 'WrongUsage';
}

function main(argv: string[]): number {
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
				help: { type: 'boolean', default: false }
			}
		});
	} catch (error) {
		throw new WrongUsage((error as Error).message);
	}
	if (parsed.values.help) {
		process.stderr.write(USAGE);
		return 0;
	}
	const [command, ...paths] = parsed.positionals;
	if (command !== 'messages' && command !== 'gaps')
		throw new WrongUsage(command ? `There is no command "${command}".` : 'No command was given.');
	if (paths.length === 0) throw new WrongUsage('No PATH was given.');
	const reach = parsed.values.reach as Reach;
	if (!REACHES.includes(reach)) throw new WrongUsage(`--reach takes one of ${REACHES.join(', ')}.`);
	const zone = parsed.values.zone ?? null;
	if (zone !== null) wallTimeToUtc(0, zone);
	const look = new Look(openPaths(paths), { reach, owner: parsed.values.owner ?? null });
	if (look.groups.length === 0) {
		const [note] = look.notes;
		process.stderr.write(`${note ? describeNote(note) : 'There is no file to read.'}\n`);
		return look.notes.length > 0 ? 1 : 0;
	}
	for (const event of look.run()) void event;
	const { stores, weave } = look.findings();
	const out: string[] = [];
	const flush = (least: number): void => {
		if (out.length >= least && out.length > 0) process.stdout.write(out.splice(0).join('\n') + '\n');
	};
	if (command === 'gaps') for (const gap of weave.gaps) out.push(JSON.stringify(gapLine(gap)));
	else
		for (const thread of weave.threads)
			for (const message of thread.messages) {
				out.push(JSON.stringify(messageLine(message, stores, weave, look.files, zone)));
				flush(500);
			}
	flush(1);
	for (const note of look
		.allNotes()
		.filter((n) => n.severity === 'warning')
		.slice(0, 5))
		process.stderr.write(`${describeNote(note)}\n`);
	return 0;
}

process.stdout.on('error', (error: NodeJS.ErrnoException) => {
	// The reader closed the pipe: nothing more is wanted.
	if (error.code === 'EPIPE') process.exit(0);
	throw error;
});

try {
	process.exitCode = main(process.argv.slice(2));
} catch (error) {
	if (error instanceof WrongUsage || error instanceof RangeError) {
		process.stderr.write(`${error.message}\n\n${USAGE}`);
		process.exitCode = 2;
	} else if (error instanceof UnreadablePath) {
		process.stderr.write(`${error.message}\n`);
		process.exitCode = 1;
	} else throw error;
}
