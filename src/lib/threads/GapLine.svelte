<script lang="ts">
	import type { CaseRecord } from '$store';

	let { gap, thread }: { gap: CaseRecord['gaps'][number]; thread: string } = $props();

	const range = $derived(gap.from === gap.to ? `${gap.from}` : `${gap.from}–${gap.to}`);
	const part = $derived(gap.count < gap.to - gap.from + 1);
	const certain = $derived(gap.certainThread || (gap.threads.length === 1 && gap.threads[0] === thread));
</script>

<p class="gap">
	<span
		>{#if gap.why === 'counter'}{gap.count} more by the store’s own count, seen nowhere{:else if gap.why === 'list'}{gap.count} more that the
			store lists, seen nowhere{:else if gap.why === 'numbering'}{gap.count} of the store’s own numbers {range} accounted for nowhere{:else if part}{gap.count}
			of the record numbers {range} accounted for nowhere{:else}{gap.count} record {gap.count === 1 ? 'number' : 'numbers'} accounted for nowhere
			· {range}{/if}{#if !certain}<em>{' · this thread or another’s'}</em>{/if}</span
	>
</p>

<style>
	.gap {
		margin: 6px 18px 6px 74px;
		padding: 3px 10px;
		border-left: 2px solid var(--ochre);
		color: var(--ochre-text);
		font-size: 13px;
		background: repeating-linear-gradient(135deg, transparent 0 6px, var(--ochre-wash) 6px 8px);
	}
	.gap span {
		background: var(--sheet);
		padding: 0 4px;
	}
	@media (max-width: 820px) {
		.gap {
			margin-inline: 14px 8px;
		}
	}
</style>
