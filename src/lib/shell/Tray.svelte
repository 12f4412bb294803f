<script lang="ts">
	import type { Snippet } from 'svelte';

	let { children, action }: { children: Snippet; action?: Snippet } = $props();
</script>

<footer aria-label="Tray">
	<div class="what">{@render children()}</div>
	{#if action}<div class="action">{@render action()}</div>{/if}
</footer>

<style>
	footer {
		display: flex;
		align-items: center;
		gap: 16px;
		min-height: 42px;
		padding: 0 16px;
		background: var(--night);
		color: var(--on-night);
		font-size: 14px;
		border-top: 1px solid var(--rule);
	}
	.what {
		flex: 1;
		min-width: 0;
		display: flex;
		gap: 4px 16px;
		flex-wrap: wrap;
		align-items: center;
	}
	.what :global(.keys) {
		color: var(--on-night-soft);
	}
	.what :global(kbd) {
		color: var(--on-night);
		margin: 0 1px 0 6px;
	}
	@media (max-width: 820px) {
		.what :global(.keys) {
			display: none;
		}
	}
</style>
