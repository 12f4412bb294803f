<script lang="ts">
	import { theCase } from '$lib/state/case.svelte';
	import type { ThreadRecord } from '$store';

	let {
		thread,
		selected,
		most,
		hits,
		onselect
	}: { thread: ThreadRecord; selected: boolean; most: number; hits: number; onselect: () => void } = $props();

	const lost = $derived(thread.binned + thread.dropped + thread.remnant);
	// Short threads still show a bar: the length follows the square root of the count.
	const width = $derived((Math.sqrt(thread.count) / Math.sqrt(most)) * 100);
	const bar = $derived([
		['kept', thread.kept],
		['binned', thread.binned],
		['dropped', thread.dropped],
		['remnant', thread.remnant]
	] as const);
	const share = (n: number): string => `${Math.max(n > 0 ? 2 : 0, (n / Math.max(1, thread.count)) * width)}%`;
</script>

<button type="button" class:selected aria-current={selected ? 'true' : undefined} onclick={onselect}>
	<span class="head">
		<bdi class="title">{thread.title}</bdi>
		<span class="lost" class:none={lost === 0}
			>{hits > 0 ? `${hits} found` : lost > 0 ? `${lost} back` : thread.missing > 0 ? `${thread.missing} missing` : 'none lost'}</span
		>
	</span>
	<span class="address mono"
		>{thread.group ? `group · ${thread.members.length} people` : (thread.address ?? '\u00a0')}{#if theCase.isThreadPicked(thread.id)}<span
				class="picked"
			>
				· picked</span
			>{/if}</span
	>
	<bdi class="snippet">{thread.snippet || '\u00a0'}</bdi>
	<span class="bar" aria-hidden="true">
		{#each bar as [standing, n] (standing)}{#if n > 0}<span class={standing} style:width={share(n)}></span>{/if}{/each}
	</span>
</button>

<style>
	button {
		display: flex;
		flex-direction: column;
		gap: 1px;
		width: 100%;
		text-align: start;
		padding: 8px 14px 9px 11px;
		border: 0;
		border-bottom: 1px solid var(--rule);
		border-left: 3px solid transparent;
		background: transparent;
		color: var(--ink);
		cursor: pointer;
		font: inherit;
	}
	button:hover {
		background: var(--shade);
	}
	button:focus-visible {
		outline-offset: -2px;
	}
	.selected {
		background: var(--sheet);
		border-left-color: var(--verdigris);
	}
	.head {
		display: flex;
		justify-content: space-between;
		gap: 8px;
		align-items: baseline;
	}
	.title {
		font: 600 16px/1.3 var(--serif);
		overflow: hidden;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.lost {
		font: 600 12px/1.3 var(--sans);
		color: var(--verdigris);
		white-space: nowrap;
	}
	.lost.none {
		color: var(--soft);
		font-weight: 400;
	}
	.address {
		font-size: 12px;
		color: var(--soft);
		overflow: hidden;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.picked {
		margin-inline-start: 1ch;
		color: var(--verdigris);
	}
	.snippet {
		color: var(--soft);
		font-size: 14px;
		overflow: hidden;
		text-overflow: ellipsis;
		white-space: nowrap;
		display: block;
		width: 100%;
	}
	.bar {
		display: flex;
		gap: 2px;
		height: 4px;
		margin-top: 4px;
		width: 100%;
	}
	.bar span {
		height: 4px;
		background: var(--kept-bar);
	}
	.bar .binned {
		background: var(--ochre);
	}
	.bar .dropped {
		background: var(--plum);
	}
	.bar .remnant {
		background: var(--verdigris);
	}
</style>
