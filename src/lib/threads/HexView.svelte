<script lang="ts">
	/** Bytes in hex, the value's own marked. */
	let { hex, from, mark }: { hex: string; from: number; mark: [number, number] | null } = $props();

	const ACROSS = 12;
	const bytes = $derived(hex.match(/../g) ?? []);
	const lines = $derived(
		Array.from({ length: Math.ceil(bytes.length / ACROSS) }, (_, i) => ({
			at: from + i * ACROSS,
			start: i * ACROSS,
			bytes: bytes.slice(i * ACROSS, (i + 1) * ACROSS)
		}))
	);
	const inside = (i: number): boolean => mark !== null && i >= mark[0] && i < mark[1];
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -- a region that scrolls must be reachable by key -->
<pre tabindex="0" aria-label="Bytes from offset {from}">{#each lines as line (line.at)}<span class="line"
			><span class="at">{line.at.toString(16).toUpperCase().padStart(6, '0')}</span>{#each line.bytes as byte, i (i)}<span
					class:value={inside(line.start + i)}>{byte}</span
				>{/each}</span
		>{/each}</pre>

<style>
	pre {
		margin: 0;
		padding: 8px 9px;
		background: var(--shade);
		font: 400 11.5px/1.55 var(--mono);
		overflow-x: auto;
		max-height: 300px;
	}
	.line {
		display: flex;
		color: var(--ochre-text);
		white-space: nowrap;
	}
	.line span {
		padding: 0 2px;
	}
	.line .at {
		color: var(--soft);
		padding-right: 7px;
	}
	.value {
		background: var(--plum-wash);
		color: var(--ink);
	}
</style>
