<script lang="ts">
	import { VList } from 'virtua/svelte';
	import { NO_OWNER, theCase } from '$lib/state/case.svelte';
	import { theFind } from '$lib/state/find.svelte';
	import { ledgerItems, theLedger, type LedgerItem } from '$lib/state/ledger.svelte';
	import { longDay, offsetName } from '$lib/state/zone';
	import Compared from './Compared.svelte';
	import GapLine from './GapLine.svelte';
	import Names from './Names.svelte';
	import MessageLine from './MessageLine.svelte';

	const zone = $derived(theCase.record?.zone ?? 'UTC');
	const items = $derived(
		theLedger.thread
			? ledgerItems(theLedger.messages, theCase.record?.gaps ?? [], {
					thread: theLedger.thread.id,
					shown: theLedger.shown,
					span: theLedger.span,
					zone
				})
			: []
	);
	const hits = $derived(theLedger.thread ? (theFind.hits?.get(theLedger.thread.id) ?? null) : null);
	const gaps = $derived((theCase.record?.gaps ?? []).filter((g) => theLedger.thread && g.threads.includes(theLedger.thread.id)));
	const unaccounted = $derived(
		`${gaps.some((g) => g.threads.length > 1) ? 'up to ' : ''}${gaps.reduce((n, g) => n + g.count, 0)} unaccounted`
	);
	const back = $derived(theLedger.thread ? theLedger.thread.binned + theLedger.thread.dropped + theLedger.thread.remnant : 0);
	/** Captures of each store's family, by store. */
	const captures = $derived(
		new Map((theCase.record?.families ?? []).flatMap((f) => f.captures.map((c) => [c.store, f.captures.map((x) => x.name)] as const)))
	);
	const copies = $derived((theCase.record?.compared ?? []).filter((c) => c.thread === theLedger.thread?.id));
	const NONE: string[] = [];
	const columns = $derived(Math.max(0, ...theLedger.messages.slice(0, 400).map((m) => m.states?.length ?? 0)));
	let list = $state<VList<LedgerItem>>();

	/** Moves the focus by one message, or to the next one that is lost, and brings it into view. */
	export function move(step: 1 | -1, lostOnly: boolean): void {
		const at = items.findIndex((item) => item.kind === 'message' && item.message.id === theLedger.focus);
		for (let i = at < 0 ? (step > 0 ? 0 : items.length - 1) : at + step; i >= 0 && i < items.length; i += step) {
			const item = items[i]!;
			if (item.kind !== 'message' || (lostOnly && item.message.standing === 'kept' && item.earlier.length === 0)) continue;
			void focus(item.message.id);
			list?.scrollToIndex(i, { align: 'nearest' });
			return;
		}
	}

	/** Brings the message in focus into view, in the middle. */
	export function reveal(): void {
		const at = items.findIndex((item) => item.kind === 'message' && item.message.id === theLedger.focus);
		if (at >= 0) list?.scrollToIndex(at, { align: 'center' });
	}

	async function focus(id: string): Promise<void> {
		if (theCase.record) await theLedger.setFocus(theCase.record.id, id);
	}

	/** What is shown of which thread. A list that keeps its place while its lines change to others can be left showing none. */
	const view = $derived(`${theLedger.thread?.id ?? ''} ${theLedger.shown} ${theLedger.span?.join(' ') ?? ''}`);

	// What is newly shown has the message in focus in view; a span just chosen is read from its start.
	let revealed = '';
	$effect(() => {
		if (view !== revealed && !theLedger.loading && list && items.length > 0) {
			revealed = view;
			if (theLedger.span) return;
			// Heights are measured as lines come into view, so the place is looked for again once they are.
			const mine = view;
			const again = (): void => (mine === revealed ? reveal() : undefined);
			requestAnimationFrame(again);
			setTimeout(again, 120);
		}
	});
</script>

<section class="ledger" aria-label="Ledger">
	{#if theLedger.thread}
		{@const thread = theLedger.thread}
		<header>
			<h1><bdi>{thread.title}</bdi></h1>
			<Names {thread} />
			<span class="counts soft">{thread.count} {thread.count === 1 ? 'message' : 'messages'} · {back} brought back · {unaccounted}</span>
			{#if columns > 1}<span class="columns mono soft" title="Copies of the store, oldest first"
					>{#each { length: columns } as _, i (i)}<span>{i + 1}</span>{/each}</span
				>{/if}
			<div class="shown" role="group" aria-label="Which messages">
				<button type="button" class="chip" aria-pressed={theLedger.shown === 'all'} onclick={() => (theLedger.shown = 'all')}>All</button>
				<button type="button" class="chip" aria-pressed={theLedger.shown === 'lost'} onclick={() => (theLedger.shown = 'lost')}
					>Only lost</button
				>
			</div>
			{#if copies.length > 0}<Compared {copies} />{/if}
		</header>
		<div class="body" role="group" aria-busy={theLedger.loading} aria-label="Messages with {thread.title}, times in {zone}">
			{#if items.length === 0 && !theLedger.loading}
				<p class="none soft">
					{theLedger.shown === 'lost'
						? 'Nothing of this thread was lost in what is shown.'
						: 'No message lies in the span chosen on the ribbon.'}
				</p>
			{/if}
			{#key view}
				<VList bind:this={list} data={items} getKey={(item) => item.key} class="ledger-list">
					{#snippet children(item)}
						{#if item.kind === 'day'}
							<h2 class="day">
								{item.at === null ? 'Time not known' : longDay(item.at, zone)}{#if item.at !== null}<span class="zone mono"
										>{offsetName(item.at, zone)}</span
									>{/if}
							</h2>
						{:else if item.kind === 'gap'}
							<GapLine gap={item.gap} thread={thread.id} />
						{:else}
							<MessageLine
								message={item.message}
								earlier={item.earlier}
								{zone}
								owner={theCase.record?.owner ?? NO_OWNER}
								focused={item.message.id === theLedger.focus}
								picked={theCase.isPicked(thread.id, item.message.id)}
								hit={hits?.has(item.message.id) ?? false}
								find={theFind.query}
								onlyIn={copies.find((c) => c.store === item.message.store)?.name ?? null}
								captures={captures.get(item.message.statesOf ?? item.message.store) ?? NONE}
								onfocus={() => focus(item.message.id)}
								onpick={() => theCase.toggleMessage(thread.id, item.message.id, () => theLedger.messages.map((m) => m.id))}
							/>
						{/if}
					{/snippet}
				</VList>
			{/key}
		</div>
	{:else}
		<p class="none soft">Choose a thread.</p>
	{/if}
</section>

<style>
	.ledger {
		display: flex;
		flex-direction: column;
		min-width: 0;
		min-height: 0;
		background: var(--sheet);
	}
	header {
		display: flex;
		align-items: baseline;
		gap: 4px 12px;
		padding: 9px 18px;
		border-bottom: 1px solid var(--rule);
		flex-wrap: wrap;
	}
	h1 {
		font-size: 19px;
	}
	.counts {
		font-size: 13px;
	}
	.shown {
		display: flex;
		gap: 6px;
		margin-left: auto;
	}
	.columns {
		order: 4;
		display: inline-flex;
		gap: 13px;
		font-size: 13px;
		padding-right: 38px;
		margin-left: auto;
	}
	.body {
		flex: 1;
		min-height: 0;
		position: relative;
	}
	.body :global(.ledger-list) {
		height: 100%;
	}
	.day {
		font: italic 400 15px/1.3 var(--serif);
		color: var(--soft);
		padding: 12px 18px 6px 74px;
	}
	.zone {
		font-style: normal;
		font-size: 11px;
		margin-left: 10px;
	}
	.none {
		padding: 18px;
	}
	@media (max-width: 820px) {
		.day {
			padding-left: 16px;
		}
		header {
			padding: 8px 14px;
		}
	}
</style>
