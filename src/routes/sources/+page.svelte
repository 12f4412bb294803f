<script lang="ts">
	import { untrack } from 'svelte';
	import { Dialog } from '@skeletonlabs/skeleton-svelte';
	import Sheet from '$lib/ui/Sheet.svelte';
	import DropPlace from '$lib/sources/DropPlace.svelte';
	import Files from '$lib/sources/Files.svelte';
	import Locked from '$lib/sources/Locked.svelte';
	import WhatWasGiven from '$lib/sources/WhatWasGiven.svelte';
	import Survey from '$lib/sources/Survey.svelte';
	import LookProgress from '$lib/sources/LookProgress.svelte';
	import { sizeWords } from '$lib/sources/bytes';
	import Tray from '$lib/shell/Tray.svelte';
	import { NO_OWNER, theCase } from '$lib/state/case.svelte';
	import { theLook, type Given } from '$lib/state/look.svelte';
	import { parseVagueDate } from '$core/prospects';
	import { isUnder } from '$core/paths';
	import { REACH_WORDS } from '$core/wording';
	import { shortDay, timeOfDay } from '$lib/state/zone';
	import type { CaseRecord, PlainFamily } from '$store';

	type PlainCapture = PlainFamily['captures'][number];
	type Account = CaseRecord['account'][number];

	const record = $derived(theCase.record);
	const caseId = $derived(theCase.record?.id);
	let removing = $state.raw<{ name: string; paths: string[] } | null>(null);
	let takenProblem = $state.raw<{ path: string; says: string } | null>(null);

	const SPACES: Record<string, string> = {
		'rows in use': 'rows in use',
		log: 'log',
		journal: 'journal',
		'earlier pages': 'pages the log replaces',
		'freed cells': 'freed space on pages in use',
		'free pages': 'free pages',
		'unreached pages': 'pages nothing points to',
		'beyond the end': 'bytes beyond the end',
		'overflow left behind': 'pages of long texts left behind',
		'entries replaced': 'entries replaced or deleted since, and files in use no more',
		'exported entries': 'entries of exported files'
	};

	/** What was looked at, in words: of a log the days are files of their own. */
	const spaceOf = ({ space, files }: Account['lines'][number]): string =>
		files === undefined ? (SPACES[space] ?? space) : `entries of ${files} files: the days of one log`;

	async function given(files: Given[]): Promise<void> {
		if (files.length === 0) return;
		const first = files[0]!;
		if (!record)
			await theCase.create({
				name: first.path.includes('/') ? first.path.split('/')[0]! : first.file.name.replace(/-(wal|journal|shm)$/, '')
			});
		await theLook.add(files);
	}
	// Each time this page is come back to, and after each look, it is seen whether the originals are still what was given.
	$effect(() => {
		if (caseId && !theLook.running) untrack(() => void theLook.checkGiven());
	});
	/** Exports are read by whose device it is and by the zone: then they are read again. */
	async function setShown(change: { owner: string } | { zone: string }): Promise<void> {
		await theCase.set(change);
		await theLook.idle();
		if (record!.account.some((a) => a.lines.some((l) => l.space === 'exported entries'))) await theLook.look(record!.reached ?? 'raw');
	}
	const chosenWords = $derived.by(() => {
		const c = record?.choice;
		if (!c) return '';
		const parts: string[] = [];
		if (c.leftOut.length > 0) parts.push(`${c.leftOut.length} ${c.leftOut.length === 1 ? 'store is' : 'stores are'} left out`);
		if (c.from !== null || c.to !== null)
			parts.push(
				`only messages ${c.from === null ? '' : `from ${shortDay(c.from, record!.zone)}`}${c.to === null ? '' : ` to ${shortDay(c.to, record!.zone)}`} are kept`
			);
		if (!c.attachments) parts.push('files that messages state are not sought');
		if (c.reach !== 'raw') parts.push(`the look goes as far as ${REACH_WORDS[c.reach]}`);
		return parts.length > 0 ? `As chosen, ${parts.join('; ')}.` : '';
	});
	/** Files within containers that are in no source by themselves. */
	const elsewhere = $derived((record?.inside ?? []).filter((f) => !record!.sources.some((s) => isUnder(f.path, s.path))));
	const several = $derived((record?.families ?? []).filter((f) => f.captures.length > 1));
	const captures = $derived(several.filter((f) => f.messages));
	const otherCaptures = $derived(several.filter((f) => !f.messages));
	/** Stores without messages, by their place among the accounts; none where no store has any. */
	const quiet = $derived.by(() => {
		const families = record?.families ?? [];
		const silent = families.filter((f) => !f.messages);
		return new Set(silent.length < families.length ? silent.flatMap((f) => f.captures.map((c) => c.store)) : []);
	});
	const accounts = $derived((record?.account ?? []).filter((_, store) => !quiet.has(store)));
	const otherAccounts = $derived((record?.account ?? []).filter((_, store) => quiet.has(store)));
	const pathOf = ({ name, place }: PlainCapture): string => place || (record?.files.find((f) => f.name === name)?.path ?? name);
	/** What the store is called whose captures those are: its newest one's file. */
	function storeOf(list: readonly PlainCapture[]): string {
		const { store, place } = list.at(-1)!;
		const name = record?.account[store]?.store ?? '';
		return name.startsWith(`${place}/`) ? name.slice(place.length + 1) : name;
	}
	async function setTaken(capture: PlainCapture, text: string): Promise<void> {
		const { name } = capture;
		const path = pathOf(capture);
		const parsed = parseVagueDate(text, theCase.today, record!.zone);
		if (!parsed.ok) {
			takenProblem = { path, says: parsed.problem };
			return;
		}
		if (parsed.span.from !== null && parsed.span.from > theCase.today) {
			takenProblem = { path, says: 'It cannot have been taken after today.' };
			return;
		}
		takenProblem = null;
		await theCase.change((c) => {
			if (parsed.span.to === null) delete c.takenAt[path];
			else c.takenAt[path] = parsed.span.to;
		});
		await theCase.log({
			step: 'capture',
			says: text.trim() === '' ? `When ${name} was taken is not stated any more.` : `${name} is stated to be of ${text}.`,
			source: path
		});
		await theLook.look(record!.reached ?? 'raw');
	}
	const lookAtAll = (): void => void theLook.lookAt({ leftOut: [], from: null, to: null, attachments: true, reach: 'raw' });
	const ended = $derived(
		record
			? {
					looking: 'A look was cut short. What it found is here.',
					stopped:
						record.reached === null
							? 'It was stopped before all was opened. Nothing was looked at yet.'
							: 'The look was stopped. What it found is here.',
					done: 'The look is done.',
					failed: record.problem ?? 'The look ended early.'
				}[record.state]
			: ''
	);
</script>

<svelte:window onfocus={() => void theLook.checkGiven()} />

<main>
	<div class="page">
		<h1>Sources</h1>
		<DropPlace ongiven={given} busy={theLook.running} />
		{#if theLook.running}<LookProgress />{/if}
		{#if theLook.surveyed && !theLook.running}<Survey />{/if}
		{#if theLook.problem}<p class="problem" role="alert">{theLook.problem}</p>{/if}
		{#if record}
			{#if !theLook.running && ended !== theLook.problem && (record.reached !== null || ['failed', 'stopped'].includes(record.state))}<p
					class="soft"
				>
					{ended}{#if record.seconds > 0}{' '}It took {record.seconds < 10 ? record.seconds.toFixed(1) : Math.round(record.seconds)} s.{/if}
				</p>{/if}
			{#if record.sources.length > 0}<WhatWasGiven />{/if}
			<Locked />
			<Files
				files={record.files}
				altered={theLook.altered.filter((path) => record.files.some((f) => f.path === path))}
				disabled={theLook.running}
				onremove={(name, paths) => (removing = { name, paths })}
			/>
			{#if !theLook.surveyed && !theLook.running && record.files.length > 0}<p>
					<button type="button" class="button" onclick={() => theLook.survey()}>Survey, and choose what to look at</button>
					{#if record.reached === null}<button type="button" class="button" onclick={lookAtAll}>Look at all of it</button>{/if}
					{#if chosenWords}<span class="soft">{chosenWords}</span>{/if}
				</p>{/if}
			{#if elsewhere.length > 0}
				<section aria-label="Inside">
					<h2>What else lies inside</h2>
					<details>
						<summary>{elsewhere.length.toLocaleString('en-GB')} {elsewhere.length === 1 ? 'file' : 'files'}</summary>
						<ul class="tree mono">
							{#each elsewhere.slice(0, 2000) as f, i (i)}<li>
									<bdi>{f.path}</bdi> <span class="soft">{sizeWords(f.size)}</span>
								</li>{/each}
						</ul>
					</details>
				</section>
			{/if}
			<section class="settings" aria-label="How it is shown">
				<label
					>Whose device it is <input
						value={record.owner}
						onchange={(e) => setShown({ owner: e.currentTarget.value.trim().slice(0, 120) || NO_OWNER })}
					/></label
				>
				<label
					>Times shown in <select value={record.zone} onchange={(e) => setShown({ zone: e.currentTarget.value })}
						>{#each [...new Set([record.zone, 'UTC', ...Intl.supportedValuesOf('timeZone')])] as zone (zone)}<option>{zone}</option
							>{/each}</select
					></label
				>
			</section>
			{#each captures as family, i (i)}
				<section aria-label="Captures">
					<h2>
						Captures of one store{#if captures.length > 1}, <bdi class="mono">{storeOf(family.captures)}</bdi>{/if}, oldest first
					</h2>
					{@render copies(family)}
				</section>
			{/each}
			{#if otherCaptures.length > 0}
				<details>
					<summary>Captures of {otherCaptures.length === 1 ? 'one store' : `${otherCaptures.length} stores`} without messages</summary>
					{#each otherCaptures as family, i (i)}
						<section aria-label="Captures without messages">
							<h2><bdi class="mono">{storeOf(family.captures)}</bdi>, oldest first</h2>
							{@render copies(family)}
						</section>
					{/each}
				</details>
			{/if}
			{#snippet copies(family: PlainFamily)}
				<table class="ruled">
					<thead><tr><th>Copy</th><th>Taken</th><th>How that is known</th></tr></thead>
					<tbody>
						{#each family.captures as capture (capture.store)}
							<tr>
								<td><bdi>{capture.name}</bdi></td>
								<td
									><input
										aria-label="When {capture.name} was taken"
										placeholder={capture.time === null
											? 'not known'
											: `${shortDay(capture.time, record.zone)} ${timeOfDay(capture.time, record.zone)}`}
										value={capture.stated && capture.time !== null ? shortDay(capture.time, record.zone) : ''}
										disabled={theLook.running}
										aria-invalid={takenProblem?.path === pathOf(capture) ? true : undefined}
										onchange={(e) => setTaken(capture, e.currentTarget.value)}
									/>{#if takenProblem?.path === pathOf(capture)}<p class="problem" role="alert">{takenProblem.says}</p>{/if}</td
								>
								<td class="soft"
									>{capture.stated
										? record.takenAt[pathOf(capture)] === undefined
											? 'as the backup states'
											: 'as you state'
										: capture.time === null
											? 'nothing in it says'
											: family.messages
												? 'its newest message'
												: 'the newest message taken with it'}</td
								>
							</tr>
						{/each}
					</tbody>
				</table>
			{/snippet}
			{#each accounts as account, i (i)}{@render lookedAt(account)}{/each}
			{#if otherAccounts.length > 0}
				<details>
					<summary
						>What was looked at in {otherAccounts.length === 1 ? 'one store' : `${otherAccounts.length} stores`} without messages</summary
					>
					{#each otherAccounts as account, i (i)}{@render lookedAt(account)}{/each}
				</details>
			{/if}
			{#snippet lookedAt({ store, lines, seconds }: Account)}
				<section aria-label="Account of {store}">
					<h2>What was looked at in <bdi>{store}</bdi></h2>
					{#if seconds !== undefined}<p class="soft">It took {seconds < 10 ? seconds.toFixed(1) : Math.round(seconds)} s.</p>{/if}
					<table class="ruled">
						<thead><tr><th>Kind of space</th><th class="number">Bytes</th><th class="number">Rows first seen there</th></tr></thead>
						<tbody>
							{#each lines as line (line.space)}
								<tr
									><td>{spaceOf(line)}</td><td class="number mono">{line.bytes.toLocaleString('en-GB')}</td><td class="number mono"
										>{line.rows.toLocaleString('en-GB')}</td
									></tr
								>
							{/each}
						</tbody>
					</table>
				</section>
			{/snippet}
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
		>{:else if record && record.reached !== null && !theLook.running}<span
			>No messages were found in these files. The remarks say what was looked at.</span
		>{:else}<span>{record?.files.length ? 'Nothing was looked at yet.' : 'Nothing is read until you give a file.'}</span>{/if}
	{#if theCase.threads.length > 0}<a class="button" href="/sources/reading">How the stores were read</a>{/if}
	{#snippet action()}{#if theCase.threads.length > 0}<a class="button main" href="/threads">Read the threads</a>{/if}{/snippet}
</Tray>

<Sheet
	open={removing !== null}
	title={removing?.paths.length === 1 ? 'Take this file out?' : `Take these ${removing?.paths.length.toLocaleString('en-GB')} files out?`}
	onclose={() => (removing = null)}
>
	<p>
		What was found in <em>{removing?.name}</em> leaves the case, and nothing else. {removing?.paths.length === 1
			? 'The file itself is'
			: 'The files themselves are'} not touched.
	</p>
	<div class="choice">
		<button
			type="button"
			class="button main"
			onclick={() => {
				const { name, paths } = removing!;
				removing = null;
				void theLook.remove(name, paths);
			}}>{removing?.paths.length === 1 ? 'Take it out' : 'Take them out'}</button
		>
		<Dialog.CloseTrigger class="button">{removing?.paths.length === 1 ? 'Keep it' : 'Keep them'}</Dialog.CloseTrigger>
	</div>
</Sheet>

<style>
	main {
		flex: 1;
		overflow-y: auto;
		min-height: 0;
	}
	details > section {
		margin-top: 18px;
	}
	.page {
		max-width: 940px;
		margin: 0 auto;
		padding: 22px 20px 40px;
		display: grid;
		grid-template-columns: minmax(0, 1fr);
		gap: 18px;
		overflow-wrap: anywhere;
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
	th,
	td {
		overflow-wrap: anywhere;
	}
	.problem {
		background: var(--ochre-wash);
		padding: 10px 14px;
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
	td input {
		font: inherit;
		color: var(--ink);
		background: var(--sheet);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 3px 7px;
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
	summary {
		cursor: pointer;
		color: var(--verdigris);
	}
	.tree {
		font-size: 12.5px;
		max-height: 320px;
		overflow-y: auto;
	}
	li.warning {
		border-left-color: var(--ochre);
	}
</style>
