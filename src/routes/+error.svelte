<script lang="ts">
	import { page } from '$app/state';
</script>

<main>
	<div class="page">
		<h1>{page.status === 404 ? 'There is no such page' : 'This page could not be shown'}</h1>
		<p>
			{page.status === 404 ? 'The address leads nowhere here.' : (page.error?.message ?? 'Something in it failed.')} Your case is kept in this
			browser and is not affected.
		</p>
		<p><a href="/sources">Go on to Sources</a>, or <a href="/cases">choose a case</a>.</p>
	</div>
</main>

<style>
	.page {
		max-width: 900px;
		margin: 0 auto;
		padding: 24px 16px;
		display: grid;
		gap: 12px;
	}
	h1 {
		font-size: 1.5rem;
	}
	a {
		color: var(--verdigris);
		text-decoration: underline;
	}
</style>
