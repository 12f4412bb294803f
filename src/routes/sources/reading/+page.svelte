<script lang="ts">
	import {
		correctionSchema,
		type ColumnRole,
		type Correction,
		type PlainColumn,
		type PlainReading,
		type PlainTable
	} from '$core/interpret';
	import { TIME_LABELS } from '$core/interpret';
	import { fileName } from '$lib/bundle/save';
	import Tray from '$lib/shell/Tray.svelte';
	import { theCase } from '$lib/state/case.svelte';
	import { theLook } from '$lib/state/look.svelte';
	import { shortDay, timeWithSeconds } from '$lib/state/zone';
	import { saveBlob } from '$lib/ui/save';
	import { readingsOf } from '$store';
	import type { Preview } from '$workers/protocol';

	const COLUMN_ROLES: [ColumnRole, string][] = [
		['none', 'nothing'],
		['text', 'the text'],
		['time', 'when it was sent'],
		['writer', 'the writer'],
		['recipient', 'the recipient'],
		['correspondent', 'the correspondent'],
		['thread', 'the thread'],
		['direction', 'sent or received'],
		['deleted', 'a deletion mark']
	];
	const TABLE_ROLES: Record<string, string> = {
		messages: 'messages',
		persons: 'persons',
		threads: 'threads',
		members: 'members of threads',
		'message-thread': 'which message is in which thread',
		attachments: 'attachments',
		copies: 'copies of texts',
		histories: 'earlier wordings',
		bin: 'the bin',
		attached: 'receipts or reactions',
		properties: 'properties of messages',
		other: 'nothing that is read'
	};
	const INFERRED: Record<string, string> = {
		name: 'a name',
		address: 'a number or address',
		title: 'a title',
		members: 'who takes part',
		'other side': 'the other side',
		kind: 'the kind of row',
		answers: 'the message answered',
		wordings: 'earlier wordings',
		reactions: 'reactions',
		reacts: 'the message reacted to',
		'of message': 'the message it belongs to',
		'of person': 'the person it belongs to',
		'of thread': 'the thread it belongs to',
		wording: 'a text of a message',
		when: 'when that was',
		property: 'the property’s name',
		'property value': 'the property’s value',
		file: 'a file',
		'file type': 'the type of a file',
		'file size': 'the size of a file',
		'file digest': 'the digest of a file',
		'file measures': 'the width or height of a picture'
	};

	let readings = $state.raw<PlainReading[]>([]);
	let chosen = $state('');
	let draft = $state.raw<Correction | null>(null);
	let preview = $state.raw<Preview | null>(null);
	let busy = $state(false);
	let problem = $state('');
	const zone = $derived(theCase.record?.zone ?? 'UTC');

	$effect(() => {
		const record = theCase.record;
		void record?.seconds;
		if (record && !theLook.running) void readingsOf(record.id).then((r) => (readings = r));
	});
	const tables = $derived(readings.flatMap((r, i) => r.tables.map((t) => ({ key: `${i}|${t.name}`, store: r.store, t }))));
	const current = $derived(tables.find((x) => x.key === chosen) ?? tables.find((x) => x.t.role === 'messages') ?? tables[0] ?? null);
	const entry = $derived(
		draft?.tables.find((e) => current && e.table === current.t.tables[0] && same(e.declared, current.t.declared)) ?? null
	);
	const same = (a: string[], b: string[]): boolean => a.length === b.length && a.every((x, i) => x === b[i]);
	const pending = $derived(draft !== null);

	const roleOf = (c: PlainColumn): string => entry?.columns.find((x) => x.column === c.name)?.role ?? c.role;
	const timeOf = (c: PlainColumn): string => entry?.columns.find((x) => x.column === c.name)?.time ?? c.time ?? '';
	const valuesOf = (c: PlainColumn): (string | number)[] => entry?.columns.find((x) => x.column === c.name)?.values ?? c.values;

	function edit(t: PlainTable, change: (e: Correction['tables'][number]) => void): void {
		const base: Correction = structuredClone(
			$state.snapshot(draft ?? theCase.record?.correction ?? { format: 'ombudsman-reading', version: 1, tables: [] })
		) as Correction;
		let own = base.tables.find((e) => e.table === t.tables[0] && same(e.declared, t.declared));
		if (!own) base.tables.push((own = { table: t.tables[0]!, declared: [...t.declared], columns: [] }));
		change(own);
		draft = base;
		preview = null;
	}
	function setColumn(t: PlainTable, c: PlainColumn, change: Partial<Correction['tables'][number]['columns'][number]>): void {
		edit(t, (e) => {
			const known = e.columns.find((x) => x.column === c.name);
			if (known) Object.assign(known, change);
			else e.columns.push({ column: c.name, role: (roleOf(c) as ColumnRole) ?? 'none', ...change });
		});
	}
	async function show(): Promise<void> {
		if (!current) return;
		busy = true;
		problem = '';
		preview = await theLook.preview($state.snapshot(draft) as Correction | null, current.t.tables[0]!);
		problem = theLook.problem ?? '';
		busy = false;
	}
	async function apply(correction: Correction | null): Promise<void> {
		busy = true;
		const applied = draft;
		await theLook.apply(correction);
		problem = theLook.problem ?? '';
		// One that was taken over from a file meanwhile stays.
		if (draft === applied) {
			draft = null;
			preview = null;
		}
		busy = false;
	}
	async function take(file: File | undefined): Promise<void> {
		if (!file) return;
		try {
			const parsed = correctionSchema.safeParse(JSON.parse(await file.text()));
			if (!parsed.success) throw new Error('not one');
			draft = parsed.data;
			problem = '';
		} catch {
			problem = `${file.name} is not a reading that can be taken over. Nothing was changed.`;
		}
	}
	const percent = (n: number): string => `${Math.round(n * 100)} %`;
</script>

<main>
	<nav aria-label="Tables">
		<h1>Reading of {readings.length === 1 ? 'this store' : 'these stores'}</h1>
		{#each readings as reading, i (i)}
			<h2><bdi>{reading.store}</bdi></h2>
			<ul>
				{#each reading.tables as t, k (k)}
					<li>
						<button
							type="button"
							aria-current={current?.key === `${i}|${t.name}` ? 'true' : undefined}
							onclick={() => ((chosen = `${i}|${t.name}`), (preview = null))}
							><bdi>{t.name}</bdi><span class="soft"
								>{TABLE_ROLES[t.role] ?? t.role} · {t.rows.toLocaleString('en-GB')} in use, {t.lost.toLocaleString('en-GB')} lost</span
							></button
						>
					</li>
				{/each}
			</ul>
		{/each}
		{#if readings.length === 0}<p class="soft">Nothing was read yet. <a href="/sources">Give a source</a>.</p>{/if}
	</nav>
	{#if current}
		{@const t = current.t}
		<section aria-label="Reading of {t.name}">
			<header>
				<h2><bdi>{t.name}</bdi></h2>
				<label
					>It holds <select
						value={entry?.role ?? (['messages', 'persons'].includes(t.role) ? t.role : '')}
						onchange={(e) => edit(t, (x) => (x.role = (e.currentTarget.value || 'other') as 'messages'))}
					>
						<option value="">{TABLE_ROLES[t.role] ?? t.role} (as told)</option>
						<option value="messages">messages</option>
						<option value="persons">persons</option>
						<option value="other">nothing that is read</option>
					</select></label
				>
				<span class="soft">{t.why.join('; ')} · sure to {percent(t.confidence)}</span>
			</header>
			<table class="ruled">
				<thead><tr><th>Column</th><th>Read as</th><th>Why</th><th>Samples</th></tr></thead>
				<tbody>
					{#each t.columns as c, n (n)}
						<tr>
							<td
								><bdi class="mono">{c.name}</bdi><br /><span class="soft small"
									>{c.type ? `${c.type.toLowerCase()} · ` : ''}{percent(c.filled)} filled</span
								></td
							>
							<td>
								<select
									aria-label="What {c.name} is"
									value={roleOf(c)}
									onchange={(e) => setColumn(t, c, { role: e.currentTarget.value as ColumnRole })}
								>
									{#if INFERRED[c.role]}<option value={c.role}>{INFERRED[c.role]}</option>{/if}
									{#each COLUMN_ROLES as [value, word] (value)}<option {value}>{word}</option>{/each}
								</select>
								{#if roleOf(c) === 'time'}
									<select
										aria-label="Epoch and unit of {c.name}"
										value={timeOf(c)}
										onchange={(e) => setColumn(t, c, { role: 'time', time: e.currentTarget.value })}
									>
										{#each [...new Set([timeOf(c), ...TIME_LABELS])].filter(Boolean) as label (label)}<option>{label}</option>{/each}
									</select>
								{/if}
								{#if (roleOf(c) === 'direction' || roleOf(c) === 'deleted') && c.distinct.length > 0}
									<fieldset>
										<legend class="soft small">{roleOf(c) === 'direction' ? 'sent where it is' : 'deleted where it is'}</legend>
										{#each c.distinct as v, m (m)}
											<label class="value"
												><input
													type="checkbox"
													checked={valuesOf(c).some((x) => String(x) === String(v))}
													onchange={(e) =>
														setColumn(t, c, {
															role: roleOf(c) as ColumnRole,
															values: e.currentTarget.checked ? [...valuesOf(c), v] : valuesOf(c).filter((x) => String(x) !== String(v))
														})}
												/><span class="mono">{v === '' ? '(empty)' : v}</span></label
											>
										{/each}
									</fieldset>
								{/if}
							</td>
							<td class="why">
								{c.why.join('; ')}{#if c.role !== 'none'}{' '}<span class="soft small"
										>sure to {percent(c.confidence)}{#if c.runnerUp}, else {c.runnerUp}{/if}</span
									>{/if}
							</td>
							<td class="samples"
								>{#each c.samples as s, i (i)}<bdi class="mono">{s}</bdi>{/each}</td
							>
						</tr>
					{/each}
				</tbody>
			</table>
			{#if problem}<p class="problem" role="alert">{problem}</p>{/if}
			{#if preview}
				<h3>What some messages would read like</h3>
				<p class="soft" role="status">
					{preview.counts[0].messages.toLocaleString('en-GB')} messages in {preview.counts[0].threads} threads now; {preview.counts[1].messages.toLocaleString(
						'en-GB'
					)} in {preview.counts[1].threads} then.
				</p>
				<div class="two">
					{#each [['Now', preview.before], ['Then', preview.after]] as const as [word, lines] (word)}
						<div>
							<h4>{word}</h4>
							{#if lines.length === 0}<p class="soft">No message of this table.</p>{/if}
							<ol>
								{#each lines as line, i (i)}
									<li>
										<span class="mono small"
											>{line.sentAt === null ? 'no time' : `${shortDay(line.sentAt, zone)} ${timeWithSeconds(line.sentAt, zone)}`}</span
										>
										<span class="small soft"
											>{line.direction === 'out'
												? line.who
													? 'sent to'
													: 'sent'
												: line.direction === 'in'
													? 'from'
													: 'direction not known'}
											{#if line.who || line.direction === 'in'}<bdi>{line.who ?? 'not known'}</bdi>{/if}
											· <bdi>{line.thread}</bdi></span
										>
										<bdi>{line.text ?? 'no text'}</bdi>
									</li>
								{/each}
							</ol>
						</div>
					{/each}
				</div>
			{/if}
		</section>
	{/if}
</main>
<Tray>
	<span
		>{pending
			? 'Put right, not yet applied.'
			: theCase.record?.correction
				? 'Read as you put it right.'
				: 'Read as told from the bytes.'}</span
	>
	{#if pending}
		<button type="button" class="button" disabled={busy} onclick={show}>Show some messages</button>
		<button type="button" class="button" onclick={() => ((draft = null), (preview = null))}>Put it back</button>
	{:else}
		{#if theCase.record?.correction}
			<button
				type="button"
				class="button"
				onclick={() =>
					saveBlob(
						new Blob([JSON.stringify(theCase.record!.correction, null, '\t')], { type: 'application/json' }),
						`${fileName(theCase.record!.name)}-reading.json`
					)}>Save it as a file</button
			>
			<button type="button" class="button" disabled={busy} onclick={() => apply(null)}>Read as told again</button>
		{/if}
		<label class="button file"
			>Take over from a file<input type="file" accept=".json,application/json" onchange={(e) => take(e.currentTarget.files?.[0])} /></label
		>
	{/if}
	{#snippet action()}{#if pending}<button
				type="button"
				class="button main"
				disabled={busy}
				onclick={() => apply($state.snapshot(draft) as Correction)}>Apply</button
			>{:else}<a class="button main" href="/threads">Read the threads</a>{/if}{/snippet}
</Tray>

<style>
	main {
		flex: 1;
		min-height: 0;
		display: grid;
		grid-template-columns: 260px minmax(0, 1fr);
	}
	nav {
		border-right: 1px solid var(--rule);
		overflow-y: auto;
		padding: 18px 0;
	}
	h1 {
		font-size: 19px;
		padding: 0 16px 8px;
	}
	nav h2 {
		font-size: 14px;
		padding: 6px 16px;
		color: var(--soft);
		overflow-wrap: anywhere;
	}
	nav p {
		padding: 0 16px;
	}
	ul,
	ol {
		list-style: none;
		margin: 0;
		padding: 0;
	}
	nav button {
		display: grid;
		width: 100%;
		text-align: start;
		background: transparent;
		border: 0;
		border-left: 3px solid transparent;
		padding: 7px 12px 7px 13px;
		color: var(--ink);
		font: 600 15px/1.3 var(--sans);
		cursor: pointer;
		overflow-wrap: anywhere;
	}
	nav button[aria-current='true'] {
		background: var(--sheet);
		border-left-color: var(--verdigris);
	}
	nav .soft {
		font: 400 13px/1.3 var(--sans);
	}
	section {
		overflow-y: auto;
		background: var(--sheet);
		padding: 18px 20px 30px;
		min-height: 0;
	}
	header {
		display: flex;
		flex-wrap: wrap;
		gap: 6px 16px;
		align-items: baseline;
		margin-bottom: 10px;
	}
	header h2 {
		font-size: 20px;
		overflow-wrap: anywhere;
	}
	h3 {
		font-size: 17px;
		margin-top: 20px;
	}
	h4 {
		font: 600 14px/1.3 var(--sans);
		margin: 8px 0 2px;
	}
	select {
		font: 400 14px/1.3 var(--sans);
		color: var(--ink);
		background: var(--paper);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 4px 6px;
		margin-block-end: 2px;
		max-width: 240px;
	}
	table {
		--cell: 7px 14px 7px 0;
		font-size: 14px;
	}
	.ruled td {
		vertical-align: top;
	}
	td:first-child {
		min-width: 17ch;
		overflow-wrap: anywhere;
	}
	.small {
		font-size: 12.5px;
	}
	.why {
		max-width: 240px;
	}
	.samples {
		max-width: 320px;
		font-size: 12.5px;
	}
	.samples bdi {
		display: block;
		overflow: hidden;
		text-overflow: ellipsis;
		white-space: nowrap;
		max-width: 320px;
	}
	fieldset {
		border: 0;
		padding: 4px 0 0;
		margin: 0;
		display: flex;
		flex-wrap: wrap;
		gap: 2px 12px;
	}
	legend {
		float: left;
		margin-right: 8px;
	}
	.value {
		display: inline-flex;
		gap: 5px;
		align-items: center;
	}
	.problem {
		background: var(--ochre-wash);
		padding: 6px 12px;
		margin: 12px 0 0;
	}
	p {
		margin: 0;
	}
	.two {
		display: grid;
		grid-template-columns: 1fr 1fr;
		gap: 24px;
	}
	.two li {
		display: grid;
		padding: 6px 0;
		border-bottom: 1px solid var(--rule);
		overflow-wrap: anywhere;
	}
	@media (max-width: 820px) {
		main {
			display: block;
			overflow-y: auto;
		}
		section,
		nav {
			overflow: visible;
			border: 0;
		}
		section {
			overflow-x: auto;
		}
		.two {
			grid-template-columns: 1fr;
		}
	}
</style>
