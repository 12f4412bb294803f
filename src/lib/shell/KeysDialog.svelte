<script lang="ts">
	import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';

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

<Dialog {open} onOpenChange={(e) => (open = e.open)}>
	<Portal>
		<Dialog.Backdrop class="keys-backdrop" />
		<Dialog.Positioner class="keys-place">
			<Dialog.Content class="keys-sheet">
				<Dialog.Title class="keys-title">Keys</Dialog.Title>
				<dl>
					{#each keys as [key, what] (key)}
						<dt><kbd>{key}</kbd></dt>
						<dd>{what}</dd>
					{/each}
				</dl>
				<Dialog.CloseTrigger class="button">Close</Dialog.CloseTrigger>
			</Dialog.Content>
		</Dialog.Positioner>
	</Portal>
</Dialog>

<style>
	:global(.keys-backdrop) {
		position: fixed;
		inset: 0;
		background: color-mix(in srgb, var(--ink) 35%, transparent);
		z-index: 20;
	}
	:global(.keys-place) {
		position: fixed;
		inset: 0;
		display: grid;
		place-items: center;
		z-index: 21;
	}
	:global(.keys-sheet) {
		background: var(--sheet);
		border: 1px solid var(--rule);
		padding: 20px 24px;
		max-width: min(440px, 92vw);
		color: var(--ink);
	}
	:global(.keys-title) {
		font: 600 18px/1.2 var(--serif);
		margin-bottom: 12px;
	}
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
