/** What follows from the loss of the open case: verdicts, clocks, counts and the judgement, kept in step with it. */
import {
	clocksOf,
	countPlaces,
	isStated,
	isWith,
	kindsWith,
	parseVagueDate,
	rankPlaces,
	readLoss,
	sayJudgement,
	type Asked,
	type Counted,
	type Loss,
	type Numbered,
	type Place
} from '$core/prospects';
import { isUnder } from '$core/paths';
import { detailOf, messageChunk, type CaseRecord, type ThreadRecord } from '$store';
import { theCase } from './case.svelte';
import { bare, hasWords } from './words';

class Prospects {
	private numbers = $state.raw<Numbered[]>([]);
	private counts = $state.raw({ inUse: 0, back: 0, withWords: 0 });
	private generation = 0;
	/** Case and state the numbers belong to. */
	private for = '';

	readonly loss = $derived<Loss | null>(theCase.record?.loss ?? null);
	readonly read = $derived(theCase.record ? readLoss(theCase.record.loss, theCase.today, theCase.record.zone) : null);
	readonly kinds = $derived(kindsWith(theCase.record?.ownKinds ?? []));
	/** Threads the loss is about; all of them where it names nobody. */
	readonly threads = $derived(
		this.loss && this.loss.partners.length > 0 ? theCase.threads.filter((t) => isWith(t, this.loss!.partners)) : theCase.threads
	);
	/** Whether anything was asked for by name; then the threads asked for come first. */
	readonly named = $derived((this.loss?.partners.length ?? 0) > 0);
	readonly stated = $derived(this.loss !== null && isStated(this.loss));
	/** Threads in reading order: those asked for before the others. */
	readonly order = $derived<ThreadRecord[]>(
		this.named ? [...this.threads, ...theCase.threads.filter((t) => !this.threads.includes(t))] : theCase.threads
	);
	readonly counted = $derived.by((): Map<string, Counted> => {
		const record = theCase.record;
		if (!record || !this.read || this.numbers.length === 0) return new Map();
		const lostSince = this.read.spans.lost.from;
		return countPlaces(
			record.places.map((p) => ({ ...p, takenAt: this.takenAt(p, record), lostSince })),
			this.numbers
		);
	});
	readonly ranked = $derived.by(() => {
		const record = theCase.record;
		if (!record || !this.read) return [];
		return rankPlaces(record.places, this.kinds, {
			spans: this.read.spans,
			today: theCase.today,
			zone: record.zone,
			counted: this.counted,
			order: record.placeOrder
		});
	});
	readonly clocks = $derived(clocksOf(this.ranked, theCase.today));
	/** Record numbers and lost messages of that stretch: how many were found, and how many are open. */
	readonly total = $derived({
		missing: this.numbers.length,
		found: this.numbers.filter((n) => n.foundIn.length > 0).length
	});
	readonly asked = $derived.by((): Asked => {
		const open = this.numbers.filter((n) => n.foundIn.length === 0).length;
		const looked = (theCase.record?.files.length ?? 0) > 0 && theCase.record?.reached !== null;
		return {
			...this.counts,
			missing: looked && this.numbered() ? open : null,
			threadFound: (this.loss?.partners.length ?? 0) === 0 || this.threads.length > 0,
			partners: this.loss?.partners ?? [],
			words: this.loss?.words ?? [],
			looked
		};
	});
	readonly judgement = $derived(sayJudgement(this.asked, this.ranked));

	private numbered(): boolean {
		return theCase.threads.length > 0;
	}

	private takenAt(place: Place, record: CaseRecord): number | null {
		const parsed = parseVagueDate(place.taken, theCase.today, record.zone);
		return parsed.ok && place.taken.trim() !== '' ? parsed.span.to : null;
	}

	/** Counts the messages and record numbers of the stretch asked for. Called when the findings or the loss change. */
	async recount(): Promise<void> {
		const record = theCase.record;
		const spans = this.read?.spans;
		if (!record || !spans) return;
		const key = JSON.stringify([record.id, record.loss, record.seconds, record.reached, record.files.length, theCase.threads.length]);
		if (key === this.for) return;
		const mine = ++this.generation;
		const from = spans.sent.from ?? -Infinity;
		const to = spans.sent.to ?? Infinity;
		const words = record.loss.words.map(bare).filter(Boolean);
		const numbers: Numbered[] = [];
		const counts = { inUse: 0, back: 0, withWords: 0 };
		for (const thread of this.threads) {
			for (let n = 0; n < thread.chunks; n++) {
				const chunk = await messageChunk(record.id, thread.id, n);
				const wanted = chunk.filter((m) => !m.earlierWordingOf && m.sentAt !== null && m.sentAt >= from && m.sentAt <= to);
				const lost = wanted.filter((m) => m.standing !== 'kept');
				counts.inUse += wanted.length - lost.length;
				if (lost.length === 0) continue;
				const details = new Map((await detailOf(record.id, thread.id, n)).map((d) => [d.id, d]));
				if (mine !== this.generation) return;
				for (const m of lost) {
					counts.back++;
					if (words.some((w) => hasWords(m, w))) counts.withWords++;
					const seen = new Set((details.get(m.id)?.sightings ?? []).flatMap((s) => [baseOf(s.path), baseOf(s.source)]));
					numbers.push({ after: m.sentAt, before: m.sentAt, foundIn: [...seen] });
				}
			}
		}
		const ids = new Set(this.threads.map((t) => t.id));
		for (const gap of record.gaps) {
			if (!gap.threads.some((t) => ids.has(t))) continue;
			if ((gap.before ?? Infinity) < from || (gap.after ?? -Infinity) > to) continue;
			for (let i = 0; i < Math.min(gap.count, 5000); i++) numbers.push({ after: gap.after, before: gap.before, foundIn: [] });
		}
		if (mine !== this.generation) return;
		this.for = key;
		this.numbers = numbers;
		this.counts = counts;
		await this.markLooked(record);
	}

	/** A look marks the places that are its sources: found, or nothing there. */
	private async markLooked(record: CaseRecord): Promise<void> {
		if (record.state === 'looking' || record.reached === null) return;
		// Only what the look has been at: a file just added is still to come.
		const { lookedAt, locked } = record;
		const isLooked = (source: string): boolean =>
			lookedAt.some((path) => isUnder(path, source) || isUnder(source, path)) && !locked.some((path) => isUnder(path, source));
		const changed = new Map<string, Place['tried']>();
		const isLeftOut = (source: string): boolean =>
			record.sources.some(
				(s) => s.path === source && s.stores.length > 0 && s.stores.every((store) => record.choice.leftOut.includes(store))
			);
		for (const place of record.places) {
			if (place.source === null || !isLooked(place.source) || isLeftOut(place.source) || (place.tried && !place.tried.byLook)) continue;
			const name = baseOf(place.source);
			const found = this.numbers.some((n) => n.foundIn.some((f) => isUnder(f, name)));
			const result = found ? 'found' : 'nothing';
			if (place.tried?.result !== result) changed.set(place.id, { at: theCase.today, result, note: '', byLook: true });
		}
		if (changed.size === 0) return;
		await theCase.change((c) => {
			for (const p of c.places) if (changed.has(p.id) && (!p.tried || p.tried.byLook)) p.tried = changed.get(p.id)!;
		});
	}
}

/** The database's own name: what is found in its log or journal is found there too. */
const baseOf = (path: string): string => path.replace(/-(wal|journal)$/, '');

export const theProspects = new Prospects();
