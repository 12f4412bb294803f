<script lang="ts">
	import { untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import KeysDialog from '$lib/shell/KeysDialog.svelte';
	import Tray from '$lib/shell/Tray.svelte';
	import LookProgress from '$lib/sources/LookProgress.svelte';
	import { theCase } from '$lib/state/case.svelte';
	import { theFind } from '$lib/state/find.svelte';
	import { theLedger } from '$lib/state/ledger.svelte';
	import { theLook } from '$lib/state/look.svelte';
	import { theProspects } from '$lib/state/prospects.svelte';
	import Ledger from '$lib/threads/Ledger.svelte';
	import Margin from '$lib/threads/Margin.svelte';
	import ThreadIndex from '$lib/threads/ThreadIndex.svelte';
	import TimeRibbon from '$lib/threads/TimeRibbon.svelte';
	import type { ThreadRecord } from '$store';

	let filter = $state<'all' | 'losses' | 'asked'>('all');
	let keys = $state(false);
	let ledger = $state<Ledger>();
	/** On a narrow screen one part is shown at a time. */
	let part = $state<'index' | 'ledger' | 'margin'>('index');

	// The thread being read follows the case: another look may have added to it, or the case is another.
	$effect(() => {
		const threads = theCase.threads;
		const record = theCase.record;
		if (!record || threads.length === 0) {
			untrack(() => theLedger.close());
			return;
		}
		untrack(() => {
			const here = threads.find((t) => t.id === theLedger.thread?.id);
			if (!here) {
				const last = threads.find((t) => t.id === theLedger.lastOpened());
				const asked = theProspects.named ? theProspects.threads[0] : undefined;
				void theLedger.open(record.id, last ?? asked ?? [...threads].sort((a, b) => lost(b) - lost(a))[0]!);
			} else if (here.signature !== theLedger.thread?.signature || theLedger.messages.length === 0) void theLedger.open(record.id, here);
		});
	});
	$effect(() => {
		void theFind.query;
		untrack(() => void theFind.run());
	});

	const lost = (t: ThreadRecord): number => t.binned + t.dropped + t.remnant;

	function select(thread: ThreadRecord): void {
		if (theCase.record) void theLedger.open(theCase.record.id, thread);
		part = 'ledger';
	}

	function otherThread(step: 1 | -1): void {
		const list = theProspects.order
			.filter((t) => filter === 'all' || (filter === 'losses' ? theCase.withLosses.includes(t) : theProspects.threads.includes(t)))
			.filter((t) => !theFind.hits || theFind.hits.has(t.id));
		const at = list.findIndex((t) => t.id === theLedger.thread?.id);
		const next = list[at + step];
		if (next && theCase.record) void theLedger.open(theCase.record.id, next);
	}

	/** Goes to the next message that was found, in this thread or in the next one that has some. */
	async function toFound(step: 1 | -1): Promise<void> {
		const hits = await theFind.settled();
		const record = theCase.record;
		if (!record || !hits) return;
		const threads = theProspects.order.filter((t) => (hits.get(t.id)?.size ?? 0) > 0);
		if (threads.length === 0) return;
		const here = threads.findIndex((t) => t.id === theLedger.thread?.id);
		const ids = here < 0 ? [] : [...hits.get(threads[here]!.id)!];
		const at = ids.indexOf(theLedger.focus ?? '');
		const next = ids[at < 0 ? (step > 0 ? 0 : ids.length - 1) : at + step];
		theLedger.shown = 'all';
		if (next) {
			await theLedger.setFocus(record.id, next);
			ledger?.reveal();
			return;
		}
		const other = threads[(here + step + threads.length) % threads.length]!;
		const list = [...hits.get(other.id)!];
		const wanted = list[step > 0 ? 0 : list.length - 1]!;
		if (other.id === theLedger.thread?.id) {
			await theLedger.setFocus(record.id, wanted);
			ledger?.reveal();
		} else await theLedger.open(record.id, other, wanted);
	}

	function pickFocused(): void {
		const { thread, focus } = theLedger;
		if (thread && focus) theCase.toggleMessage(thread.id, focus, () => theLedger.messages.map((m) => m.id));
	}

	function key(event: KeyboardEvent): void {
		const target = event.target as HTMLElement;
		if (event.ctrlKey || event.metaKey || event.altKey) return;
		if (target.matches('input, select, textarea, [contenteditable]')) {
			if (event.key === 'Escape') target.blur();
			if (event.key === 'Enter' && target.id === 'find') void toFound(event.shiftKey ? -1 : 1);
			return;
		}
		const act: Record<string, () => void> = {
			j: () => ledger?.move(1, false),
			k: () => ledger?.move(-1, false),
			n: () => ledger?.move(1, true),
			p: () => ledger?.move(-1, true),
			x: pickFocused,
			X: () => theLedger.thread && theCase.toggleThread(theLedger.thread.id),
			J: () => otherThread(1),
			K: () => otherThread(-1),
			'/': () => document.getElementById('find')?.focus(),
			'?': () => (keys = true)
		};
		const does = act[event.key];
		if (!does) return;
		event.preventDefault();
		does();
	}
</script>

<svelte:window onkeydown={key} />

{#if theCase.threads.length > 0}
	<TimeRibbon />
	<main data-part={part}>
		<ThreadIndex bind:filter selected={theLedger.thread?.id ?? null} onselect={select} />
		<Ledger bind:this={ledger} />
		<Margin />
	</main>
	<div class="parts" role="group" aria-label="Part shown">
		<button type="button" class="chip" aria-pressed={part === 'index'} onclick={() => (part = 'index')}>Index</button>
		<button type="button" class="chip" aria-pressed={part === 'ledger'} onclick={() => (part = 'ledger')}>Ledger</button>
		<button type="button" class="chip" aria-pressed={part === 'margin'} onclick={() => (part = 'margin')}>Margin</button>
		{#if theLedger.thread}<button type="button" class="chip" onclick={() => theLedger.thread && theCase.toggleThread(theLedger.thread.id)}
				>{theCase.isThreadPicked(theLedger.thread.id) ? 'Put the thread back' : 'Pick the thread'}</button
			>{/if}
	</div>
{:else}
	<main class="empty">
		<div>
			{#if theLook.running}
				<h1>Looking</h1>
				<LookProgress />
			{:else if theCase.record}
				<h1>No messages were found</h1>
				<p>What was looked at, and why it may be, is written on the sources' page. The files were only read.</p>
				<a class="button main" href="/sources">See what was looked at</a>
			{:else}
				<h1>Nothing to read yet</h1>
				<p>Give a message database first. It is only read, and it stays on this machine.</p>
				<a class="button main" href="/sources">Give a source</a>
			{/if}
		</div>
	</main>
{/if}
<Tray>
	{#if theCase.pickedThreads.length > 0}<span
			><strong
				>{theCase.pickedThreads.length}
				{theCase.pickedThreads.length === 1 ? 'thread' : 'threads'} · {theCase.pickedMessages}
				{theCase.pickedMessages === 1 ? 'message' : 'messages'}</strong
			> in the bundle</span
		>{:else if theLook.running}<span>{theLook.doing}</span>{:else}<span>Nothing picked yet</span>{/if}
	<span class="keys"
		><kbd>x</kbd> pick <kbd>X</kbd> whole thread <kbd>j</kbd><kbd>k</kbd> move <kbd>n</kbd> next lost
		<button type="button" class="all-keys" onclick={() => (keys = true)}><kbd>?</kbd> keys</button></span
	>
	{#snippet action()}<button type="button" class="button main" disabled={theCase.pickedThreads.length === 0} onclick={() => goto('/bundle')}
			>Open the bundle</button
		>{/snippet}
</Tray>
<KeysDialog bind:open={keys} />

<style>
	main {
		flex: 1;
		min-height: 0;
		display: grid;
		grid-template-columns: minmax(230px, 276px) minmax(0, 1fr) minmax(260px, 316px);
		grid-template-rows: minmax(0, 1fr);
	}
	main > :global(* + *) {
		border-left: 1px solid var(--rule);
	}
	.parts {
		display: none;
	}
	.empty {
		display: grid;
		grid-template-columns: minmax(0, 560px);
		justify-content: center;
		align-content: center;
	}
	.empty div {
		display: grid;
		gap: 12px;
		justify-items: start;
		padding: 20px;
	}
	.empty h1 {
		font-size: 24px;
	}
	.empty p {
		margin: 0;
	}
	.all-keys {
		background: none;
		border: 0;
		color: inherit;
		font: inherit;
		cursor: pointer;
		padding: 4px;
	}
	@media (max-width: 820px) {
		main:not(.empty) {
			grid-template-columns: minmax(0, 1fr);
		}
		main[data-part='index'] > :global(:not(.index)),
		main[data-part='ledger'] > :global(:not(.ledger)),
		main[data-part='margin'] > :global(:not(aside)) {
			display: none;
		}
		main > :global(* + *) {
			border-left: 0;
		}
		.parts {
			display: flex;
			gap: 6px;
			padding: 6px 12px;
			border-top: 1px solid var(--rule);
			background: var(--paper);
			overflow-x: auto;
		}
	}
</style>
