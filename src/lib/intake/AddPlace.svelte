<script lang="ts">
	import { readCatalogue } from '$core/prospects';
	import { theCase } from '$lib/state/case.svelte';
	import { theProspects } from '$lib/state/prospects.svelte';

	let { onadded }: { onadded: (id: string) => void } = $props();
	let kind = $state('computer-backup');
	let problems = $state.raw<string[]>([]);

	async function add(): Promise<void> {
		const id = crypto.randomUUID();
		const found = theProspects.kinds.find((k) => k.id === kind)!;
		await theCase.change((c) =>
			c.places.push({ id, kind, name: found.name, note: '', taken: '', span: null, source: null, offer: null, capture: null, tried: null })
		);
		await theCase.log({ step: 'place', says: `${found.name} was put on the list.` });
		onadded(id);
	}
	async function take(file: File | undefined): Promise<void> {
		if (!file) return;
		if (file.size > 4 << 20) {
			problems = ['The catalogue is larger than 4 MB. Nothing was taken from it.'];
			return;
		}
		const read = readCatalogue(await file.text());
		problems = read.problems;
		if (read.kinds.length === 0) return;
		await theCase.change((c) => {
			const ids = new Set(read.kinds.map((k) => k.id));
			c.ownKinds = [...c.ownKinds.filter((k) => !ids.has(k.id)), ...read.kinds];
		});
		await theCase.log({ step: 'catalogue', says: `${read.kinds.length} kinds of places were taken from ${file.name}.`, source: file.name });
	}
</script>

<form
	onsubmit={(e) => {
		e.preventDefault();
		void add();
	}}
>
	<label
		>Another place <select bind:value={kind}
			>{#each theProspects.kinds as k (k.id)}<option value={k.id}>{k.name}</option>{/each}</select
		></label
	>
	<button type="submit" class="button">Put on the list</button>
	{#if (theCase.record?.placeOrder.length ?? 0) > 0}<button
			type="button"
			class="button"
			onclick={() => theCase.change((c) => (c.placeOrder = []))}>Rank again</button
		>{/if}
	<label class="file button"
		>Catalogue from a file<input type="file" accept=".json,application/json" onchange={(e) => take(e.currentTarget.files?.[0])} /></label
	>
	<div role="status">
		{#each problems as p, i (i)}<p>{p}</p>{/each}
	</div>
</form>

<style>
	form {
		display: flex;
		flex-wrap: wrap;
		gap: 8px 14px;
		align-items: center;
		padding: 14px 0;
	}
	label {
		display: flex;
		gap: 8px;
		align-items: center;
	}
	select {
		font: inherit;
		color: var(--ink);
		background: var(--sheet);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 6px 8px;
		max-width: 320px;
	}
	div {
		flex: 1 1 100%;
	}
	p {
		margin: 4px 0 0;
		background: var(--ochre-wash);
		padding: 3px 10px;
	}
</style>
