<script lang="ts">
	import type { CaseRecord } from '$store';

	let { gap, thread }: { gap: CaseRecord['gaps'][number]; thread: string } = $props();

	const range = $derived(gap.from === gap.to ? `${gap.from}` : `${gap.from}–${gap.to}`);
	/** What is missing, in words. */
	const words = $derived.by(() => {
		if (gap.why === 'counter') return `${gap.count} more by the store’s own count, seen nowhere`;
		if (gap.why === 'list') return `${gap.count} more that the store lists, seen nowhere`;
		if (gap.why === 'numbering') return `${gap.count} of the store’s own numbers ${range} accounted for nowhere`;
		if (gap.count < gap.to - gap.from + 1) return `${gap.count} of the record numbers ${range} accounted for nowhere`;
		return `${gap.count} record ${gap.count === 1 ? 'number' : 'numbers'} accounted for nowhere · ${range}`;
	});
	const certain = $derived(gap.certainThread || (gap.threads.length === 1 && gap.threads[0] === thread));
</script>

<p class="gap">
	<span
		>{words}{#if !certain}<em>{' · this thread or another’s'}</em>{/if}</span
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
