<script lang="ts">
	import { Dialog } from '@skeletonlabs/skeleton-svelte';
	import Sheet from '$lib/ui/Sheet.svelte';

	let { open = $bindable(false) }: { open?: boolean } = $props();
	const keys = [
		['j', 'next message'],
		['k', 'previous message'],
		['n', 'next lost message'],
		['p', 'previous lost message'],
		['x', 'pick the message for the bundle, or put it back'],
		['Shift x', 'pick the whole thread, or put it back'],
		['J  K', 'next and previous thread'],
		['/', 'find'],
		['Enter', 'in find: to the next message found; with Shift to the one before'],
		['?', 'these keys']
	];
</script>

<Sheet {open} title="Keys" onclose={() => (open = false)}>
	<dl>
		{#each keys as [key, what] (key)}
			<dt><kbd>{key}</kbd></dt>
			<dd>{what}</dd>
		{/each}
	</dl>
	<Dialog.CloseTrigger class="button">Close</Dialog.CloseTrigger>
</Sheet>

<style>
	dl {
		display: grid;
		grid-template-columns: auto 1fr;
		gap: 6px 18px;
		margin: 0 0 16px;
	}
	dt,
	dd {
		margin: 0;
	}
</style>
