<script lang="ts">
	import { calendarOf } from '$core/prospects';
	import { saveBlob } from '$lib/ui/save';
	import { theCase } from '$lib/state/case.svelte';
	import { theProspects } from '$lib/state/prospects.svelte';
	import { shortDay } from '$lib/state/zone';

	const zone = $derived(theCase.record?.zone ?? 'UTC');
	const dated = $derived(theProspects.clocks.some((c) => c.at !== null));
	function save(): void {
		saveBlob(
			new Blob([calendarOf(theProspects.clocks, theCase.record!.name, theCase.today, zone)], { type: 'text/calendar' }),
			'clocks.ics'
		);
	}
</script>

<section aria-labelledby="clocks">
	<h2 id="clocks">Clocks that run</h2>
	{#if theProspects.clocks.length === 0}<p class="soft">None among the places below.</p>{/if}
	<ul>
		{#each theProspects.clocks as clock, i (i)}
			<li>
				<span class="left mono" class:urgent={clock.daysLeft !== null && clock.daysLeft <= 14}
					>{clock.daysLeft === null ? '–' : `${clock.daysLeft}d`}</span
				>
				<span
					>{clock.says}{#if clock.at !== null}{' '}on {shortDay(clock.at, zone)}{/if}.</span
				>
			</li>
		{/each}
	</ul>
	{#if dated}<button type="button" class="button" onclick={save}>Save as a calendar file</button>{/if}
</section>

<style>
	h2 {
		font-size: 17px;
		margin-bottom: 6px;
	}
	ul {
		list-style: none;
		margin: 0 0 10px;
		padding: 0;
		border-top: 1px solid var(--rule);
	}
	li {
		display: grid;
		grid-template-columns: 34px 1fr;
		gap: 6px;
		padding: 7px 0;
		border-bottom: 1px solid var(--rule);
	}
	.left {
		font-size: 13px;
		color: var(--soft);
		padding-top: 2px;
	}
	.urgent {
		color: var(--ochre-text);
	}
	p {
		margin: 0;
	}
</style>
