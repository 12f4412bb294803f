<script lang="ts">
	import type { LossSpans, Ranked } from '$core/prospects';
	import { theCase } from '$lib/state/case.svelte';
	import { shortDay } from '$lib/state/zone';
	import { place as at, type Axis } from './axis';

	interface Props {
		ranked: Ranked;
		number: number | null;
		axis: Axis | null;
		spans: LossSpans;
		chosen: boolean;
		onchoose: () => void;
	}
	let { ranked, number, axis, spans, chosen, onchoose }: Props = $props();
	const { place, kind, verdict, taken } = $derived(ranked);
	const zone = $derived(theCase.record?.zone ?? 'UTC');
	const today = $derived(theCase.today);
	const end = $derived(
		taken.to ?? (verdict.can === 'cannot' && kind.holds === 'copy' ? null : Math.min(verdict.until ?? today, axis?.to ?? today))
	);
	const begin = $derived(place.span?.from ?? (kind.holds === 'bin' ? spans.lost.from : (axis?.from ?? null)));
	const span = $derived(
		axis && begin !== null && end !== null ? { x: at(axis, begin), w: Math.max(0.6, at(axis, end) - at(axis, begin)) } : null
	);
	const minutes = $derived(
		verdict.minutes[1] >= 1440
			? 'some weeks'
			: verdict.minutes[0] === verdict.minutes[1]
				? `about ${verdict.minutes[0]} min`
				: `${verdict.minutes[0]} to ${verdict.minutes[1]} min`
	);
	const under = $derived(
		verdict.notNeeded
			? 'not needed: a harmless place holds as much'
			: verdict.can === 'cannot'
				? verdict.why
				: [
						verdict.harm === 'harmless' ? 'harmless' : verdict.harm === 'erases' ? 'erases first' : 'overwrites what came later',
						place.tried ? `looked ${shortDay(place.tried.at, zone)}` : place.source !== null ? 'given, not looked at yet' : minutes
					].join(' · ')
	);
	const dim = $derived(verdict.can === 'cannot' || place.tried?.result === 'nothing' || place.tried?.result === 'not possible');
</script>

<li class:dim class:chosen>
	<button type="button" aria-pressed={chosen} onclick={onchoose}>
		<span class="number">{number ?? '–'}</span>
		<span class="name"
			><strong>{place.name || kind.name}</strong><span class="soft"
				>{place.note || (place.source === null && verdict.needs.length ? `needs ${verdict.needs.join(', ')}` : kind.name)}</span
			></span
		>
		<span class="axis" aria-hidden="true">
			{#if span}<span
					class="bar"
					class:bin={kind.holds === 'bin' || kind.holds === 'rolling'}
					style:left="{span.x}%"
					style:width="{span.w}%"
				></span>{/if}
			{#if axis && taken.to !== null}
				<span class="flag" class:late={at(axis, taken.to) > 82} style:left="{at(axis, taken.to)}%"
					><span class="mono">{shortDay(taken.to, zone).replace(/ \d{4}$/, '')}</span></span
				>
			{/if}
		</span>
		<span
			class="verdict"
			class:warn={verdict.harm !== 'harmless' && verdict.can !== 'cannot'}
			class:plain={verdict.can === 'may' && !place.tried}><strong>{verdict.says}</strong><span class="soft">{under}</span></span
		>
	</button>
</li>

<style>
	li {
		border-bottom: 1px solid var(--rule);
	}
	button {
		display: grid;
		grid-template-columns: 26px 190px minmax(120px, 1fr) 172px;
		width: 100%;
		text-align: start;
		align-items: center;
		background: transparent;
		border: 0;
		border-left: 3px solid transparent;
		padding: 0 0 0 3px;
		min-height: 64px;
		color: var(--ink);
		font: inherit;
		cursor: pointer;
	}
	.chosen button {
		background: var(--shade);
		border-left-color: var(--ink);
	}
	.number {
		font: 600 16px/1 var(--sans);
		color: var(--soft);
	}
	.name,
	.verdict {
		display: grid;
		gap: 2px;
		padding: 8px 10px 8px 0;
		min-width: 0;
	}
	.name .soft,
	.verdict .soft {
		font-size: 13px;
		line-height: 1.25;
	}
	.verdict {
		padding-left: 14px;
	}
	.verdict strong {
		color: var(--verdigris);
	}
	.verdict.plain strong {
		color: var(--ink);
	}
	.verdict.warn strong {
		color: var(--ochre-text);
	}
	.dim .name strong,
	.dim .verdict strong {
		color: var(--soft);
		font-weight: 400;
	}
	.dim .bar {
		opacity: 0.35;
	}
	.axis {
		position: relative;
		align-self: stretch;
	}
	.bar {
		position: absolute;
		top: 27px;
		height: 10px;
		background: color-mix(in srgb, var(--verdigris) 26%, var(--paper));
	}
	.bar.bin {
		background: var(--ochre-wash);
	}
	.flag {
		position: absolute;
		top: 16px;
		height: 32px;
		border-left: 2px solid var(--ink);
		font-size: 12px;
		padding-left: 4px;
		line-height: 1;
		white-space: nowrap;
	}
	.flag.late {
		border-left: 0;
		border-right: 2px solid var(--ink);
		transform: translateX(-100%);
		padding: 0 4px 0 0;
	}
	@media (max-width: 820px) {
		button {
			grid-template-columns: 22px 1fr;
			padding: 6px 0;
		}
		.axis {
			display: none;
		}
		.verdict {
			grid-column: 2;
			padding: 0 0 8px;
		}
	}
</style>
