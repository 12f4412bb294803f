<script lang="ts">
	import { fromDrop, fromInput, MOST_FILES, type Taken } from '$lib/state/given';
	import PasteNames from './PasteNames.svelte';
	import type { Given } from '$lib/state/look.svelte';

	let { ongiven, busy }: { ongiven: (given: Given[]) => void; busy: boolean } = $props();
	let over = $state(false);
	let isCut = $state(false);
	let files = $state<HTMLInputElement>();
	let folder = $state<HTMLInputElement>();

	async function drop(event: DragEvent): Promise<void> {
		event.preventDefault();
		over = false;
		if (busy || !event.dataTransfer) return;
		give(await fromDrop(event.dataTransfer));
	}
	function take(input: HTMLInputElement): void {
		if (input.files?.length) give(fromInput(input.files));
		input.value = '';
	}
	function give(taken: Taken): void {
		isCut = taken.isCut;
		ongiven(taken.given);
	}
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -- dropping has two buttons beside it that do the same -->
<div
	class="place"
	class:over
	ondragover={(e) => {
		e.preventDefault();
		over = true;
	}}
	ondragleave={() => (over = false)}
	ondrop={drop}
>
	<p class="lead">
		Drop what you have here: databases with their <span class="mono">-wal</span> and <span class="mono">-journal</span> files, backups, archives,
		or the folder they are in.
	</p>
	<p class="soft">The files are only read. They stay on this machine; nothing is sent anywhere.</p>
	<div class="buttons">
		<button type="button" class="button main" disabled={busy} onclick={() => files?.click()}>Choose files</button>
		<button type="button" class="button" disabled={busy} onclick={() => folder?.click()}>Choose a folder</button>
		<PasteNames {ongiven} {busy} />
	</div>
	{#if isCut}<p class="problem" role="alert">
			There were more than {MOST_FILES.toLocaleString('en-GB')} files; the rest was not taken. Give the folders in it one by one.
		</p>{/if}
	<input bind:this={files} type="file" multiple hidden data-testid="files" onchange={(e) => take(e.currentTarget)} />
	<input bind:this={folder} type="file" webkitdirectory hidden data-testid="folder" onchange={(e) => take(e.currentTarget)} />
</div>

<style>
	.place {
		border: 1px dashed var(--soft);
		padding: 26px 24px;
		background: var(--sheet);
		display: grid;
		gap: 8px;
	}
	.over {
		border-color: var(--verdigris);
		background: var(--verdigris-wash);
	}
	.lead {
		font: 400 18px/1.4 var(--serif);
		margin: 0;
	}
	p {
		margin: 0;
	}
	.buttons {
		display: flex;
		gap: 10px;
		margin-top: 8px;
		flex-wrap: wrap;
	}
</style>
