<script lang="ts">
	import type { SlimMessage } from '$store';

	let { states, names }: { states: NonNullable<SlimMessage['states']>; names: string[] } = $props();
	const WORDS = { in: 'in use', binned: 'marked deleted', out: 'not there', before: 'older than the message' } as const;
</script>

<span class="dots" role="img" aria-label={states.map((s, i) => `${names[i] ?? `copy ${i + 1}`}: ${WORDS[s]}`).join('; ')}>
	{#each states as state, i (i)}<span class={state} title="{names[i] ?? ''}: {WORDS[state]}"></span>{/each}
</span>

<style>
	.dots {
		display: inline-flex;
		gap: 12px;
		padding-top: 6px;
	}
	.dots span {
		width: 9px;
		height: 9px;
		border-radius: 50%;
	}
	.in {
		background: var(--ink);
	}
	.binned {
		border: 2px double var(--ochre);
		background: var(--ochre-wash);
	}
	.out {
		border: 1.5px solid var(--plum);
	}
</style>
