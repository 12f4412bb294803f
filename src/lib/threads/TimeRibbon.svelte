<script lang="ts">
	import { offsetAt } from '$core/zones';
	import { theCase } from '$lib/state/case.svelte';
	import { theLedger } from '$lib/state/ledger.svelte';
	import { theProspects } from '$lib/state/prospects.svelte';
	import { bins, type Bin } from './bins';
	import type { Chart } from './chart';

	const DAY = 86_400_000;
	const whole = $derived(theLedger.thread ? [theLedger.thread] : theCase.threads);
	const shown = $derived<Bin[]>(
		bins(
			whole.flatMap((t) => t.days),
			bins.range(theCase.threads.flatMap((t) => t.days)),
			120
		)
	);
	const total = $derived(shown.reduce((n, b) => n + b.kept + b.lost, 0));
	let element = $state<HTMLDivElement>();
	let chart = $state.raw<Chart | null>(null);
	let mode = $state('');
	let width = $state(900);
	void document.fonts.ready.then(() => (mode = `${document.documentElement.dataset.mode ?? ''}, faces ready`));

	const color = (name: string): string => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
	const date = (day: number): string =>
		new Date(day * DAY).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' });

	function narrow(event: unknown): void {
		const [area] = (event as { areas: { coordRange: [number, number] }[] }).areas;
		if (!area) return;
		const [from, to] = area.coordRange;
		const first = shown[Math.max(0, Math.round(from))];
		const last = shown[Math.min(shown.length - 1, Math.round(to))];
		if (first && last) theLedger.span = [first.from * DAY, last.to * DAY - 1];
	}

	$effect(() => {
		const place = element;
		if (!place) return;
		let made: Chart | null = null;
		let gone = false;
		// Loaded apart, so that the first thread can be read before it.
		void import('./chart').then(({ makeChart }) => {
			if (gone) return;
			made = makeChart(place);
			made.on('brushEnd', narrow);
			chart = made;
		});
		const sizes = new ResizeObserver(([entry]) => {
			made?.resize();
			width = entry?.contentRect.width ?? width;
		});
		sizes.observe(place);
		const themes = new MutationObserver(() => (mode = document.documentElement.dataset.mode ?? ''));
		themes.observe(document.documentElement, { attributes: true, attributeFilter: ['data-mode'] });
		return () => {
			gone = true;
			sizes.disconnect();
			themes.disconnect();
			made?.dispose();
			chart = null;
		};
	});

	$effect(() => {
		void mode;
		if (!chart || !element) return;
		const series = (key: 'kept' | 'binned' | 'dropped' | 'remnant', fill: string): object => ({
			type: 'bar',
			stack: 'all',
			name: key,
			data: shown.map((b) => b[key]),
			itemStyle: { color: fill },
			barCategoryGap: '18%',
			large: false,
			emphasis: { disabled: true }
		});
		const every = Math.max(1, Math.ceil(shown.length / Math.max(2, Math.floor(width / 105))));
		chart.setOption(
			{
				animation: false,
				grid: { left: 0, right: 0, top: 6, bottom: 16 },
				xAxis: {
					type: 'category',
					data: shown.map((b) => b.from),
					axisTick: { show: false },
					axisLine: { lineStyle: { color: color('--rule') } },
					axisLabel: {
						interval: (i: number) => i % every === Math.floor(every / 2),
						color: color('--soft'),
						fontFamily: '"Source Sans 3"',
						fontSize: 11,
						margin: 4,
						formatter: (v: string) => date(Number(v))
					}
				},
				yAxis: { type: 'value', show: false },
				toolbox: { show: false },
				brush: {
					xAxisIndex: 0,
					brushMode: 'single',
					brushStyle: { color: color('--verdigris-wash'), borderColor: color('--verdigris'), opacity: 0.5 },
					throttleType: 'debounce',
					throttleDelay: 80
				},
				series: [
					series('kept', color('--kept-bar')),
					series('binned', color('--ochre')),
					series('dropped', color('--plum')),
					series('remnant', color('--verdigris'))
				]
			},
			{ notMerge: true }
		);
		chart.dispatchAction({ type: 'takeGlobalCursor', key: 'brush', brushOption: { brushType: 'lineX', brushMode: 'single' } });
	});

	/** From here on, in percent, a flag's label stands to its left. */
	const LATE = 86;
	const zone = $derived(theCase.record?.zone ?? 'UTC');
	const inputDate = (ms: number | undefined): string =>
		ms === undefined ? '' : new Date(ms + offsetAt(ms, zone)).toISOString().slice(0, 10);
	const range = $derived(shown.length > 0 ? { from: shown[0]!.from * DAY, to: shown.at(-1)!.to * DAY - 1 } : null);

	/** Captures of the stores, where there are several, as flags; the deletion of the message in focus as a span. */
	const flags = $derived.by(() => {
		// Several stores of one backup have one flag: where nothing states when it was taken, the newest of them says it.
		const byName = new Map<string, number>();
		for (const { captures } of theCase.record?.families ?? [])
			for (const { name, time } of captures.length > 1 ? captures : [])
				if (time !== null) byName.set(name, Math.max(time, byName.get(name) ?? time));
		return [...byName].map(([name, time]) => ({ name, time }));
	});
	/** Where each flag stands, in percent, and how much room its label has before the next one's. */
	const placed = $derived.by(() => {
		const sorted = [...flags].sort((a, b) => a.time - b.time).map((f) => ({ name: f.name, x: at(f.time), late: at(f.time) > LATE }));
		return sorted.map((f, i) => {
			const beside = f.late ? sorted[i - 1] : sorted[i + 1];
			const gap = beside ? Math.abs(beside.x - f.x) : 100;
			// Two labels that run towards each other share the room between them.
			return { ...f, room: beside && beside.late !== f.late ? gap / 2 : gap };
		});
	});
	const focused = $derived(theLedger.messages.find((m) => m.id === theLedger.focus) ?? null);
	const deletion = $derived<[number, number] | null>(
		focused?.firstMissing !== undefined ? [focused.lastSeen ?? focused.sentAt ?? focused.firstMissing, focused.firstMissing] : null
	);
	/** The span of the loss, in percent. */
	const sent = $derived.by<[number, number] | null>(() => {
		const span = theProspects.stated ? theProspects.read?.spans.sent : null;
		return range && span && (span.from !== null || span.to !== null) ? [at(span.from ?? range.from), at(span.to ?? range.to)] : null;
	});
	const at = (ms: number): number => (range ? Math.max(0, Math.min(100, ((ms - range.from) / (range.to - range.from)) * 100)) : 0);

	function setSpan(which: 0 | 1, value: string): void {
		const day = Date.parse(`${value}T00:00:00Z`);
		const at = day - offsetAt(day, zone);
		if (!range) return;
		const [from, to] = theLedger.span ?? [range.from, range.to];
		if (Number.isNaN(at)) return;
		theLedger.span = which === 0 ? [at, Math.max(at, to)] : [Math.min(from, at), at + DAY - 1];
	}

	function clear(): void {
		theLedger.span = null;
		chart?.dispatchAction({ type: 'brush', areas: [] });
	}
</script>

<section class="ribbon" aria-label="Time ribbon">
	<div class="over">
		<div
			class="chart"
			bind:this={element}
			role="img"
			aria-label="{total} messages over time by standing{range
				? `, ${date(range.from / DAY)} to ${date(Math.floor(range.to / DAY))}`
				: ''}. Drag to narrow the ledger, or use the dates beside it."
		></div>
		{#if range}
			{#if sent}<span class="sent" style:left="{sent[0]}%" style:width="{sent[1] - sent[0]}%" title="The span asked for"></span>{/if}
			{#if deletion}<span
					class="deleted"
					style:left="{at(deletion[0])}%"
					style:width="{Math.max(1, at(deletion[1]) - at(deletion[0]))}%"
					title="The message in focus was deleted in here"
				></span>{/if}
			{#each placed as flag, i (i)}<span
					class="flag"
					class:late={flag.late}
					style:left="{flag.x}%"
					style:max-width="{flag.room}%"
					title={flag.name}><span>{flag.name}</span></span
				>{/each}
		{/if}
	</div>
	<div class="span">
		<label
			><span class="visually-hidden">From</span><input
				type="date"
				value={inputDate(theLedger.span?.[0] ?? range?.from)}
				onchange={(e) => setSpan(0, e.currentTarget.value)}
			/></label
		>
		<label
			><span class="visually-hidden">To</span><input
				type="date"
				value={inputDate(theLedger.span?.[1] ?? range?.to)}
				onchange={(e) => setSpan(1, e.currentTarget.value)}
			/></label
		>
		<button type="button" class="chip" disabled={!theLedger.span} onclick={clear}>Whole span</button>
	</div>
</section>

<style>
	.ribbon {
		display: flex;
		gap: 14px;
		align-items: stretch;
		padding: 5px 16px 3px;
		background: var(--sheet);
		border-bottom: 1px solid var(--rule);
		height: 76px;
	}
	.over {
		flex: 1;
		min-width: 0;
		position: relative;
		display: flex;
	}
	.chart {
		flex: 1;
		min-width: 0;
	}
	.sent {
		background: color-mix(in srgb, var(--verdigris) 12%, transparent);
		border-inline: 1px solid var(--verdigris);
	}
	.sent,
	.flag,
	.deleted {
		position: absolute;
		top: 0;
		bottom: 16px;
		pointer-events: none;
	}
	.flag {
		border-left: 1.5px solid var(--ink);
		font-size: 11px;
		line-height: 1;
		padding-left: 4px;
		white-space: nowrap;
		overflow: hidden;
		text-overflow: ellipsis;
	}
	.flag span {
		background: var(--sheet);
	}
	.flag.late {
		border-left: 0;
		border-right: 1.5px solid var(--ink);
		padding: 0 4px 0 0;
		transform: translateX(-100%);
	}
	.deleted {
		background: repeating-linear-gradient(135deg, transparent 0 6px, var(--ochre) 6px 7px);
		opacity: 0.5;
	}
	.span {
		display: grid;
		grid-template-columns: auto auto;
		gap: 4px;
		align-content: center;
	}
	.span input {
		font: 400 12px/1.2 var(--mono);
		color: var(--soft);
		background: transparent;
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 2px 4px;
		width: 116px;
	}
	.span .chip {
		grid-column: 1 / -1;
		padding: 2px 8px;
	}
	.span .chip:disabled {
		visibility: hidden;
	}
	@media (max-width: 820px) {
		.ribbon {
			height: auto;
			flex-direction: column;
			gap: 2px;
		}
		.over {
			flex: none;
			height: 52px;
		}
		.span {
			display: flex;
		}
		.span .chip:disabled {
			display: none;
		}
	}
</style>
