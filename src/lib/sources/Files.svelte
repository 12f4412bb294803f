<script lang="ts">
	/** What was given: files by themselves with their hashes, folders as one, which can be opened. */
	import { SvelteSet } from 'svelte/reactivity';
	import { sizeWords } from '$lib/sources/bytes';
	import { groupsOf } from '$lib/sources/groups';

	interface Given {
		path: string;
		name: string;
		size: number;
		sha256: string | null;
		was: string | null;
	}
	interface Props {
		files: Given[];
		disabled: boolean;
		/** Paths of those that are not on their drive any more as they were given. */
		altered: readonly string[];
		/** Asked to take these out of the case; `name` is what they are called together. */
		onremove: (name: string, paths: string[]) => void;
	}
	const { files, disabled, altered, onremove }: Props = $props();
	const groups = $derived(groupsOf(files));
	const open = new SvelteSet<string>();
	/** Files that are said to have changed, each. */
	const MOST_CHANGED = 20;
	/** Files of one folder that are listed. */
	const MOST = 2000;

	const hashOf = (file: Given): string =>
		file.size === 0 ? 'empty' : file.sha256 === '' ? 'could not be read' : (file.sha256 ?? 'being computed');
	/** Of those that are not what was first given. */
	const changed = $derived(files.filter((f) => f.was !== null && f.sha256 !== null));
	const hashed = (list: readonly Given[]): number => list.filter((f) => f.sha256 !== null || f.size === 0).length;
	const count = (n: number): string => n.toLocaleString('en-GB');
	function toggle(path: string): void {
		if (!open.delete(path)) open.add(path);
	}
</script>

<section aria-labelledby="files">
	<h2 id="files">Files</h2>
	<table class="ruled">
		<thead><tr><th>File</th><th class="number">Size</th><th>SHA-256</th><th><span class="visually-hidden">Acts</span></th></tr></thead>
		<tbody>
			{#each groups as group (group.path)}
				{@const single = group.folder && group.files.length > 1 ? null : group.files[0]!}
				{@const name = single?.name ?? group.path}
				<tr>
					<td
						>{#if single}<bdi>{single.name}</bdi>{:else}<button
								type="button"
								class="opens"
								aria-expanded={open.has(group.path)}
								onclick={() => toggle(group.path)}><bdi>{group.path}</bdi>, {count(group.files.length)} files</button
							>{/if}</td
					>
					<td class="number mono">{sizeWords(group.size)}</td>
					<td class="mono hash"
						>{#if single}{hashOf(single)}{:else if hashed(group.files) === group.files.length}of each file{:else}{count(
								hashed(group.files)
							)} of {count(group.files.length)} computed{/if}</td
					>
					<td class="number"
						><button
							type="button"
							class="button small"
							{disabled}
							onclick={() =>
								onremove(
									single?.path ?? group.path,
									group.files.map((f) => f.path)
								)}
							aria-label="Take {name} out">Take out</button
						></td
					>
				</tr>
				{#if !single && open.has(group.path)}
					<tr
						><td colspan="4">
							<ul class="opened hashed" aria-label="Files in {group.path}">
								{#each group.files.slice(0, MOST) as file (file.path)}<li>
										<bdi>{file.path.slice(group.path.length + 1)}</bdi> <span class="soft mono number">{sizeWords(file.size)}</span>
										<span class="mono hash">{hashOf(file)}</span>
									</li>{/each}
							</ul>
							{#if group.files.length > MOST}<p class="soft">
									The first {count(MOST)} of {count(group.files.length)} files are listed.
								</p>{/if}
						</td></tr
					>
				{/if}
			{/each}
		</tbody>
	</table>
	{#each changed.slice(0, MOST_CHANGED) as file (file.path)}
		<p class="problem" role="alert">
			<bdi>{file.name}</bdi> is not what was first given: it was changed since. Its SHA-256 was
			<span class="mono hash">{file.was}</span>.
		</p>
	{/each}
	{#each altered.slice(0, MOST_CHANGED) as path (path)}
		<p class="problem" role="alert">
			<bdi>{path}</bdi> is not there any more as it was given: it was moved, changed or unplugged. What was found in it is kept; give it again
			to look further.
		</p>
	{/each}
	{#if altered.length > MOST_CHANGED}<p class="problem">So are {count(altered.length - MOST_CHANGED)} more files.</p>{/if}
	{#if changed.length > MOST_CHANGED}<p class="problem">{count(changed.length - MOST_CHANGED)} more files were changed since.</p>{/if}
</section>

<style>
	h2 {
		font-size: 17px;
		margin-bottom: 4px;
	}
	p {
		margin: 0;
	}
	.problem {
		margin-top: 8px;
		background: var(--ochre-wash);
		padding: 4px 10px;
		overflow-wrap: anywhere;
	}
	th,
	td {
		overflow-wrap: anywhere;
	}
	.hash {
		font-size: 11.5px;
		color: var(--soft);
	}
	.small {
		padding: 3px 9px;
	}
	.hashed > li {
		grid-template-columns: minmax(0, 1fr) 6em minmax(0, 1.1fr);
	}
</style>
