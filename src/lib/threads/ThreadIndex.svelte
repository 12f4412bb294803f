<script lang="ts">
	import { theCase } from '$lib/state/case.svelte';
	import { theFind } from '$lib/state/find.svelte';
	import { theLedger } from '$lib/state/ledger.svelte';
	import { theProspects } from '$lib/state/prospects.svelte';
	import type { ThreadRecord } from '$store';
	import ThreadEntry from './ThreadEntry.svelte';

	type Filter = 'all' | 'losses' | 'asked';
	let {
		selected,
		filter = $bindable('all'),
		onselect
	}: { selected: string | null; filter?: Filter; onselect: (t: ThreadRecord) => void } = $props();

	const listed = $derived(
		theProspects.order
			.filter((t) => filter === 'all' || (filter === 'losses' ? theCase.withLosses.includes(t) : theProspects.threads.includes(t)))
			.filter((t) => !theFind.hits || theFind.hits.has(t.id))
	);
	/** The threads and the span of the loss, and back. */
	function asked(): void {
		filter = filter === 'asked' ? 'all' : 'asked';
		const sent = theProspects.read?.spans.sent;
		theLedger.span =
			filter === 'asked' && sent && (sent.from !== null || sent.to !== null) ? [sent.from ?? 0, sent.to ?? theCase.today] : null;
		const [first] = theProspects.threads;
		if (filter === 'asked' && first && theLedger.thread && !theProspects.threads.includes(theLedger.thread)) onselect(first);
	}
	const most = $derived(Math.max(1, ...theCase.threads.map((t) => t.count)));
</script>

<section class="index" aria-label="Threads">
	<div class="filters" role="group" aria-label="Which threads">
		<button type="button" class="chip" aria-pressed={filter === 'all'} onclick={() => (filter = 'all')}>All {theCase.threads.length}</button
		>
		<button type="button" class="chip" aria-pressed={filter === 'losses'} onclick={() => (filter = 'losses')}
			>With losses {theCase.withLosses.length}</button
		>
		{#if theProspects.stated}<button type="button" class="chip" aria-pressed={filter === 'asked'} onclick={asked}
				>Asked for {theProspects.threads.length}</button
			>{/if}
	</div>
	<ul>
		{#each listed as thread (thread.id)}
			<li>
				<ThreadEntry
					{thread}
					{most}
					selected={thread.id === selected}
					hits={theFind.hits?.get(thread.id)?.size ?? 0}
					onselect={() => onselect(thread)}
				/>
			</li>
		{:else}
			<li class="none soft">
				{theFind.looking
					? 'Looking for it.'
					: theFind.hits
						? filter === 'losses'
							? 'No thread with losses has that. All threads may.'
							: 'Nothing in this case has that.'
						: 'No thread has losses. Everything that was found is in use.'}
			</li>
		{/each}
	</ul>
</section>

<style>
	.index {
		display: flex;
		flex-direction: column;
		min-height: 0;
		background: var(--paper);
	}
	.filters {
		display: flex;
		gap: 8px;
		padding: 9px 14px;
		border-bottom: 1px solid var(--rule);
	}
	ul {
		list-style: none;
		margin: 0;
		padding: 0;
		overflow-y: auto;
		flex: 1;
	}
	.none {
		padding: 16px 14px;
	}
</style>
