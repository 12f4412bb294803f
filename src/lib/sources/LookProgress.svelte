<script lang="ts">
	import { Progress } from '@skeletonlabs/skeleton-svelte';
	import { theLook } from '$lib/state/look.svelte';

	let now = $state(0);
	$effect(() => {
		if (!theLook.running) return;
		const timer = setInterval(() => now++, 1000);
		return () => clearInterval(timer);
	});
	const left = $derived.by(() => {
		void now;
		const seconds = theLook.secondsLeft();
		return seconds === null || theLook.paused
			? ''
			: seconds < 60
				? `about ${Math.max(1, Math.round(seconds))} s left in this part`
				: `about ${Math.round(seconds / 60)} min left in this part`;
	});
</script>

<section class="under-way" aria-label="The look" aria-live="polite">
	<Progress value={Math.round(theLook.share * 100)} max={100}>
		<Progress.Label class="label">{theLook.doing}{theLook.paused ? ': paused' : ''}</Progress.Label>
		<Progress.Track class="track"><Progress.Range class="range" /></Progress.Track>
	</Progress>
	{#if theLook.rows > 0 || theLook.found}
		<p class="soft">
			{theLook.rows.toLocaleString('en-GB')} rows seen{#if theLook.found}{' '}· {theLook.found.messages.toLocaleString('en-GB')} messages in {theLook
					.found.threads} threads, {theLook.found.lost.toLocaleString('en-GB')} of them brought back{/if}{#if left}{' '}· {left}{/if}
		</p>
	{:else if left}<p class="soft">{left}</p>{/if}
	<div class="acts">
		<button type="button" class="button" aria-pressed={theLook.paused} onclick={() => theLook.pause()}
			>{theLook.paused ? 'Go on' : 'Pause'}</button
		>
		<button type="button" class="button" onclick={() => theLook.stop()}>Stop</button>
	</div>
</section>

<style>
	.under-way {
		display: grid;
		gap: 6px;
		padding: 14px 18px;
		background: var(--sheet);
		border: 1px solid var(--rule);
		justify-items: start;
	}
	.under-way :global([data-part='root']) {
		width: 100%;
	}
	.under-way :global(.track) {
		height: 6px;
		background: var(--rule);
		border-radius: 0;
	}
	.under-way :global(.range) {
		height: 6px;
		background: var(--verdigris);
		border-radius: 0;
	}
	.acts {
		display: flex;
		gap: 10px;
	}
	p {
		margin: 0;
	}
</style>
