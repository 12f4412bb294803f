<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { Dialog } from '@skeletonlabs/skeleton-svelte';
	import Sheet from '$lib/ui/Sheet.svelte';
	import Tray from '$lib/shell/Tray.svelte';
	import { sizeWords } from '$lib/sources/bytes';
	import { theCase } from '$lib/state/case.svelte';
	import { packCase, unpackCase } from '$lib/state/casefile';
	import { shortDay, timeOfDay } from '$lib/state/zone';
	import { fileName } from '$lib/bundle/save';
	import { saveBlob } from '$lib/ui/save';
	import { allCases, deleteCase, type CaseRecord } from '$store';

	let cases = $state.raw<CaseRecord[]>([]);
	let storage = $state.raw<{ used: number; free: number; lasting: boolean } | null>(null);
	let problem = $state('');
	let remarks = $state.raw<string[]>([]);
	let deleting = $state.raw<CaseRecord | null>(null);
	let busy = $state(false);
	let withOriginals = $state(false);
	let name = $state('');

	async function refresh(): Promise<void> {
		cases = await allCases();
		const estimate = await navigator.storage?.estimate?.();
		if (estimate)
			storage = {
				used: estimate.usage ?? 0,
				free: Math.max(0, (estimate.quota ?? 0) - (estimate.usage ?? 0)),
				lasting: (await navigator.storage.persisted?.()) ?? false
			};
	}
	onMount(refresh);

	async function begin(): Promise<void> {
		// Asked for once there is something to keep.
		void navigator.storage?.persist?.();
		await theCase.create({ name: name.trim().slice(0, 120) || 'Untitled case' });
		await goto('/intake');
	}
	async function open(id: string): Promise<void> {
		await theCase.switchTo(id);
		await goto('/intake');
	}
	async function save(record: CaseRecord): Promise<void> {
		busy = true;
		problem = '';
		try {
			saveBlob(await packCase(record, withOriginals), `${fileName(record.name)}.case.zip`);
			if (record.id === theCase.record?.id)
				await theCase.log({ step: 'case', says: `The case was saved as a file${withOriginals ? ', the originals inside' : ''}.` });
		} catch {
			problem = 'The case could not be packed: there was not enough memory or storage. Try it without the originals.';
		}
		busy = false;
	}
	async function take(file: File | undefined): Promise<void> {
		if (!file) return;
		busy = true;
		const result = await unpackCase(file).catch(() => ({
			ok: false as const,
			problem: 'The browser has no space left for this case. What fitted was not kept as a case; free some space and open it again.'
		}));
		busy = false;
		if (!result.ok) {
			problem = result.problem;
			return;
		}
		problem = '';
		remarks = result.remarks;
		await theCase.switchTo(result.id);
		await theCase.log({ step: 'case', says: `The case was opened from the file ${file.name}.`, source: file.name });
		await refresh();
		if (remarks.length === 0) await goto('/intake');
	}
	async function remove(record: CaseRecord): Promise<void> {
		deleting = null;
		await deleteCase(record.id);
		if (theCase.record?.id === record.id) {
			theCase.record = null;
			await theCase.open();
		}
		await refresh();
	}
</script>

<main>
	<div class="page">
		<h1>Cases</h1>
		<form
			onsubmit={(e) => {
				e.preventDefault();
				void begin();
			}}
		>
			<label>Begin a new case <input bind:value={name} placeholder="its name" maxlength="120" /></label>
			<button type="submit" class="button main">Begin</button>
			<label class="button file"
				>Open a case file<input type="file" accept=".zip" onchange={(e) => take(e.currentTarget.files?.[0])} /></label
			>
		</form>
		{#if problem}<p class="problem" role="alert">{problem}</p>{/if}
		{#if remarks.length > 0}<div class="problem" role="status">
				<p>The case is open, but not all of the file could be read:</p>
				<ul>
					{#each remarks as r, i (i)}<li>{r}</li>{/each}
				</ul>
			</div>{/if}
		<table class="ruled">
			<thead
				><tr><th>Case</th><th>Begun</th><th class="number">Sources</th><th>State</th><th><span class="visually-hidden">Acts</span></th></tr
				></thead
			>
			<tbody>
				{#each cases as c (c.id)}
					<tr aria-current={c.id === theCase.record?.id ? 'true' : undefined}>
						<td><button type="button" class="open" onclick={() => open(c.id)}>{c.name}</button></td>
						<td class="soft">{shortDay(c.createdAt, c.zone)} {timeOfDay(c.createdAt, c.zone)}</td>
						<td class="number mono">{c.files.length}</td>
						<td class="soft"
							>{c.files.length === 0
								? 'nothing given yet'
								: c.state === 'done'
									? 'looked at'
									: c.state === 'looking'
										? 'look cut short'
										: c.state === 'stopped'
											? 'look stopped'
											: 'look failed'}</td
						>
						<td class="acts">
							<button type="button" class="button" disabled={busy} onclick={() => save(c)}>Save as a file</button>
							<button type="button" class="button" onclick={() => (deleting = c)}>Delete</button>
						</td>
					</tr>
				{/each}
			</tbody>
		</table>
		{#if cases.length === 0}<p class="soft">No case is kept in this browser.</p>{/if}
		<label class="soft"
			><input type="checkbox" bind:checked={withOriginals} /> With the originals inside, where the browser has kept copies of them</label
		>
		{#if storage}<p class="soft">
				Cases are kept in this browser only: {sizeWords(storage.used)} used, {sizeWords(storage.free)} free. {storage.lasting
					? 'The browser was asked not to clear them, and agreed.'
					: 'The browser may clear them when space runs short; save a case as a file to be sure.'}
			</p>{/if}
	</div>
</main>
<Tray>
	<span>{theCase.record ? `Open: ${theCase.record.name}` : 'No case is open.'}</span>
	{#snippet action()}{#if theCase.record}<a class="button main" href="/intake">Go on with it</a>{/if}{/snippet}
</Tray>

<Sheet open={deleting !== null} title="Delete this case?" onclose={() => (deleting = null)}>
	<p>
		The findings, picks, places and log of <em>{deleting?.name}</em> leave this browser and cannot be brought back, unless it was saved as a file.
		The sources themselves are not touched.
	</p>
	<div class="choice">
		<button type="button" class="button main" onclick={() => deleting && remove(deleting)}>Delete it</button>
		<Dialog.CloseTrigger class="button">Keep it</Dialog.CloseTrigger>
	</div>
</Sheet>

<style>
	main {
		flex: 1;
		overflow-y: auto;
		min-height: 0;
	}
	.page {
		max-width: 980px;
		margin: 0 auto;
		padding: 22px 20px 40px;
		display: grid;
		gap: 16px;
	}
	h1 {
		font-size: 24px;
	}
	p {
		margin: 0;
	}
	form {
		display: flex;
		flex-wrap: wrap;
		gap: 10px;
		align-items: center;
	}
	form label:first-child {
		display: flex;
		gap: 10px;
		align-items: center;
	}
	form input:not([type='file']) {
		font: inherit;
		color: var(--ink);
		background: var(--sheet);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 6px 9px;
		min-width: 220px;
	}
	.problem {
		background: var(--ochre-wash);
		padding: 8px 14px;
	}
	table {
		--cell: 7px 12px 7px 0;
	}
	tr[aria-current='true'] td:first-child {
		box-shadow: inset 3px 0 var(--verdigris);
	}
	td:first-child {
		padding-left: 10px;
		overflow-wrap: anywhere;
	}
	.open {
		font: 600 17px/1.3 var(--serif);
		color: var(--ink);
		background: none;
		border: 0;
		padding: 0;
		text-align: start;
		cursor: pointer;
		text-decoration: underline;
		text-decoration-color: var(--rule);
		text-underline-offset: 3px;
	}
	.acts {
		text-align: end;
		white-space: nowrap;
	}
	.acts .button {
		padding: 5px 10px;
	}
	@media (max-width: 820px) {
		th:nth-child(2),
		td:nth-child(2),
		th:nth-child(4),
		td:nth-child(4) {
			display: none;
		}
		.acts {
			white-space: normal;
		}
	}
</style>
