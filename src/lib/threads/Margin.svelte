<script lang="ts">
	import { GRADE_WORDS, METHOD_WORDS, STANDING_WORDS } from '$core/wording';
	import type { Method } from '$core/model';
	import type { SeenAt } from '$core/weave';
	import { theCase } from '$lib/state/case.svelte';
	import { theLedger } from '$lib/state/ledger.svelte';
	import { offsetName, shortDay, timeOfDay, timeWithSeconds } from '$lib/state/zone';
	import HexView from './HexView.svelte';

	const zone = $derived(theCase.record?.zone ?? 'UTC');
	const message = $derived(theLedger.messages.find((m) => m.id === theLedger.focus) ?? null);
	const detail = $derived(theLedger.detail);
	const FEW = 4;
	let shown = $state(0);
	let all = $state(false);
	$effect(() => {
		void theLedger.focus;
		shown = 0;
		all = false;
	});
	const sighting = $derived(detail?.sightings[shown] ?? detail?.sightings[0] ?? null);
	const hex = (n: number): string => `0x${n.toString(16).toUpperCase().padStart(6, '0')}`;
	const where = (s: SeenAt): string =>
		[
			s.page ? `page ${s.page}` : '',
			s.frame ? `${s.method === 'journal-page' ? 'record' : 'frame'} ${s.frame}` : '',
			hex(s.offset),
			`${s.length} B`
		]
			.filter(Boolean)
			.join(' · ');
	const method = (m: string): string => METHOD_WORDS[m as Method] ?? m;
</script>

<aside aria-label="About the message in focus">
	{#if message}
		<h2>
			{message.standing === 'kept'
				? 'In use'
				: message.standing === 'binned'
					? 'Marked deleted by the store'
					: message.standing === 'dropped'
						? 'In use only in an earlier state'
						: 'Found only in freed bytes'}
		</h2>
		<p class="soft">
			{STANDING_WORDS[message.standing]}; {GRADE_WORDS[message.grade]}.
			{#if message.sentAt !== null}Sent {shortDay(message.sentAt, zone)}, {timeWithSeconds(message.sentAt, zone)}
				{message.zoned ? offsetName(message.sentAt, zone) : `(the source states no zone; read in ${zone})`}.{:else}Its time is not known.{/if}
		</p>
		{#if message.firstMissing !== undefined}
			<p class="between">
				{#if message.lastSeen !== undefined}<strong
						>Deleted between {shortDay(message.lastSeen, zone)} and {shortDay(message.firstMissing, zone)}.</strong
					>
					Last seen in the copy of {shortDay(message.lastSeen, zone)}, {timeOfDay(message.lastSeen, zone)}; missing from that of {shortDay(
						message.firstMissing,
						zone
					)}, {timeOfDay(message.firstMissing, zone)}.{:else}<strong>Deleted before {shortDay(message.firstMissing, zone)}.</strong> In use in
					none of the copies.{/if}
			</p>
		{/if}
		{#if message.otherWording}<p class="soft">Another copy of the conversation reads: <bdi>“{message.otherWording}”</bdi></p>{/if}
		{#if message.replyTo}
			{@const answered = theLedger.messages.find((m) => m.id === message.replyTo)}
			{#if answered}<p class="soft">It answers: <bdi>“{(answered.text ?? 'no text').slice(0, 140)}”</bdi></p>{/if}
		{/if}
		{#if detail}
			<h3>Sightings</h3>
			<ol>
				{#each all ? detail.sightings : detail.sightings.slice(0, FEW) as s, i (i)}
					<li>
						<button type="button" class={s.standing} aria-pressed={i === shown} onclick={() => (shown = i)}>
							<span><bdi>{s.source}</bdi> <strong>{method(s.method)}{s.grade === 'whole' ? '' : `, ${s.grade}`}</strong></span>
							<span class="mono where">{where(s)}</span>
						</button>
					</li>
				{/each}
			</ol>
			{#if detail.sightings.length > FEW && !all}<button type="button" class="more" onclick={() => (all = true)}
					>{detail.sightings.length - FEW + (detail.moreSightings ?? 0)} more places</button
				>
			{:else if detail.moreSightings}<p class="soft">and {detail.moreSightings} more places</p>{/if}
			<h3>As stored</h3>
			<dl>
				{#if message.record !== null}<dt class="soft">{message.table}</dt>
					<dd>record {message.record}</dd>{:else}<dt class="soft">{message.table}</dt>
					<dd class="soft">
						{detail.sightings.every((s) => s.method === 'preview')
							? 'the message’s own row is gone'
							: message.keyed
								? 'known by its key'
								: 'record number overwritten'}
					</dd>{/if}
				{#each detail.stored as [column, value, read], i (i)}
					<dt class="soft">{column}</dt>
					<dd>
						<bdi>{value.length > 90 ? `${value.slice(0, 90)} …` : value}</bdi>{#if read}<span class="soft">{' → '}{read}</span>{/if}
					</dd>
				{/each}
			</dl>
			{#if sighting?.hex}
				<h3>Bytes</h3>
				<HexView hex={sighting.hex} from={sighting.hexFrom ?? sighting.offset} mark={sighting.mark ?? null} />
			{/if}
		{/if}
	{:else}
		<p class="soft">The message in focus is explained here: where it was seen, how its values are stored, and its bytes.</p>
	{/if}
</aside>

<style>
	aside {
		padding: 12px 16px 20px;
		overflow-y: auto;
		min-height: 0;
		background: var(--paper);
		font-size: 14px;
	}
	h2 {
		font-size: 17px;
		line-height: 1.25;
		margin-bottom: 4px;
	}
	h3 {
		font-size: 15px;
		margin: 14px 0 5px;
	}
	p {
		margin: 0;
	}
	.between {
		margin-top: 8px;
	}
	ol {
		list-style: none;
		margin: 0;
		padding: 0;
		display: grid;
		gap: 6px;
	}
	ol button {
		display: grid;
		width: 100%;
		text-align: start;
		background: transparent;
		border: 0;
		border-left: 2px solid var(--rule);
		padding: 1px 0 1px 10px;
		color: var(--ink);
		font: inherit;
		cursor: pointer;
		overflow-wrap: anywhere;
	}
	ol button[aria-pressed='true'] {
		border-left-color: var(--ink);
		background: var(--shade);
	}
	ol button[aria-pressed='true'].dropped {
		border-left-color: var(--plum);
	}
	ol button[aria-pressed='true'].remnant {
		border-left-color: var(--verdigris);
	}
	.more {
		background: none;
		border: 0;
		padding: 4px 12px;
		color: var(--verdigris);
		font: 400 13px/1.3 var(--sans);
		cursor: pointer;
	}
	.where {
		font-size: 12px;
		color: var(--soft);
	}
	dl {
		display: grid;
		grid-template-columns: fit-content(38%) minmax(0, 1fr);
		gap: 3px 14px;
		margin: 0;
	}
	dt,
	dd {
		margin: 0;
		min-width: 60px;
		overflow-wrap: anywhere;
	}
</style>
