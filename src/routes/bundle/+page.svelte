<script lang="ts">
	import { onDestroy } from 'svelte';
	import type { BundleRecord } from '$core/bundle';
	import Pages from '$lib/bundle/Pages.svelte';
	import { gatherRecord } from '$lib/bundle/record';
	import { bundleFiles, fileName, saveAs, zipOf, type BundleFile } from '$lib/bundle/save';
	import KeysDialog from '$lib/shell/KeysDialog.svelte';
	import Tray from '$lib/shell/Tray.svelte';
	import { sizeWords } from '$lib/sources/bytes';
	import { theCase } from '$lib/state/case.svelte';

	let asPdf = $state(true);
	let asCsv = $state(true);
	let sightings = $state(true);
	let gaps = $state(true);
	let zone = $state<string | null>(null);
	let record = $state.raw<BundleRecord | null>(null);
	let pdf = $state.raw<Uint8Array<ArrayBuffer> | null>(null);
	let files = $state.raw<BundleFile[]>([]);
	let page = $state(1);
	let pages = $state(0);
	let setting = $state(false);
	let problem = $state<string | null>(null);
	let saved = $state<string | null>(null);
	let keys = $state(false);
	let generation = 0;
	const shownZone = $derived(zone ?? theCase.record?.zone ?? 'UTC');

	// The real pages are set anew when anything that they show changes.
	$effect(() => {
		const current = theCase.record;
		const { picks, threads } = theCase;
		const choices = { zone: shownZone, showSightings: sightings, showGaps: gaps };
		if (!current || Object.keys(picks.threads).length === 0) {
			record = null;
			pdf = null;
			return;
		}
		const mine = ++generation;
		setting = true;
		problem = null;
		saved = null;
		const timer = setTimeout(() => void set(mine, choices), 250);
		async function set(own: number, how: typeof choices): Promise<void> {
			try {
				const made = await gatherRecord(current!, threads, picks, how);
				const response = await fetch('/bundle/pages', {
					method: 'POST',
					headers: { 'Content-Type': 'application/json' },
					body: JSON.stringify(made)
				});
				if (own !== generation) return;
				if (!response.ok)
					throw new Error(((await response.json().catch(() => null)) as { message?: string } | null)?.message ?? 'no reason given');
				const bytes = new Uint8Array(await response.arrayBuffer());
				if (own !== generation) return;
				record = made;
				pages = Number(response.headers.get('X-Pages') ?? 0);
				pdf = bytes;
			} catch (e) {
				if (own === generation)
					problem = `The pages could not be set. ${e instanceof TypeError ? 'The server does not answer: start it again, then reload.' : (e as Error).message}`;
			} finally {
				if (own === generation) setting = false;
			}
		}
		return () => clearTimeout(timer);
	});
	$effect(() => {
		const made = record;
		const bytes = pdf;
		if (!made || !bytes) {
			files = [];
			return;
		}
		void bundleFiles(made, asPdf ? bytes : null, pages, asCsv).then((f) => {
			if (made === record) files = f;
		});
	});
	onDestroy(() => generation++);

	const messages = $derived(record?.threads.flatMap((t) => t.messages) ?? []);
	const leftOut = $derived(record?.threads.reduce((n, t) => n + t.total - t.messages.filter((m) => !m.earlierWordingOf).length, 0) ?? 0);
	const checks = $derived(
		record
			? [
					{
						good: messages.every((m) => m.sentAt !== null),
						what: messages.every((m) => m.sentAt !== null) ? 'Every message has its date and time' : 'Messages whose time is not known',
						count: messages.filter((m) => (m.sentAt === null) !== messages.every((x) => x.sentAt !== null)).length
					},
					{ good: messages.every((m) => m.sightings.length > 0), what: 'Every message says where it was seen', count: messages.length },
					{
						good: record.sources.every((s) => s.sha256),
						what: record.sources.every((s) => s.sha256)
							? 'Every source has its SHA-256'
							: 'The SHA-256 of a source is still being computed',
						count: record.sources.length
					},
					{ good: true, what: 'What was left out is stated', count: leftOut },
					...(messages.some((m) => m.grade === 'fragment')
						? [
								{
									good: false,
									what: 'Fragments: only part of the message is left',
									count: messages.filter((m) => m.grade === 'fragment').length
								}
							]
						: []),
					...(messages.some((m) => m.direction === null)
						? [
								{
									good: false,
									what: 'Messages of which the direction is not known',
									count: messages.filter((m) => m.direction === null).length
								}
							]
						: [])
				]
			: []
	);

	async function save(): Promise<void> {
		if (!record || files.length === 0) return;
		const name = fileName(record.caseName);
		saveAs(await zipOf(files, name), `${name}.zip`);
		saved = `${name}.zip`;
	}
	function turn(step: number): void {
		page = Math.min(Math.max(1, page + step), Math.max(1, pages));
	}
	function key(event: KeyboardEvent): void {
		if ((event.target as HTMLElement).matches('input, select, textarea') || event.ctrlKey || event.metaKey || event.altKey) return;
		if (event.key === '[') turn(-1);
		else if (event.key === ']') turn(1);
		else if (event.key === '?') keys = true;
		else return;
		event.preventDefault();
	}
</script>

<svelte:window onkeydown={key} />

{#if theCase.pickedThreads.length === 0}
	<main class="empty">
		<div>
			<h1>Nothing is picked</h1>
			<p>
				Pick threads or single messages first: <kbd>x</kbd> picks the message in focus, <kbd>X</kbd> its whole thread. They are shown here as
				pages before anything is saved.
			</p>
			<a class="button main" href={theCase.threads.length > 0 ? '/threads' : '/sources'}
				>{theCase.threads.length > 0 ? 'Go to the threads' : 'Give a source'}</a
			>
		</div>
	</main>
{:else}
	<main>
		<section class="side" aria-label="What goes in">
			<h1>What goes in</h1>
			<ul class="rows">
				{#each theCase.threads.filter((t) => theCase.picks.threads[t.id]) as thread (thread.id)}
					{@const pick = theCase.picks.threads[thread.id]}
					<li><bdi>{thread.title}</bdi><strong>{pick === 'all' ? `all ${thread.count}` : `${pick?.length} of ${thread.count}`}</strong></li>
				{/each}
			</ul>
			<h2>As</h2>
			<div class="chips" role="group" aria-label="Formats">
				<button type="button" class="chip" aria-pressed={asPdf} onclick={() => (asPdf = !asPdf)}>PDF</button>
				<button type="button" class="chip" aria-pressed={asCsv} onclick={() => (asCsv = !asCsv)}>CSV</button>
			</div>
			<h2>How it reads</h2>
			<ul class="rows">
				<li>
					<label for="zone">Times in</label><select id="zone" value={shownZone} onchange={(e) => (zone = e.currentTarget.value)}
						>{#each [...new Set([theCase.record?.zone ?? 'UTC', 'UTC', ...Intl.supportedValuesOf('timeZone')])] as z (z)}<option>{z}</option
							>{/each}</select
					>
				</li>
				<li><span>Date on every message</span><strong>always</strong></li>
				<li><label for="seen">Where each was seen</label><input id="seen" type="checkbox" bind:checked={sightings} /></li>
				<li><label for="gaps">Gaps</label><input id="gaps" type="checkbox" bind:checked={gaps} /></li>
			</ul>
		</section>
		<!-- svelte-ignore a11y_no_noninteractive_tabindex -- it scrolls -->
		<section class="pages" aria-label="Pages" aria-busy={setting} tabindex="0">
			{#if problem}<p class="problem" role="alert">{problem}</p>{/if}
			{#if pdf}<Pages {pdf} bind:page bind:pages />{:else if !problem}<p class="soft">The pages are being set.</p>{/if}
		</section>
		<section class="side" aria-label="Before it leaves">
			<h1>Before it leaves</h1>
			<ul class="rows">
				{#each checks as check (check.what)}
					<li class:warn={!check.good}>
						<span><span aria-hidden="true" class="sign">{check.good ? '✓' : '!'}</span> {check.what}</span><span class="mono soft"
							>{check.count}</span
						>
					</li>
				{/each}
			</ul>
			<h2>Files</h2>
			<ul class="rows">
				{#each files as file (file.name)}
					<li><span>{file.name}</span><span class="mono soft">{file.note} · {sizeWords(file.bytes.length)}</span></li>
				{/each}
			</ul>
			<p class="soft small">Anyone can check the sums with an ordinary command. Nothing has been sent anywhere.</p>
			{#if saved}<p role="status">Saved as <span class="mono">{saved}</span> where this browser keeps its downloads.</p>{/if}
		</section>
	</main>
{/if}
<Tray>
	{#if pdf}<span><strong>Page {page} of {pages}</strong></span>
		<span class="turn"
			><button type="button" onclick={() => turn(-1)} disabled={page <= 1} aria-label="Page before"><kbd>[</kbd></button><button
				type="button"
				onclick={() => turn(1)}
				disabled={page >= pages}
				aria-label="Next page"><kbd>]</kbd></button
			> page</span
		>
		{#if setting}<span>being set anew</span>{/if}
	{:else}<span>{theCase.pickedMessages} {theCase.pickedMessages === 1 ? 'message' : 'messages'} picked</span>{/if}
	{#snippet action()}<button type="button" class="button main" disabled={setting || files.length < 3} onclick={save}>Save the bundle</button
		>{/snippet}
</Tray>
<KeysDialog bind:open={keys} />

<style>
	main {
		flex: 1;
		min-height: 0;
		display: grid;
		grid-template-columns: 290px minmax(0, 1fr) 310px;
	}
	.side {
		padding: 18px 20px;
		overflow-y: auto;
		min-height: 0;
	}
	.side:first-child {
		border-right: 1px solid var(--rule);
	}
	.side:last-child {
		border-left: 1px solid var(--rule);
	}
	.pages {
		background: var(--shade);
		overflow-y: auto;
		padding: 20px;
		min-height: 0;
	}
	h1 {
		font-size: 18px;
		margin-bottom: 6px;
	}
	h2 {
		font-size: 15px;
		margin: 20px 0 6px;
	}
	.rows {
		list-style: none;
		margin: 0;
		padding: 0;
		border-top: 1px solid var(--rule);
	}
	.rows li {
		display: flex;
		justify-content: space-between;
		gap: 12px;
		padding: 7px 0;
		border-bottom: 1px solid var(--rule);
		align-items: baseline;
	}
	.rows strong,
	.rows .mono {
		white-space: nowrap;
		font-size: 13px;
	}
	select {
		font: inherit;
		max-width: 150px;
		background: var(--sheet);
		color: var(--ink);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 2px 4px;
	}
	input[type='checkbox'] {
		width: 18px;
		height: 18px;
	}
	.chips {
		display: flex;
		gap: 6px;
	}
	.sign {
		display: inline-block;
		width: 14px;
	}
	.warn .sign {
		color: var(--ochre-text);
		font-weight: 600;
	}
	.small {
		font-size: 13px;
		margin-top: 16px;
	}
	.problem {
		background: var(--ochre-wash);
		padding: 10px 14px;
	}
	.empty {
		display: grid;
		grid-template-columns: minmax(0, 520px);
		justify-content: center;
		align-content: center;
	}
	.empty div {
		display: grid;
		gap: 12px;
		justify-items: start;
		padding: 20px;
	}
	.turn button {
		background: none;
		border: 0;
		color: inherit;
		cursor: pointer;
		padding: 4px;
	}
	.turn button:disabled {
		opacity: 0.4;
	}
	@media (max-width: 820px) {
		main:not(.empty) {
			display: block;
			overflow-y: auto;
		}
		.side:first-child {
			border-right: 0;
		}
		.side:last-child {
			border-left: 0;
		}
		.pages {
			overflow: visible;
			padding: 12px;
		}
	}
</style>
