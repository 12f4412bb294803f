<script lang="ts">
	/** A list of numbers with names, pasted or typed: it becomes a file of the case like any other. */
	import { Dialog } from '@skeletonlabs/skeleton-svelte';
	import Sheet from '$lib/ui/Sheet.svelte';
	import { theCase } from '$lib/state/case.svelte';
	import type { Given } from '$lib/state/look.svelte';

	const { ongiven, busy }: { ongiven: (given: Given[]) => void; busy: boolean } = $props();
	let open = $state(false);
	let text = $state('');

	function take(): void {
		const taken = new Set(theCase.record?.files.map((f) => f.path));
		let n = 1;
		while (taken.has(nameOf(n))) n++;
		ongiven([{ file: new File([text.trim() + '\n'], nameOf(n), { type: 'text/plain', lastModified: Date.now() }), path: nameOf(n) }]);
		text = '';
		open = false;
	}
	const nameOf = (n: number): string => `names put in by hand${n === 1 ? '' : ` ${n}`}.txt`;
</script>

<button type="button" class="button" disabled={busy} onclick={() => (open = true)}>Paste names</button>

<Sheet {open} title="Numbers with names" onclose={() => (open = false)}>
	<form
		onsubmit={(e) => {
			e.preventDefault();
			take();
		}}
	>
		<label
			>One person a line, in any order, separated by a tab, a comma, or spaces
			<textarea bind:value={text} rows="8" placeholder="Odile Marchetti  +44 7700 900158"></textarea></label
		>
		<div class="choice">
			<button type="submit" class="button main" disabled={text.trim() === ''}>Take them in</button>
			<Dialog.CloseTrigger class="button">Leave it</Dialog.CloseTrigger>
		</div>
	</form>
</Sheet>

<style>
	form,
	label {
		display: grid;
		gap: 10px;
	}
	textarea {
		font: 400 14px/1.5 var(--mono);
		color: var(--ink);
		background: var(--sheet);
		border: 1px solid var(--rule);
		border-radius: 2px;
		padding: 8px 10px;
		box-sizing: border-box;
		width: 100%;
	}
</style>
