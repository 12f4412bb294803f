/** Files from a drop or a picker, folders opened. Bounded in number and depth. */
import type { Given } from './look.svelte';

export const MOST_FILES = 200_000;

/** What was given; `isCut`: whether there was more, which was not taken. */
export interface Taken {
	given: Given[];
	isCut: boolean;
}

export const fromInput = (list: FileList): Taken => ({
	given: [...list].slice(0, MOST_FILES).map((file) => ({ file, path: file.webkitRelativePath || file.name })),
	isCut: list.length > MOST_FILES
});

export async function fromDrop(transfer: DataTransfer): Promise<Taken> {
	const entries = [...transfer.items].map((item) => item.webkitGetAsEntry()).filter((e) => e !== null);
	if (entries.length === 0) return fromInput(transfer.files);
	const out: Given[] = [];
	for (const entry of entries) await walk(entry, '', out, 0);
	return { given: out.slice(0, MOST_FILES), isCut: out.length > MOST_FILES };
}

async function walk(entry: FileSystemEntry, folder: string, out: Given[], depth: number): Promise<void> {
	if (out.length > MOST_FILES || depth > 40) return;
	if (entry.isFile) {
		const file = await new Promise<File | null>((resolve) => (entry as FileSystemFileEntry).file(resolve, () => resolve(null)));
		if (file) out.push({ file, path: folder + file.name });
		return;
	}
	const reader = (entry as FileSystemDirectoryEntry).createReader();
	for (;;) {
		const batch = await new Promise<FileSystemEntry[]>((resolve) => reader.readEntries(resolve, () => resolve([])));
		if (batch.length === 0) break;
		for (const inner of batch) await walk(inner, `${folder}${entry.name}/`, out, depth + 1);
	}
}
