<script lang="ts">
	import { HOW_LOST, KINDS_WANTED, type Loss } from '$core/prospects';
	import { theCase } from '$lib/state/case.svelte';
	import { theProspects } from '$lib/state/prospects.svelte';

	const loss = $derived(theCase.record!.loss);
	const problems = $derived(theProspects.read?.problems ?? []);
	const wrong = (field: string): boolean | undefined => problems.some((p) => p.field === field) || undefined;
	let kindProblem = $state('');

	async function set(change: Partial<Loss>, what: string): Promise<void> {
		await theCase.change((c) => {
			Object.assign(c.loss, change);
			if (change.owner) c.owner = change.owner;
		});
		await theCase.log({ step: 'loss', says: `The loss was changed: ${what}.` });
	}
	const list = (text: string): string[] =>
		text
			.split(/,|;|\band\b|\bor\b/)
			.map((t) => t.trim())
			.filter(Boolean)
			.slice(0, 40);
	function setKinds(text: string): void {
		const parts = list(text);
		const known = KINDS_WANTED.filter((k) => parts.some((p) => k.startsWith(p.toLowerCase())));
		const not = parts.filter((p) => !KINDS_WANTED.some((k) => k.startsWith(p.toLowerCase())));
		kindProblem = not.length > 0 ? `“${not[0]}” is not among: ${KINDS_WANTED.join(', ')}.` : '';
		void set({ kinds: known }, `wanted are ${known.join(', ') || 'all kinds'}`);
	}
</script>

<form aria-label="What is missing" onsubmit={(e) => e.preventDefault()}>
	<p>
		Messages between
		<span class="part"
			><input
				aria-label="Owner of the device"
				placeholder="the owner"
				value={loss.owner}
				onchange={(e) => set({ owner: e.currentTarget.value.trim().slice(0, 200) }, `owner ${e.currentTarget.value}`)}
			/>,</span
		>
		who owns the device, and
		<span class="part"
			><input
				aria-label="With whom: names or numbers, separated by commas"
				placeholder="anybody"
				value={loss.partners.join(', ')}
				list="partners"
				onchange={(e) => set({ partners: list(e.currentTarget.value) }, `with ${e.currentTarget.value}`)}
			/>,</span
		>
		sent
		<span class="part"
			><input
				aria-label="When they were sent"
				placeholder="at any time"
				aria-invalid={wrong('sent')}
				aria-describedby="loss-problems"
				value={loss.sent}
				onchange={(e) => set({ sent: e.currentTarget.value.trim() }, `sent ${e.currentTarget.value}`)}
			/>.</span
		>
		They were last seen on
		<input
			aria-label="When they were last seen"
			placeholder="a day not known"
			aria-invalid={wrong('lastSeen')}
			aria-describedby="loss-problems"
			value={loss.lastSeen}
			onchange={(e) => set({ lastSeen: e.currentTarget.value.trim() }, `last seen ${e.currentTarget.value}`)}
		/>
		and noticed missing on
		<span class="part"
			><input
				aria-label="When they were noticed missing"
				placeholder="a day not known"
				aria-invalid={wrong('noticed')}
				aria-describedby="loss-problems"
				value={loss.noticed}
				onchange={(e) => set({ noticed: e.currentTarget.value.trim() }, `noticed missing ${e.currentTarget.value}`)}
			/>.</span
		>
		How they went:
		<span class="part"
			><select
				aria-label="How they were lost"
				value={loss.how}
				onchange={(e) => set({ how: e.currentTarget.value as Loss['how'] }, `lost ${e.currentTarget.value}`)}
			>
				{#each HOW_LOST as how (how)}<option>{how}</option>{/each}
			</select>.</span
		>
		Wanted are
		<span class="part"
			><input
				aria-label="Kinds wanted, separated by commas: {KINDS_WANTED.join(', ')}"
				placeholder="all kinds"
				aria-invalid={kindProblem ? true : undefined}
				aria-describedby="loss-problems"
				value={loss.kinds.join(', ')}
				onchange={(e) => setKinds(e.currentTarget.value)}
			/>;</span
		>
		they may speak of
		<span class="part"
			><input
				aria-label="Words they may contain, separated by commas"
				placeholder="anything"
				value={loss.words.join(', ')}
				onchange={(e) => set({ words: list(e.currentTarget.value) }, `words ${e.currentTarget.value}`)}
			/>.</span
		>
	</p>
	<datalist id="partners"
		>{#each theCase.threads.slice(0, 200) as t (t.id)}<option value={t.title}></option>{/each}</datalist
	>
	<div id="loss-problems" role="status">
		{#each problems as p, i (i)}<p class="problem">{p.says}</p>{/each}
		{#if kindProblem}<p class="problem">{kindProblem}</p>{/if}
	</div>
</form>

<style>
	form > p {
		font: 400 19px/1.68 var(--serif);
		margin: 0;
	}
	input,
	select {
		font: inherit;
		line-height: 1.25;
		color: var(--ink);
		background: transparent;
		border: 0;
		border-bottom: 2px solid var(--verdigris);
		padding: 0 1px;
		margin: 0;
		field-sizing: content;
		min-width: 3ch;
		max-width: 100%;
		text-overflow: ellipsis;
	}
	input::placeholder {
		color: var(--ochre-text);
		opacity: 1;
	}
	input:placeholder-shown {
		border-bottom: 2px dotted var(--ochre);
	}
	select {
		appearance: none;
		cursor: pointer;
	}
	input[aria-invalid='true'] {
		border-bottom-color: var(--ochre);
		background: var(--ochre-wash);
	}
	input::-webkit-calendar-picker-indicator {
		display: none !important;
	}
	.part {
		white-space: nowrap;
	}
	.part input {
		max-width: calc(100% - 1ch);
	}
	.problem {
		margin: 6px 0 0;
		padding: 3px 8px;
		background: var(--ochre-wash);
		font-size: 14px;
	}
</style>
