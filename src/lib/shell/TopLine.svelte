<script lang="ts">
	import { page } from '$app/state';
	import { theCase } from '$lib/state/case.svelte';
	import { theFind } from '$lib/state/find.svelte';
	import ModeToggle from './ModeToggle.svelte';

	const stages = $derived([
		{ href: '/intake', name: 'Intake', count: theCase.record?.places.length ?? 0 },
		{ href: '/sources', name: 'Sources', count: theCase.record?.files.length ?? 0 },
		{ href: '/threads', name: 'Threads', count: theCase.threads.length },
		{ href: '/bundle', name: 'Bundle', count: theCase.pickedThreads.length },
		{ href: '/log', name: 'Log', count: 0 }
	]);
	let name = $derived(theCase.record?.name ?? '');
</script>

<header>
	<a class="brand" href="/cases" title="All cases">Ombudsman</a>
	{#if theCase.record}
		<input class="case" aria-label="Name of the case" bind:value={name} onchange={() => theCase.rename(name)} />
	{:else}
		<span class="case soft">No case yet</span>
	{/if}
	<nav aria-label="Stages">
		{#each stages as stage (stage.href)}
			<a href={stage.href} aria-current={page.url.pathname.startsWith(stage.href) ? 'page' : undefined}
				>{stage.name}{#if stage.count > 0}<sup>{stage.count.toLocaleString('en-GB')}</sup>{/if}</a
			>
		{/each}
	</nav>
	<label class="find">
		<span class="visually-hidden">Find words, names, numbers</span>
		<input
			type="search"
			id="find"
			placeholder="Find words, names, numbers"
			bind:value={theFind.query}
			disabled={theCase.threads.length === 0}
		/>
		<kbd aria-hidden="true">/</kbd>
	</label>
	<ModeToggle />
</header>

<style>
	header {
		display: flex;
		align-items: center;
		gap: 16px;
		padding: 0 16px;
		min-height: 45px;
		background: var(--sheet);
		border-bottom: 1px solid var(--rule);
		flex-wrap: wrap;
	}
	.brand {
		font: 600 20px/1 var(--serif);
		color: var(--ink);
		text-decoration: none;
	}
	.case {
		font: italic 400 17px/1.2 var(--serif);
		color: var(--soft);
		background: transparent;
		border: 0;
		border-bottom: 1px solid transparent;
		padding: 4px 2px;
		min-width: 0;
		flex: 1 1 160px;
		max-width: 320px;
		text-overflow: ellipsis;
	}
	input.case:hover,
	input.case:focus {
		border-bottom-color: var(--rule);
	}
	nav {
		display: flex;
		margin-left: auto;
		align-self: stretch;
	}
	nav a {
		display: flex;
		align-items: center;
		padding: 0 13px;
		color: var(--ink);
		text-decoration: none;
		border-bottom: 3px solid transparent;
		min-height: 42px;
	}
	nav a:hover {
		color: var(--verdigris);
	}
	nav a[aria-current='page'] {
		border-bottom-color: var(--verdigris);
		font-weight: 600;
	}
	sup {
		color: var(--soft);
		font: 400 11px/1 var(--sans);
		margin-left: 4px;
		top: -0.35em;
		position: relative;
	}
	.find {
		position: relative;
		flex: 0 1 235px;
	}
	.find input {
		width: 100%;
		background: var(--paper);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 5px 26px 5px 10px;
		font: 400 14px/1.3 var(--sans);
		color: var(--ink);
	}
	.find input::placeholder {
		color: var(--soft);
		opacity: 1;
	}
	.find kbd {
		position: absolute;
		right: 9px;
		top: 8px;
		color: var(--soft);
		pointer-events: none;
	}
	@media (max-width: 820px) {
		header {
			gap: 4px 12px;
			padding: 6px 12px 0;
		}
		.case {
			max-width: none;
		}
		nav {
			order: 5;
			margin-left: -10px;
			flex: 1 1 100%;
		}
		.find {
			flex: 1 1 120px;
		}
	}
</style>
