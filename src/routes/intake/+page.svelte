<script lang="ts">
	import { goto } from '$app/navigation';
	import { isOpen } from '$core/prospects';
	import Clocks from '$lib/intake/Clocks.svelte';
	import MakeNothingWorse from '$lib/intake/MakeNothingWorse.svelte';
	import Places from '$lib/intake/Places.svelte';
	import Sentence from '$lib/intake/Sentence.svelte';
	import Tray from '$lib/shell/Tray.svelte';
	import { theCase } from '$lib/state/case.svelte';
	import { theLook } from '$lib/state/look.svelte';
	import { theProspects } from '$lib/state/prospects.svelte';

	let places = $state<Places>();
	$effect(() => {
		void [theCase.record?.loss, theCase.record?.seconds, theCase.threads];
		if (theCase.record && !theLook.running) void theProspects.recount();
	});
	const next = $derived(theProspects.ranked.find(isOpen) ?? null);
	function onkeydown(e: KeyboardEvent): void {
		if (e.ctrlKey || e.metaKey || e.altKey || (e.target as HTMLElement).closest('input, select, textarea, [role=dialog]')) return;
		if (e.key === 'l' && next) places?.choose(next.place.id);
		else if (e.key === 'e') document.querySelector<HTMLElement>('form[aria-label="What is missing"] input')?.focus();
		else return;
		e.preventDefault();
	}
</script>

<svelte:window {onkeydown} />

{#if theCase.record}
	<main>
		<div class="loss">
			<h2>What is missing</h2>
			<Sentence />
			<section aria-labelledby="judged" class="judged">
				<h2 id="judged">What came of it</h2>
				<p aria-live="polite">{theProspects.judgement}</p>
				{#if theCase.record.pattern && theCase.record.pattern.kind !== 'nothing-lost'}
					<p>{theCase.record.pattern.says}</p>
					<details>
						<summary>What supports that, and what speaks against it</summary>
						<ul>
							{#each theCase.record.pattern.supports as line, i (i)}<li>{line}</li>{/each}
							{#each theCase.record.pattern.against as line, i (i)}<li class="against">{line}</li>{/each}
						</ul>
					</details>
				{/if}
			</section>
			<MakeNothingWorse />
			<Clocks />
		</div>
		<div class="places"><Places bind:this={places} /></div>
	</main>
	<Tray>
		{#if theLook.running}<span><strong>Looking.</strong> {theLook.doing}</span>{:else if next}<span
				><strong>Next:</strong>
				{next.place.name || next.kind.name} – it {next.verdict.says}. {next.verdict.harm === 'harmless'
					? 'Nothing is restored or changed.'
					: (next.kind.warning ?? '')}</span
			>{:else}<span>No place is open that could hold more.</span>{/if}
		<span class="keys"><kbd>l</kbd>next place <kbd>e</kbd>edit the loss <kbd>?</kbd>keys</span>
		{#snippet action()}
			{#if next}<button
					type="button"
					class="button main"
					onclick={() => (next.place.offer || theCase.record!.files.length > 0 ? places?.choose(next.place.id) : goto('/sources'))}
					>Look there</button
				>
			{:else}<a class="button main" href="/sources">Give a source</a>{/if}
		{/snippet}
	</Tray>
{:else}
	<main class="none"><p>No case is open. <a href="/cases">Open one, or begin a new one</a>.</p></main>
{/if}

<style>
	main {
		flex: 1;
		min-height: 0;
		display: grid;
		grid-template-columns: 352px minmax(0, 1fr);
	}
	.none {
		display: block;
		padding: 24px;
	}
	.loss {
		background: var(--sheet);
		border-right: 1px solid var(--rule);
		padding: 20px 22px;
		overflow-y: auto;
		min-height: 0;
		display: grid;
		gap: 22px;
		align-content: start;
	}
	.loss > h2 {
		margin-bottom: -12px;
	}
	h2 {
		font-size: 17px;
		margin-bottom: 6px;
	}
	.places {
		padding: 20px 22px;
		overflow-y: auto;
		min-height: 0;
	}
	p {
		margin: 0 0 6px;
	}
	details {
		font-size: 14px;
	}
	summary {
		cursor: pointer;
		color: var(--verdigris);
	}
	ul {
		margin: 6px 0 0;
		padding-left: 18px;
	}
	.against {
		list-style: '– ';
	}
	@media (max-width: 820px) {
		main {
			display: block;
			overflow-y: auto;
		}
		.loss,
		.places {
			overflow: visible;
			border: 0;
			padding: 16px;
		}
	}
</style>
