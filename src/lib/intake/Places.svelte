<script lang="ts">
	import { theCase } from '$lib/state/case.svelte';
	import { theProspects } from '$lib/state/prospects.svelte';
	import { shortDay } from '$lib/state/zone';
	import AddPlace from './AddPlace.svelte';
	import { axisOf, isLong, place as at } from './axis';
	import PlaceDetail from './PlaceDetail.svelte';
	import PlaceRow from './PlaceRow.svelte';

	let chosen = $state<string | null>(null);
	const zone = $derived(theCase.record?.zone ?? 'UTC');
	const ranked = $derived(theProspects.ranked);
	const spans = $derived(theProspects.read!.spans);
	const axis = $derived(axisOf(spans, ranked, theCase.today));
	const { missing, found } = $derived(theProspects.total);
	const band = (from: number | null, to: number | null): { x: number; w: number } | null =>
		axis && (from !== null || to !== null)
			? { x: at(axis, from ?? axis.from), w: at(axis, to ?? axis.to) - at(axis, from ?? axis.from) }
			: null;
	const sent = $derived(band(spans.sent.from, spans.sent.to));
	const lost = $derived(band(spans.lost.from, spans.lost.to));
	const numberOf = $derived(
		new Map(ranked.filter((r) => r.verdict.can !== 'cannot' && r.place.tried?.result !== 'nothing').map((r, i) => [r.place.id, i + 1]))
	);
	export function choose(id: string | null): void {
		chosen = id;
	}
</script>

<section aria-labelledby="places">
	<header>
		<h1 id="places">Where they can still be</h1>
		<span class="soft">
			{#if missing > 0}{missing} messages and record numbers of that stretch were lost · {found} found so far · {missing - found} open{:else if theProspects.asked.looked}nothing
				of that stretch was found missing so far{:else}nothing was looked at yet{/if}
		</span>
	</header>
	{#if axis}
		<div class="scale" aria-hidden="true">
			<div class="track">
				{#each axis.ticks as tick (tick.at)}<span class="tick mono" style:left="{tick.x}%"
						>{isLong(axis) ? shortDay(tick.at, zone).replace(/^\d+ /, '') : shortDay(tick.at, zone).replace(/ \d{4}$/, '')}</span
					>{/each}
				{#if sent}<span class="sent-label" style:left="{sent.x}%">sent</span>{/if}
				{#if lost}<span class="lost-label" style:left="{lost.x}%">lost in here</span>{/if}
			</div>
		</div>
	{/if}
	<div class="rows">
		{#if axis}
			<div class="bands" aria-hidden="true">
				<div class="track">
					{#if sent}<span class="sent" style:left="{sent.x}%" style:width="{sent.w}%"></span>{/if}
					{#if lost}<span class="lost" style:left="{lost.x}%" style:width="{lost.w}%"></span>{/if}
				</div>
			</div>
		{/if}
		{#if ranked.length === 0}<p class="soft none">
				No place is on the list yet. Put on what may hold them: what was given, and what could be asked for.
			</p>{/if}
		<ol>
			{#each ranked as r (r.place.id)}
				<PlaceRow
					ranked={r}
					number={numberOf.get(r.place.id) ?? null}
					{axis}
					{spans}
					chosen={chosen === r.place.id}
					onchoose={() => (chosen = chosen === r.place.id ? null : r.place.id)}
				/>
				{#if chosen === r.place.id}<li class="detail"><PlaceDetail ranked={r} onclosed={() => (chosen = null)} /></li>{/if}
			{/each}
		</ol>
	</div>
	<AddPlace onadded={(id) => (chosen = id)} />
</section>

<style>
	header {
		display: flex;
		gap: 4px 14px;
		align-items: baseline;
		flex-wrap: wrap;
	}
	h1 {
		font-size: 20px;
	}
	.scale,
	.bands {
		padding: 0 172px 0 222px;
	}
	.scale {
		height: 38px;
		border-bottom: 1px solid var(--rule);
	}
	.track {
		position: relative;
		height: 100%;
	}
	.tick {
		position: absolute;
		top: 4px;
		font-size: 12px;
		color: var(--soft);
		white-space: nowrap;
	}
	.sent-label,
	.lost-label {
		position: absolute;
		bottom: 1px;
		font-size: 12px;
		white-space: nowrap;
		color: var(--verdigris);
	}
	.lost-label {
		color: var(--ochre-text);
	}
	.rows {
		position: relative;
	}
	.bands {
		position: absolute;
		inset: 0;
		pointer-events: none;
	}
	.sent,
	.lost {
		position: absolute;
		top: 0;
		bottom: 0;
	}
	.sent {
		background: color-mix(in srgb, var(--verdigris) 10%, transparent);
		border-inline: 1px solid var(--verdigris);
	}
	.lost {
		background: repeating-linear-gradient(135deg, transparent 0 7px, var(--ochre-wash) 7px 9px);
	}
	ol {
		position: relative;
		list-style: none;
		margin: 0;
		padding: 0;
	}
	.none {
		position: relative;
		padding: 18px 0;
		margin: 0;
	}
	.detail {
		position: relative;
	}
	@media (max-width: 820px) {
		.scale,
		.bands {
			display: none;
		}
	}
</style>
