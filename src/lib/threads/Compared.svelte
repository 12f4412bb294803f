<script lang="ts">
	import type { SidesOfThread } from '$core/weave';
	import { describeSides } from '$core/wording';

	/** How the copies that several sources hold of one thread compare. */
	let { copies }: { copies: SidesOfThread[] } = $props();
</script>

<ul class="soft" aria-label="Copies compared">
	{#each copies as copy, i (i)}<li><bdi class="mono">{copy.name}</bdi> {describeSides(copy)}</li>{/each}
</ul>

<style>
	ul {
		order: 3;
		flex: 1 1 60%;
		margin: 0;
		padding: 0;
		list-style: none;
		font-size: 13px;
	}
</style>
