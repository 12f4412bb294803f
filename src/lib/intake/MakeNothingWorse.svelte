<script lang="ts">
	import { WARNINGS } from '$core/prospects';
	import { theCase } from '$lib/state/case.svelte';
	import { shortDay, timeOfDay } from '$lib/state/zone';

	const heeded = $derived(theCase.record?.heeded ?? {});
	const zone = $derived(theCase.record?.zone ?? 'UTC');
	async function tick(id: string, says: string, on: boolean): Promise<void> {
		await theCase.change((c) => {
			if (on) c.heeded[id] = theCase.today;
			else delete c.heeded[id];
		});
		await theCase.log({ step: 'warning', says: on ? `Seen to: ${says}` : `No longer seen to: ${says}` });
	}
</script>

<section aria-labelledby="worse">
	<h2 id="worse">Make nothing worse</h2>
	<ul>
		{#each WARNINGS as { id, says } (id)}
			{@const at = heeded[id]}
			<li>
				<label>
					<input type="checkbox" checked={at !== undefined} onchange={(e) => tick(id, says, e.currentTarget.checked)} />
					<span>
						{says}
						{#if at === undefined}<span class="soft">Not noted yet</span>{:else}<span class="soft mono"
								>{shortDay(at, zone)} {timeOfDay(at, zone)}</span
							>{/if}
					</span>
				</label>
			</li>
		{/each}
	</ul>
</section>

<style>
	h2 {
		font-size: 17px;
		margin-bottom: 6px;
	}
	ul {
		list-style: none;
		margin: 0;
		padding: 0;
		border-top: 1px solid var(--rule);
	}
	li {
		border-bottom: 1px solid var(--rule);
		padding: 7px 0;
	}
	label {
		display: grid;
		grid-template-columns: 20px 1fr;
		gap: 8px;
		align-items: start;
		cursor: pointer;
	}
	input {
		margin: 3px 0 0;
	}
	.mono {
		white-space: nowrap;
		font-size: 12px;
	}
</style>
