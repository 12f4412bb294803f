<script lang="ts">
	/** Text with the words that were looked for marked; always as text. */
	let { text, find }: { text: string; find: string } = $props();

	const parts = $derived.by(() => {
		const words = find.trim().toLocaleLowerCase();
		const low = text.toLocaleLowerCase();
		if (!words || low.length !== text.length) return [{ text, hit: false }];
		const out: { text: string; hit: boolean }[] = [];
		let at = 0;
		for (let i = low.indexOf(words); i >= 0 && out.length < 200; i = low.indexOf(words, at)) {
			if (i > at) out.push({ text: text.slice(at, i), hit: false });
			out.push({ text: text.slice(i, i + words.length), hit: true });
			at = i + words.length;
		}
		out.push({ text: text.slice(at), hit: false });
		return out;
	});
</script>

{#each parts as part, i (i)}{#if part.hit}<mark>{part.text}</mark>{:else}{part.text}{/if}{/each}

<style>
	mark {
		background: var(--ochre-wash);
		color: var(--ink);
	}
</style>
