<script lang="ts">
	/** A sheet over the page, with what is asked or told on it. What is in it closes it by a `Dialog.CloseTrigger`. */
	import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
	import type { Snippet } from 'svelte';

	interface Props {
		open: boolean;
		title: string;
		/** It is to be closed: by its own button, or by Escape. */
		onclose: () => void;
		children: Snippet;
	}
	const { open, title, onclose, children }: Props = $props();
</script>

<Dialog
	{open}
	onOpenChange={(e) => {
		if (!e.open) onclose();
	}}
>
	<Portal>
		<Dialog.Backdrop class="dialog-backdrop" />
		<Dialog.Positioner class="dialog-place">
			<Dialog.Content class="dialog-sheet">
				<Dialog.Title class="dialog-title">{title}</Dialog.Title>
				{@render children()}
			</Dialog.Content>
		</Dialog.Positioner>
	</Portal>
</Dialog>
