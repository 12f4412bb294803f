<script lang="ts">
	/** Whom a thread is with, to be called as the user knows them. */
	import { Dialog } from '@skeletonlabs/skeleton-svelte';
	import Sheet from '$lib/ui/Sheet.svelte';
	import { theCase } from '$lib/state/case.svelte';
	import { theLook } from '$lib/state/look.svelte';
	import type { ThreadRecord } from '$store';

	const { thread }: { thread: ThreadRecord } = $props();
	let open = $state(false);
	/** By what the evidence has of each. */
	let written = $state<Record<string, string>>({});
	const parties = $derived(
		(thread.group ? thread.members : [{ address: thread.address, name: thread.title }]).flatMap(({ address, name }) => {
			const key = address ?? name;
			return key === null ? [] : [{ key, name: name === key ? '' : (name ?? '') }];
		})
	);
	const byHand = $derived(theCase.record?.names ?? {});
	const isByHand = $derived(parties.some(({ key }) => byHand[key] !== undefined));

	function begin(): void {
		written = Object.fromEntries(parties.map(({ key, name }) => [key, name]));
		open = true;
	}
	async function save(): Promise<void> {
		const changed = parties.flatMap(({ key, name }): [string, string][] => {
			const now = written[key]!.trim().slice(0, 120);
			return now === name ? [] : [[key, now]];
		});
		open = false;
		if (changed.length > 0) await theLook.callBy(Object.fromEntries(changed));
	}
</script>

{#if parties.length > 0}
	<button type="button" class="quiet" disabled={theLook.running} onclick={begin}>{thread.group ? 'Names' : 'Name'}</button>
	{#if isByHand}<span class="soft by-hand">named by hand</span>{/if}
{/if}

<Sheet {open} title="Whom this thread is with" onclose={() => (open = false)}>
	<form
		onsubmit={(e) => {
			e.preventDefault();
			void save();
		}}
	>
		{#each parties as { key } (key)}
			<label
				><bdi class="mono">{key}</bdi>
				<input bind:value={written[key]} placeholder="as the evidence names it" maxlength="120" /></label
			>
		{/each}
		<p class="soft">
			What is put in here is shown everywhere, and said in the log and the bundle to be yours. Empty: as the evidence names it.
		</p>
		<div class="choice">
			<button type="submit" class="button main">Call them so</button>
			<Dialog.CloseTrigger class="button">Leave it</Dialog.CloseTrigger>
		</div>
	</form>
</Sheet>

<style>
	form {
		display: grid;
		gap: 10px;
		max-height: 60vh;
		/* Room for what shows where the focus is. */
		margin: 0 -4px;
		padding: 4px;
		overflow-y: auto;
	}
	label {
		display: grid;
		gap: 2px;
		font-size: 13px;
	}
	input {
		font: inherit;
		font-size: 15px;
		color: var(--ink);
		background: var(--sheet);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 5px 9px;
	}
	p {
		margin: 0;
	}
	.quiet {
		font: inherit;
		font-size: 13px;
		color: var(--verdigris);
		background: none;
		border: 0;
		border-bottom: 1px dotted currentColor;
		padding: 0;
		cursor: pointer;
	}
	.by-hand {
		font-size: 13px;
	}
</style>
