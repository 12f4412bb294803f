<script lang="ts">
	import { isUnder } from '$core/paths';
	import { theCase } from '$lib/state/case.svelte';
	import { theLook } from '$lib/state/look.svelte';

	/** `within`: the source of which alone is spoken; all of them where it is not given. */
	let { within = null, onunlocked = () => {} }: { within?: string | null; onunlocked?: () => void } = $props();
	const locked = $derived((theCase.record?.locked ?? []).filter((path) => within === null || isUnder(path, within)));
	let text = $state('');
	let tried = $state(false);
	async function unlock(): Promise<void> {
		const given = text;
		text = '';
		tried = false;
		await theLook.unlock(given);
		tried = true;
		onunlocked();
	}
</script>

{#if locked.length > 0}
	<section aria-labelledby="locked">
		<h2 id="locked">Locked</h2>
		<ul>
			{#each locked as path, i (i)}<li><bdi>{path}</bdi></li>{/each}
		</ul>
		<form
			onsubmit={(e) => {
				e.preventDefault();
				void unlock();
			}}
		>
			<label>Passphrase, or the text of an identity file <input type="password" autocomplete="off" bind:value={text} /></label>
			<button type="submit" class="button" disabled={text === ''}>Try it</button>
		</form>
		{#if tried && !theLook.running}<p class="problem" role="status">
				No passphrase given opens {locked.length === 1 ? 'it' : 'them'}. Nothing of {locked.length === 1 ? 'it' : 'them'} was read.
			</p>{/if}
		<p class="soft">
			It is tried on all of them. It is kept in this tab only, and written nowhere. Until it is unlocked, nothing can be said of what is
			inside.
		</p>
	</section>
{/if}

<style>
	h2 {
		font-size: 17px;
		margin-bottom: 4px;
	}
	ul {
		margin: 0 0 8px;
		padding: 0;
		list-style: none;
	}
	li {
		border-bottom: 1px solid var(--rule);
		padding: 4px 0;
		overflow-wrap: anywhere;
	}
	form,
	label {
		display: flex;
		flex-wrap: wrap;
		gap: 8px 12px;
		align-items: center;
	}
	input {
		font: inherit;
		color: var(--ink);
		background: var(--sheet);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 5px 9px;
		min-width: 240px;
	}
	p {
		margin: 6px 0 0;
		font-size: 14px;
	}
</style>
