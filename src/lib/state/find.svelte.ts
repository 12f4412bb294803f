/** Find: words in messages, names, numbers however written. Reads the case's messages chunk by chunk and gives way between. */
import { messageChunk } from '$store';
import { theCase } from './case.svelte';
import { bare, hasWords } from './words';

const WAIT_MS = 180;

const digits = (text: string): string => text.replace(/\D/g, '');

class FindState {
	query = $state('');
	/** Thread id → ids of its messages that have the words; null while nothing is looked for. */
	hits = $state.raw<Map<string, Set<string>> | null>(null);
	looking = $state(false);
	private generation = 0;

	/** What was found, once the looking for it has ended. */
	async settled(): Promise<Map<string, Set<string>> | null> {
		await new Promise((resolve) => setTimeout(resolve, WAIT_MS + 20));
		while (this.looking) await new Promise((resolve) => setTimeout(resolve, 40));
		return this.hits;
	}

	/** Called when the query changes. */
	async run(): Promise<void> {
		const mine = ++this.generation;
		const words = bare(this.query);
		if (words.length === 0) {
			this.hits = null;
			this.looking = false;
			return;
		}
		await new Promise((resolve) => setTimeout(resolve, WAIT_MS));
		if (mine !== this.generation || !theCase.record) return;
		this.looking = true;
		const caseId = theCase.record.id;
		const number = digits(words).length >= 4 && /^[+\d\s().\-/]+$/.test(words) ? digits(words).replace(/^0+/, '') : null;
		const hits = new Map<string, Set<string>>();
		for (const thread of theCase.threads) {
			const named = [thread.title, thread.address, ...thread.members.flatMap((m) => [m.name, m.address])].some(
				(n) => n && (bare(n).includes(words) || (number && digits(n).includes(number)))
			);
			const found = new Set<string>();
			for (let n = 0; n < thread.chunks; n++) {
				for (const m of await messageChunk(caseId, thread.id, n)) if (hasWords(m, words)) found.add(m.id);
				if (mine !== this.generation) return;
			}
			if (named || found.size > 0) hits.set(thread.id, found);
			this.hits = new Map(hits);
		}
		this.hits = hits;
		this.looking = false;
	}
}

export const theFind = new FindState();
