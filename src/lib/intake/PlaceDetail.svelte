<script lang="ts">
	import { isUnder } from '$core/paths';
	import { placeProblem, type Place, type Ranked } from '$core/prospects';
	import Locked from '$lib/sources/Locked.svelte';
	import { offeredFile } from '$lib/state/demo';
	import { theCase } from '$lib/state/case.svelte';
	import { theLook } from '$lib/state/look.svelte';
	import { theProspects } from '$lib/state/prospects.svelte';

	let { ranked, onclosed }: { ranked: Ranked; onclosed: () => void } = $props();
	const { place, kind, verdict } = $derived(ranked);
	const problem = $derived(placeProblem(place, theCase.today, theCase.record?.zone ?? 'UTC'));
	let result = $state('');
	const isLocked = $derived((theCase.record?.locked ?? []).some((path) => place.source !== null && isUnder(path, place.source)));

	async function change(what: string, act: (p: Place) => void): Promise<void> {
		await theCase.change((c) => {
			for (const p of c.places) if (p.id === place.id) act(p);
		});
		await theCase.log({ step: 'place', says: `${place.name || kind.name}: ${what}.` });
	}
	const SAYS = { name: 'named', taken: 'taken on', note: 'described as' } as const;
	function set(field: keyof typeof SAYS, value: string): Promise<void> {
		const text = value.trim().slice(0, field === 'note' ? 1000 : 200);
		return change(`${SAYS[field]} ${text || 'nothing'}`, (p) => (p[field] = text));
	}
	const tried = (how: NonNullable<Place['tried']>['result'], what: string): Promise<void> =>
		change(what, (p) => (p.tried = { at: theCase.today, result: how, note: result.trim().slice(0, 1000), byLook: false }));
	async function remove(): Promise<void> {
		await theCase.change((c) => {
			c.places = c.places.filter((p) => p.id !== place.id);
			// Else the next look would put it on the list again.
			if (place.source !== null) c.offList.push(place.source);
		});
		await theCase.log({ step: 'place', says: `${place.name || kind.name} was taken off the list.` });
		onclosed();
	}
	async function move(step: -1 | 1): Promise<void> {
		const order = theProspects.ranked.map((r) => r.place.id);
		const at = order.indexOf(place.id);
		const to = at + step;
		if (to < 0 || to >= order.length) return;
		[order[at], order[to]] = [order[to]!, order[at]!];
		await theCase.change((c) => (c.placeOrder = order));
	}
	async function lookThere(): Promise<void> {
		const { offer, source } = place;
		if (source === null) await change('a look was begun', (p) => (p.source = offer));
		// What was given is looked at with all that was.
		if (source !== null) await theLook.look();
		else await theLook.add([await offeredFile(offer!)]);
		await theProspects.recount();
	}
</script>

<section aria-label="About {place.name || kind.name}">
	<header>
		<h3>{place.name || kind.name}</h3>
		<button type="button" class="button small" onclick={onclosed}>Close</button>
	</header>
	<p>{kind.can} <span class="soft">Here it {verdict.says}: {verdict.why}.</span></p>
	{#if kind.warning}<p class="warning">{kind.warning}</p>{/if}
	<ol>
		{#each kind.steps as step, i (i)}<li>{step}</li>{/each}
	</ol>
	<div class="fields">
		<label>Name <input value={place.name} onchange={(e) => set('name', e.currentTarget.value)} /></label>
		<label
			>Taken on <input
				value={place.taken}
				placeholder="not known"
				aria-invalid={problem ? true : undefined}
				aria-describedby="taken-problem"
				onchange={(e) => set('taken', e.currentTarget.value)}
			/></label
		>
		<label>Note <input value={place.note} onchange={(e) => set('note', e.currentTarget.value)} /></label>
	</div>
	<p id="taken-problem" class="problem" role="status">{problem ?? ''}</p>
	<div class="acts">
		{#if !place.tried && (place.source !== null ? !isLocked : place.offer !== null)}<button
				type="button"
				class="button main"
				disabled={theLook.running}
				onclick={lookThere}>Look there</button
			>{/if}
		{#if place.tried}
			<button type="button" class="button" onclick={() => change('open again', (p) => (p.tried = null))}>Mark as not tried</button>
		{:else}
			<label class="result">What came of it <input bind:value={result} placeholder="in your words" /></label>
			<button type="button" class="button" onclick={() => tried('nothing', 'looked, nothing there')}>Looked, nothing there</button>
			<button type="button" class="button" onclick={() => tried('found', 'looked, found some')}>Looked, found some</button>
			<button type="button" class="button" onclick={() => tried('not possible', 'not possible')}>Not possible</button>
		{/if}
		<button type="button" class="button" onclick={() => move(-1)}>Move up</button>
		<button type="button" class="button" onclick={() => move(1)}>Move down</button>
		<button type="button" class="button" onclick={remove}>Take off the list</button>
	</div>
	{#if place.source !== null}<Locked within={place.source} onunlocked={() => theProspects.recount()} />{/if}
	{#if place.tried?.note}<p class="soft">{place.tried.note}</p>{/if}
</section>

<style>
	section {
		border: 1px solid var(--rule);
		border-top: 0;
		background: var(--sheet);
		padding: 12px 16px 14px;
		display: grid;
		gap: 9px;
	}
	header {
		display: flex;
		justify-content: space-between;
		gap: 12px;
		align-items: baseline;
	}
	h3 {
		font-size: 17px;
	}
	p {
		margin: 0;
	}
	.warning,
	.problem:not(:empty) {
		background: var(--ochre-wash);
		padding: 4px 10px;
	}
	ol {
		margin: 0;
		padding-left: 20px;
		list-style: decimal;
	}
	.fields,
	.acts {
		display: flex;
		flex-wrap: wrap;
		gap: 8px 14px;
		align-items: end;
	}
	label {
		display: grid;
		gap: 2px;
		font-size: 13px;
		color: var(--soft);
	}
	input {
		font: 400 14px/1.3 var(--sans);
		color: var(--ink);
		background: var(--paper);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 5px 8px;
		min-width: 180px;
	}
	input[aria-invalid='true'] {
		border-color: var(--ochre);
	}
	.small {
		padding: 4px 10px;
	}
</style>
