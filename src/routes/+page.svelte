<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { theCase } from '$lib/state/case.svelte';

	onMount(() => goto(theCase.record ? '/threads' : '/sources', { replaceState: true }));
</script>
