<script lang="ts">
	import type { Reach } from '$core/model';
	import { parseVagueDate } from '$core/prospects';
	import { theCase } from '$lib/state/case.svelte';
	import { theLook } from '$lib/state/look.svelte';
	import { theProspects } from '$lib/state/prospects.svelte';
	import { shortDay } from '$lib/state/zone';
	import { sizeWords } from './bytes';

	/** What a survey said, and what of it to look at, with what it costs. */
	const surveyed = $derived(theLook.surveyed!);
	const zone = $derived(theCase.record?.zone ?? 'UTC');
	const lines = $derived(
		[...surveyed.lines].sort((a, b) => Number(b.kind === 'messages') - Number(a.kind === 'messages') || b.estimate - a.estimate)
	);
	let out = $state<string[]>([...(theCase.record?.choice.leftOut ?? [])]);
	let reach = $state<Reach>(theCase.record?.choice.reach ?? 'raw');
	let attachments = $state(theCase.record?.choice.attachments ?? true);
	let dates = $state('');
	let problem = $state('');

	const REACHES: readonly [Reach, string][] = [
		['used', 'Rows in use: what the program still shows'],
		['logs', 'and logs and journals: states before the last'],
		['freed', 'and freed space: what was deleted'],
		['raw', 'and raw bytes beyond the end: everything']
	];
	const chosen = $derived(surveyed.lines.filter((l) => !out.includes(l.path)));
	/** Bytes that a reach reads of what is chosen. */
	function cost(upTo: Reach): number {
		const sum = (of: (b: (typeof chosen)[number]['bytes']) => number): number => chosen.reduce((n, l) => n + of(l.bytes), 0);
		if (upTo === 'used') return sum((b) => b.used);
		return upTo === 'logs' ? sum((b) => b.used + b.logs) : sum((b) => b.used + b.logs + b.freed);
	}
	function timeWords(bytes: number): string {
		const seconds = bytes / Math.max(1, surveyed.speed);
		return seconds < 60 ? `about ${Math.max(1, Math.round(seconds))} s` : `about ${Math.round(seconds / 60)} min`;
	}
	const span = (from: number | null, to: number | null): string =>
		from === null || to === null ? '' : `${shortDay(from, zone)} – ${shortDay(to, zone)}`;
	const kinds = { messages: 'messages', contacts: 'contacts', other: 'neither' } as const;
	type Kind = keyof typeof kinds;
	const KINDS: readonly [Kind, string][] = [
		['messages', 'Messages'],
		['contacts', 'Contacts alone'],
		['other', 'Neither, as far as the survey saw']
	];
	const ofKind = (kind: Kind): string[] => lines.filter((l) => l.kind === kind).map((l) => l.path);
	const chosenOf = (kind: Kind): number => ofKind(kind).filter((p) => !out.includes(p)).length;
	function chooseKind(kind: Kind, wanted: boolean): void {
		const paths = ofKind(kind);
		out = wanted ? out.filter((p) => !paths.includes(p)) : [...new Set([...out, ...paths])];
	}

	function begin(): void {
		const read = parseVagueDate(dates, theCase.today, zone);
		if (!read.ok) {
			problem = read.problem;
			return;
		}
		problem = '';
		void theLook
			.lookAt({ leftOut: [...out], attachments, reach, from: read.span.from, to: read.span.to })
			.then(() => theProspects.recount());
	}
</script>

<section aria-labelledby="survey">
	<h2 id="survey">What there is, and what to look at</h2>
	{#if lines.length === 0}<p class="soft">No store was found in what was given.</p>{:else}
		<table class="stacks">
			<thead
				><tr
					><th>Look</th><th>Store</th><th>Holds</th><th class="number">About</th><th>From – to</th><th class="number">Threads</th><th
						class="number">Size</th
					></tr
				></thead
			>
			<tbody>
				{#each lines as line, i (i)}
					<tr class:out={out.includes(line.path)}>
						<td
							><input
								type="checkbox"
								aria-label="Look at {line.path}"
								checked={!out.includes(line.path)}
								onchange={(e) => (out = e.currentTarget.checked ? out.filter((p) => p !== line.path) : [...out, line.path])}
							/></td
						>
						<td
							><bdi>{line.path}</bdi>{#if line.device}<br /><span class="soft"
									><bdi>{line.device}</bdi>{line.capture === null ? '' : `, ${shortDay(line.capture, zone)}`}</span
								>{/if}</td
						>
						<td>{kinds[line.kind]}</td>
						<td class="number mono">{line.estimate.toLocaleString('en-GB')}</td>
						<td class="mono small span">{span(line.from, line.to)}{line.sampled ? ' …' : ''}</td>
						<td class="number mono">{line.threads}</td>
						<td class="number mono">{sizeWords(line.bytes.used)}</td>
					</tr>
				{/each}
			</tbody>
		</table>
		<form
			onsubmit={(e) => {
				e.preventDefault();
				begin();
			}}
		>
			<fieldset>
				<legend>Which kinds</legend>
				{#each KINDS.filter(([kind]) => ofKind(kind).length > 0) as [kind, words] (kind)}
					{@const some = chosenOf(kind)}
					{@const all = ofKind(kind).length}
					<label
						><input
							type="checkbox"
							checked={some === all}
							indeterminate={some > 0 && some < all}
							onchange={(e) => chooseKind(kind, e.currentTarget.checked)}
						/> <span>{words}</span>
						<span class="mono soft">{some === all ? all : `${some} of ${all}`} {all === 1 ? 'store' : 'stores'}</span></label
					>
				{/each}
				<label
					><input type="checkbox" bind:checked={attachments} />
					<span>Attachments: files that messages state are sought and hashed</span></label
				>
			</fieldset>
			<fieldset>
				<legend>How far</legend>
				{#each REACHES as [value, words] (value)}
					<label
						><input type="radio" name="reach" {value} bind:group={reach} /> <span>{words}</span>
						<span class="mono soft">{sizeWords(cost(value))}, {timeWords(cost(value))}</span></label
					>
				{/each}
			</fieldset>
			<label class="dates"
				>Only messages of <input
					bind:value={dates}
					placeholder="any time; spring 2024; since 1 Feb 2025"
					aria-invalid={problem ? true : undefined}
					aria-describedby="dates-problem"
				/></label
			>
			<p id="dates-problem" class="problem" role="status">{problem}</p>
			<button type="submit" class="button main" disabled={theLook.running || chosen.length === 0}
				>Look at {chosen.length === lines.length ? 'all of it' : `${chosen.length} of ${lines.length} stores`}</button
			>
			<p class="soft">A further reach can be chosen later: it adds to what was found and repeats nothing.</p>
		</form>
	{/if}
	{#each surveyed.notes as note, i (i)}<p class="soft">{note}</p>{/each}
</section>

<style>
	h2 {
		font-size: 17px;
		margin-bottom: 4px;
	}
	table {
		width: 100%;
		border-collapse: collapse;
	}
	th {
		text-align: left;
		font-weight: 400;
		font-size: 13px;
		color: var(--soft);
	}
	td,
	th {
		border-bottom: 1px solid var(--rule);
		padding: 5px 8px 5px 0;
		vertical-align: top;
	}
	td:nth-child(2) {
		overflow-wrap: anywhere;
	}
	@media (min-width: 700px) {
		.span {
			white-space: nowrap;
		}
	}
	.number {
		text-align: right;
		white-space: nowrap;
	}
	.small,
	.mono {
		font-size: 13px;
	}
	.out td {
		color: var(--soft);
	}
	form {
		display: grid;
		gap: 9px;
		margin-top: 12px;
		justify-items: start;
	}
	fieldset {
		border: 0;
		margin: 0;
		padding: 0;
		display: grid;
		gap: 4px;
	}
	fieldset label {
		display: flex;
		flex-wrap: wrap;
		gap: 0 10px;
		align-items: baseline;
	}
	.dates {
		display: flex;
		flex-wrap: wrap;
		gap: 10px;
		align-items: center;
	}
	.dates input {
		font: inherit;
		color: var(--ink);
		background: var(--paper);
		border: 1px solid var(--rule);
		padding: 5px 9px;
		min-width: 290px;
	}
	p {
		margin: 0;
	}
</style>
