<script lang="ts">
	import '$lib/design/app.css';
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { loadDemo } from '$lib/state/demo';
	import { theCase } from '$lib/state/case.svelte';
	import { theLook } from '$lib/state/look.svelte';
	import { isFull } from '$store';
	import TopLine from '$lib/shell/TopLine.svelte';

	let { data, children } = $props();
	let problem = $state<string | null>(null);

	onMount(async () => {
		try {
			await theCase.open();
			theCase.follow();
			if (data.demo && !theCase.record && !theLook.running) {
				void loadDemo();
				await goto('/threads');
			} else void theLook.resume();
		} catch {
			problem = 'This browser keeps no data for this page, so nothing could be stored. Allow site data for this address, then reload.';
		}
	});
	/** Whatever could not be written, wherever on the page: nobody is left waiting for it. */
	function onunhandledrejection(event: PromiseRejectionEvent): void {
		if (!isFull(event.reason)) return;
		theLook.running = false;
		problem = 'The browser has no space left, so this could not be kept. What is here is as it was. Free some space, then do it again.';
		event.preventDefault();
	}
</script>

<svelte:window {onunhandledrejection} />

<div class="shell">
	<TopLine />
	{#if problem}<p class="problem" role="alert">{problem}</p>{/if}
	{#if theCase.opened}{@render children()}{/if}
</div>

<style>
	.shell {
		height: 100dvh;
		display: flex;
		flex-direction: column;
	}
	.problem {
		margin: 0;
		padding: 8px 16px;
		background: var(--ochre-wash);
	}
</style>
