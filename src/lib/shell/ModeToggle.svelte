<script lang="ts">
	import Moon from '@lucide/svelte/icons/moon';
	import Sun from '@lucide/svelte/icons/sun';

	const KEY = 'ombudsman-mode';
	const preferred = (): 'light' | 'dark' => {
		const kept = localStorage.getItem(KEY);
		return kept === 'dark' || kept === 'light' ? kept : matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light';
	};
	let mode = $state(preferred());
	$effect(() => {
		document.documentElement.dataset.mode = mode;
	});
	function toggle(): void {
		mode = mode === 'dark' ? 'light' : 'dark';
		localStorage.setItem(KEY, mode);
	}
</script>

<button
	type="button"
	onclick={toggle}
	aria-label={mode === 'dark' ? 'Light paper' : 'Dark paper'}
	title={mode === 'dark' ? 'Light paper' : 'Dark paper'}
>
	{#if mode === 'dark'}<Sun size={16} />{:else}<Moon size={16} />{/if}
</button>

<style>
	button {
		background: none;
		border: 0;
		color: var(--soft);
		padding: 6px;
		cursor: pointer;
		display: grid;
	}
	button:hover {
		color: var(--ink);
	}
</style>
