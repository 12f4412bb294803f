<script lang="ts">
	import { STANDING_LETTER, STANDING_WORDS } from '$core/wording';
	import type { Standing } from '$core/model';

	let { standing }: { standing: Standing } = $props();
</script>

<span class="standing {standing}" title={STANDING_WORDS[standing]}
	><span aria-hidden="true">{STANDING_LETTER[standing]}</span><span class="visually-hidden">{standing}</span></span
>

<style>
	.standing {
		display: inline-grid;
		place-items: center;
		width: 18px;
		height: 18px;
		font: 600 11px/1 var(--mono);
		color: var(--soft);
	}
	.binned {
		border: 1px solid var(--ochre);
		border-radius: 50%;
		color: var(--ochre-text);
	}
	.dropped {
		background: var(--plum);
		color: var(--sheet);
	}
	.remnant {
		border: 1px dashed var(--verdigris);
		color: var(--verdigris);
	}
</style>
