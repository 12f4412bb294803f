<script lang="ts">
	import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
	import DropPlace from '$lib/sources/DropPlace.svelte';
	import LookProgress from '$lib/sources/LookProgress.svelte';
	import { sizeWords } from '$lib/sources/bytes';
	import Tray from '$lib/shell/Tray.svelte';
	import { theCase } from '$lib/state/case.svelte';
	import { theLook, type Given } from '$lib/state/look.svelte';

	const record = $derived(theCase.record);
	let waiting = $state.raw<Given[] | null>(null);

	const SPACES: Record<string, string> = {
		'rows in use': 'rows in use',
		log: 'log',
		journal: 'journal',
		'earlier pages': 'pages the log replaces',
		'freed cells': 'freed space on pages in use',
		'free pages': 'free pages',
		'unreached pages': 'pages nothing points to',
		'beyond the end': 'bytes beyond the end'
	};

	function given(files: Given[]): void {
		if (files.length === 0) return;
		if (record) waiting = files;
		else void start(files);
	}
	async function start(files: Given[]): Promise<void> {
		waiting = null;
		const first = files[0]!;
		await theLook.start(files, {
			name: first.path.includes('/') ? first.path.split('/')[0]! : first.file.name.replace(/-(wal|journal|shm)$/, '')
		});
	}
	const ended = $derived(
		record
			? {
					looking: 'A look was cut short. What it found is here.',
					stopped: 'The look was stopped. What it found is here.',
					done: 'The look is done.',
					failed: record.problem ?? 'The look ended early.'
				}[record.state]
			: ''
	);
</script>

<main>
	<div class="page">
		<h1>Sources</h1>
		<DropPlace ongiven={given} busy={theLook.running} />
		{#if theLook.running}<LookProgress />{/if}
		{#if theLook.problem}<p class="problem" role="alert">{theLook.problem}</p>{/if}
		{#if record}
			{#if !theLook.running}<p class="soft">
					{ended}{#if record.seconds > 0}{' '}It took {record.seconds < 10 ? record.seconds.toFixed(1) : Math.round(record.seconds)} s.{/if}
				</p>{/if}
			<section aria-labelledby="files">
				<h2 id="files">Files</h2>
				<table>
					<thead><tr><th>File</th><th class="number">Size</th><th>SHA-256</th></tr></thead>
					<tbody>
						{#each record.files as file (file.path)}
							<tr
								><td><bdi>{file.name}</bdi></td><td class="number mono">{sizeWords(file.size)}</td><td class="mono hash"
									>{file.sha256 ?? (file.size === 0 ? 'empty' : 'being computed')}</td
								></tr
							>
						{/each}
					</tbody>
				</table>
			</section>
			<section class="settings" aria-label="How it is shown">
				<label
					>Whose device it is <input
						value={record.owner}
						onchange={(e) => theCase.set({ owner: e.currentTarget.value.trim().slice(0, 120) || 'The owner' })}
					/></label
				>
				<label
					>Times shown in <select value={record.zone} onchange={(e) => theCase.set({ zone: e.currentTarget.value })}
						>{#each [...new Set([record.zone, 'UTC', ...Intl.supportedValuesOf('timeZone')])] as zone (zone)}<option>{zone}</option
							>{/each}</select
					></label
				>
			</section>
			{#each record.account as { store, lines } (store)}
				<section aria-label="Account of {store}">
					<h2>What was looked at in <bdi>{store}</bdi></h2>
					<table>
						<thead><tr><th>Kind of space</th><th class="number">Bytes</th><th class="number">Rows first seen there</th></tr></thead>
						<tbody>
							{#each lines as line (line.space)}
								<tr
									><td>{SPACES[line.space] ?? line.space}</td><td class="number mono">{line.bytes.toLocaleString('en-GB')}</td><td
										class="number mono">{line.rows.toLocaleString('en-GB')}</td
									></tr
								>
							{/each}
						</tbody>
					</table>
				</section>
			{/each}
			{#if record.notes.length > 0}
				<section aria-label="Remarks">
					<h2>Remarks</h2>
					<ul>
						{#each record.notes as note, i (i)}<li class={note.severity}>{note.text}</li>{/each}
					</ul>
				</section>
			{/if}
		{/if}
	</div>
</main>
<Tray>
	{#if theCase.threads.length > 0}<span><strong>{theCase.threads.length} threads · {theCase.lost} messages brought back</strong></span
		>{:else if record && !theLook.running}<span>No messages were found in these files. The remarks say what was looked at.</span
		>{:else}<span>Nothing is read until you give a file.</span>{/if}
	{#snippet action()}{#if theCase.threads.length > 0}<a class="button main" href="/threads">Read the threads</a>{/if}{/snippet}
</Tray>

<Dialog
	open={waiting !== null}
	onOpenChange={(e) => {
		if (!e.open) waiting = null;
	}}
>
	<Portal>
		<Dialog.Backdrop class="keys-backdrop" />
		<Dialog.Positioner class="keys-place">
			<Dialog.Content class="keys-sheet">
				<Dialog.Title class="keys-title">Start a new case?</Dialog.Title>
				<p>The findings and picks of <em>{record?.name}</em> leave this browser. The files themselves are not touched.</p>
				<div class="choice">
					<button type="button" class="button main" onclick={() => waiting && start(waiting)}>Start the new case</button>
					<Dialog.CloseTrigger class="button">Keep this one</Dialog.CloseTrigger>
				</div>
			</Dialog.Content>
		</Dialog.Positioner>
	</Portal>
</Dialog>

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
		gap: 18px;
	}
	h1 {
		font-size: 24px;
	}
	h2 {
		font-size: 17px;
		margin-bottom: 4px;
	}
	p {
		margin: 0;
	}
	.problem {
		background: var(--ochre-wash);
		padding: 10px 14px;
	}
	table {
		width: 100%;
		border-collapse: collapse;
	}
	th {
		text-align: start;
		font-weight: 400;
		color: var(--soft);
		font-size: 13px;
	}
	th,
	td {
		padding: 5px 12px 5px 0;
		border-bottom: 1px solid var(--rule);
		overflow-wrap: anywhere;
		vertical-align: baseline;
	}
	.number {
		text-align: end;
		white-space: nowrap;
	}
	.hash {
		font-size: 11.5px;
		color: var(--soft);
	}
	.settings {
		display: flex;
		gap: 12px 28px;
		flex-wrap: wrap;
	}
	.settings label {
		display: flex;
		gap: 10px;
		align-items: center;
	}
	.settings input,
	.settings select {
		font: inherit;
		color: var(--ink);
		background: var(--sheet);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 4px 8px;
		max-width: 240px;
	}
	ul {
		margin: 0;
		padding: 0;
		list-style: none;
	}
	li {
		padding: 5px 0 5px 12px;
		border-left: 2px solid var(--rule);
		margin-bottom: 4px;
	}
	li.warning {
		border-left-color: var(--ochre);
	}
	.choice {
		display: flex;
		gap: 10px;
		margin-top: 14px;
	}
</style>
