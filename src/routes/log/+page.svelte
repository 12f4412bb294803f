<script lang="ts">
	import { firstBroken, logAsText, type LogEntry } from '$core/log';
	import { fileName } from '$lib/bundle/save';
	import Tray from '$lib/shell/Tray.svelte';
	import { theCase } from '$lib/state/case.svelte';
	import { shortDay, timeWithSeconds } from '$lib/state/zone';
	import { saveBlob } from '$lib/ui/save';
	import { logOf } from '$store';

	let entries = $state.raw<LogEntry[]>([]);
	let words = $state('');
	let step = $state('');
	let who = $state(theCase.who);
	$effect(() => {
		const record = theCase.record;
		if (record) void logOf(record.id).then((log) => (entries = log));
	});
	const broken = $derived(firstBroken(entries));
	const steps = $derived([...new Set(entries.map((e) => e.step))].sort());
	const shown = $derived(
		entries.filter(
			(e) =>
				(step === '' || e.step === step) &&
				(words === '' || `${e.says} ${e.source ?? ''} ${e.result ?? ''} ${e.who}`.toLocaleLowerCase().includes(words.toLocaleLowerCase()))
		)
	);
	const zone = $derived(theCase.record?.zone ?? 'UTC');
	const name = $derived(fileName(theCase.record?.name ?? 'case'));
</script>

<main>
	<div class="page">
		<h1>Log</h1>
		{#if entries.length > 0}
			<p class={broken === null ? 'soft' : 'problem'} role="status">
				{broken === null
					? `${entries.length} entries. Each holds the hash of the one before; the chain holds.`
					: `The chain breaks at entry ${broken}: something was changed, taken out or put in after it was written.`}
			</p>
		{/if}
		<form onsubmit={(e) => e.preventDefault()}>
			<label>Only with <input type="search" bind:value={words} placeholder="words" /></label>
			<label
				>Only steps <select bind:value={step}
					><option value="">of every kind</option>{#each steps as s (s)}<option>{s}</option>{/each}</select
				></label
			>
			<label>Who works here <input bind:value={who} onchange={() => (theCase.who = who)} /></label>
			<button
				type="button"
				class="button"
				onclick={() => saveBlob(new Blob([logAsText(entries, theCase.record?.name ?? '')], { type: 'text/plain' }), `${name}-log.txt`)}
				>Save as text</button
			>
			<button
				type="button"
				class="button"
				onclick={() => saveBlob(new Blob([JSON.stringify(entries, null, '\t')], { type: 'application/json' }), `${name}-log.json`)}
				>Save as JSON</button
			>
		</form>
		<ol>
			{#each shown as e (e.n)}
				<li>
					<span class="mono n">{e.n}</span>
					<span class="mono when"
						>{shortDay(e.at, zone)}
						{timeWithSeconds(e.at, zone)}<br /><span class="soft">{new Date(e.at).toISOString().slice(0, 19)}Z</span></span
					>
					<span class="what">
						{e.says}
						{#if e.result}<span class="soft">{e.result}</span>{/if}
						{#if e.sha256}<span class="mono hash">{e.sha256}</span>{/if}
						<span class="soft small"
							>{e.who}{#if e.reach}{' '}· reach: {e.reach}{/if} · <span class="mono">{e.hash.slice(0, 12)}</span></span
						>
					</span>
				</li>
			{/each}
		</ol>
		{#if entries.length === 0}<p class="soft">Nothing was done in this case yet.</p>{/if}
	</div>
</main>
<Tray><span>Every step is written down here with its time, in UTC and local.</span></Tray>

<style>
	main {
		flex: 1;
		overflow-y: auto;
		min-height: 0;
	}
	.page {
		max-width: 940px;
		margin: 0 auto;
		padding: 22px 20px 40px;
		display: grid;
		gap: 14px;
	}
	h1 {
		font-size: 24px;
	}
	p {
		margin: 0;
	}
	.problem {
		background: var(--ochre-wash);
		padding: 8px 14px;
	}
	form {
		display: flex;
		flex-wrap: wrap;
		gap: 8px 16px;
		align-items: center;
	}
	label {
		display: flex;
		gap: 8px;
		align-items: center;
	}
	input,
	select {
		font: inherit;
		color: var(--ink);
		background: var(--sheet);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 5px 8px;
		max-width: 180px;
	}
	ol {
		list-style: none;
		margin: 0;
		padding: 0;
		border-top: 1px solid var(--rule);
	}
	li {
		display: grid;
		grid-template-columns: 36px 190px minmax(0, 1fr);
		gap: 12px;
		padding: 8px 0;
		border-bottom: 1px solid var(--rule);
		font-size: 14px;
	}
	.n,
	.when {
		font-size: 12px;
		line-height: 1.5;
	}
	.what {
		display: grid;
		gap: 2px;
		overflow-wrap: anywhere;
	}
	.hash {
		font-size: 11.5px;
	}
	.small {
		font-size: 12.5px;
	}
	@media (max-width: 820px) {
		li {
			grid-template-columns: 28px 1fr;
		}
		.when {
			grid-column: 2;
		}
		.what {
			grid-column: 2;
		}
	}
</style>
