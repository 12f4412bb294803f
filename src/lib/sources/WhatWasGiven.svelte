<script lang="ts">
	/** What each thing is that was given: of which device and day, what is in it, and how far it was looked at. */
	import { SvelteSet } from 'svelte/reactivity';
	import { isUnder } from '$core/paths';
	import type { Source } from '$core/sources';
	import { REACH_WORDS } from '$core/wording';
	import { theCase } from '$lib/state/case.svelte';
	import { theLook } from '$lib/state/look.svelte';
	import { shortDay } from '$lib/state/zone';
	import { sizeWords } from './bytes';

	const record = $derived(theCase.record!);
	const open = new SvelteSet<string>();
	/** Files of one source that are listed. */
	const MOST = 2000;

	const WHAT: Record<Source['what'], string> = {
		backup: 'Backup',
		folder: 'Program’s folder',
		packed: 'Packed copy of a folder',
		store: 'Message store',
		export: 'Exported conversation',
		'other side': 'The other side’s copy',
		'address book': 'Address book',
		locked: 'Locked'
	};
	const count = (n: number): string => n.toLocaleString('en-GB');
	const day = (at: number): string => shortDay(at, record.zone);

	function whatIs({ what, device, partial, locked }: Source): string {
		const of = device === null ? '' : ` of ${device}`;
		return `${WHAT[what]}${of}${partial ? ', only what changed' : ''}${what === 'backup' ? (locked ? ', locked' : ', not locked') : ''}`;
	}
	function holds({ estimate, people, locked }: Source): string {
		if (people !== null) return `${count(people)} ${people === 1 ? 'person' : 'people'}`;
		return estimate === null ? (locked ? 'not known' : '') : `${count(estimate)} ${estimate === 1 ? 'message' : 'messages'}`;
	}
	function lookOf({ path, what, stores, locked }: Source): string {
		if (locked) return 'needs its passphrase';
		if (what === 'address book') return 'read';
		if (stores.length > 0 && stores.every((store) => record.choice.leftOut.includes(store))) return 'left out';
		const isLooked = record.lookedAt.some((file) => isUnder(file, path) || isUnder(path, file));
		if (theLook.running && !isLooked) return 'being looked at';
		return record.reached === null || !isLooked
			? 'not looked at yet'
			: record.reached === 'raw'
				? 'everything'
				: `as far as ${REACH_WORDS[record.reached]}`;
	}
	/** Files in none of them, once they were looked at. */
	const others = $derived.by(() => {
		const looked = new Set(record.lookedAt);
		const isIn = (path: string, of: string): boolean => isUnder(path, of) || isUnder(of, path);
		const bare = (path: string): string => path.replace(/-(wal|journal|shm)$/, '');
		return record.files.filter((f) => looked.has(f.path) && !record.sources.some((s) => isIn(bare(f.path), s.path)));
	});
	const largest = $derived(others.reduce((most, f) => (f.size > most.size ? f : most), others[0]!));
	/** Its files under their real names, with their sizes. */
	function filesIn({ path }: Source): { path: string; size: number }[] {
		const inside = record.inside.filter((f) => isUnder(f.path, path));
		return inside.length > 0 ? inside : record.files.filter((f) => isUnder(f.path, path));
	}
	const within = (file: string, path: string): string => (path !== '' && file !== path ? file.slice(path.length + 1) : file);
	function toggle(path: string): void {
		if (!open.delete(path)) open.add(path);
	}
</script>

<section aria-labelledby="given">
	<h2 id="given">What was given</h2>
	<table class="ruled stacks">
		<thead
			><tr><th>Source</th><th>Taken</th><th>Holds in use</th><th class="number">Files</th><th class="number">Size</th><th>Looked at</th></tr
			></thead
		>
		<tbody>
			{#each record.sources as source (source.path)}
				<tr class:locked={source.locked}>
					<td
						><button type="button" class="opens" aria-expanded={open.has(source.path)} onclick={() => toggle(source.path)}
							><bdi>{whatIs(source)}</bdi></button
						><span class="path mono"><bdi>{source.path || 'the files themselves'}</bdi></span></td
					>
					<td class="day"
						>{#if source.taken !== null}{day(source.taken)}<br /><span class="soft"
								>{source.stated ? 'as stated' : 'its newest message'}</span
							>{/if}</td
					>
					<td class="span"
						>{holds(source)}{#if source.from !== null && source.to !== null}<br /><span class="soft"
								>{day(source.from)} – {day(source.to)}</span
							>{/if}</td
					>
					<td class="number mono">{count(source.files)}</td>
					<td class="number mono">{sizeWords(source.size)}</td>
					<td class="look">{lookOf(source)}</td>
				</tr>
				{#if open.has(source.path)}
					{@const files = filesIn(source)}
					<tr
						><td colspan="6">
							<ul class="opened" aria-label="Files in {source.path}">
								{#each files.slice(0, MOST) as file, i (i)}<li class:store={source.stores.includes(file.path)}>
										<bdi>{within(file.path, source.path)}</bdi>
										<span class="soft">{source.stores.includes(file.path) ? 'messages' : ''}</span>
										<span class="soft mono number">{sizeWords(file.size)}</span>
									</li>{/each}
							</ul>
							{#if files.length > MOST}<p class="soft">The first {count(MOST)} of {count(files.length)} files are listed.</p>{/if}
						</td></tr
					>
				{/if}
			{/each}
		</tbody>
	</table>
	{#if others.length > 0}
		<p class="soft others">
			{#if others.length === 1}One more file, <bdi class="mono">{largest.path}</bdi>, {sizeWords(largest.size)}: nothing in it reads as
				messages or names. It is only sought for what messages came with.{:else}{count(others.length)} more files, {sizeWords(
					others.reduce((n, f) => n + f.size, 0)
				)}, the largest <bdi class="mono">{largest.path}</bdi>: nothing in them reads as messages or names. They are only sought for what
				messages came with.{/if}
		</p>
	{/if}
</section>

<style>
	h2 {
		font-size: 17px;
		margin-bottom: 4px;
	}
	p {
		margin: 0;
	}
	td {
		overflow-wrap: anywhere;
		vertical-align: top;
	}
	.others {
		margin-top: 6px;
		overflow-wrap: anywhere;
	}
	td {
		padding-block: 5px;
	}
	.soft {
		font-size: 13px;
	}
	.path {
		display: block;
		padding-left: 1.1em;
		font-size: 11.5px;
		color: var(--soft);
	}
	.opened > .store {
		border-left-color: var(--verdigris);
	}
	@media (min-width: 641px) {
		.day {
			min-width: 120px;
		}
		.look {
			min-width: 84px;
			overflow-wrap: normal;
		}
		.span {
			min-width: 165px;
		}
	}
</style>
