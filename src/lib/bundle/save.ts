/** The bundle as one zip: the files, a page that says what they are, and their sums. */
import { wrap } from 'comlink';
import { strToU8 } from 'fflate';
import type { ZipWorker } from '$workers/protocol';
import { recordCsv, SUMS_NAME, sumsFile, type BundleRecord } from '$core/bundle';

export interface BundleFile {
	name: string;
	bytes: Uint8Array<ArrayBuffer>;
	note: string;
}

async function sha256(bytes: Uint8Array<ArrayBuffer>): Promise<string> {
	const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', bytes));
	return Array.from(digest, (b) => b.toString(16).padStart(2, '0')).join('');
}

const text = (t: string): Uint8Array<ArrayBuffer> => new Uint8Array(strToU8(t));

function about(record: BundleRecord): string {
	return [
		`${record.caseName}`,
		'',
		'record.pdf    the picked messages as pages, with the places where each was found, the method and its limits',
		'messages.csv  the same messages as a table (UTF-8, RFC 4180); an apostrophe stands before cells that a spreadsheet would run',
		`${SUMS_NAME}    SHA-256 of each file here; check with: sha256sum -c ${SUMS_NAME}`,
		'',
		'Sources',
		...record.sources.map((s) => `${s.sha256 || 'not computed'}  ${s.path} (${s.size} bytes)`),
		''
	].join('\n');
}

/** The files of the bundle, sums last. */
export async function bundleFiles(
	record: BundleRecord,
	pdf: Uint8Array<ArrayBuffer> | null,
	pages: number,
	csv: boolean
): Promise<BundleFile[]> {
	const files: BundleFile[] = [];
	const rows = record.threads.reduce((n, t) => n + t.messages.length, 0);
	if (pdf) files.push({ name: 'record.pdf', bytes: pdf, note: `${pages} ${pages === 1 ? 'page' : 'pages'}` });
	if (csv) files.push({ name: 'messages.csv', bytes: text(recordCsv(record)), note: `${rows} ${rows === 1 ? 'row' : 'rows'}` });
	files.push({ name: 'about.txt', bytes: text(about(record)), note: 'what is in it' });
	const sums = await Promise.all(files.map(async (f) => ({ name: f.name, sha256: await sha256(f.bytes) })));
	files.push({ name: SUMS_NAME, bytes: text(sumsFile(sums)), note: `${sums.length} sums` });
	return files;
}

/** Packs the files, off the page's thread. */
export async function zipOf(files: readonly BundleFile[], folder: string): Promise<Uint8Array<ArrayBuffer>> {
	const worker = new Worker(new URL('../../workers/zip.worker.ts', import.meta.url), { type: 'module' });
	try {
		return await wrap<ZipWorker>(worker).zip(files.map(({ name, bytes }) => ({ name: `${folder}/${name}`, bytes })));
	} finally {
		worker.terminate();
	}
}

/** A file name that no system stumbles over. */
export const fileName = (name: string): string =>
	name
		.normalize('NFKD')
		.replace(/[^\p{L}\p{N}]+/gu, '-')
		.replace(/^-+|-+$/g, '')
		.slice(0, 60)
		.toLowerCase() || 'bundle';

export function saveAs(bytes: Uint8Array<ArrayBuffer>, name: string): void {
	const url = URL.createObjectURL(new Blob([bytes], { type: 'application/zip' }));
	const link = document.createElement('a');
	link.href = url;
	link.download = name;
	link.click();
	setTimeout(() => URL.revokeObjectURL(url), 60_000);
}
