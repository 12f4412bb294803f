<script lang="ts">
	import { lostBytes, writerOf } from '$core/bundle';
	import StandingMark from '$lib/ui/StandingMark.svelte';
	import { theCase } from '$lib/state/case.svelte';
	import { timeOfDay, timeWithSeconds, shortDay } from '$lib/state/zone';
	import type { SlimMessage } from '$store';
	import CaptureDots from './CaptureDots.svelte';
	import Marked from './Marked.svelte';

	interface Props {
		message: SlimMessage;
		/** Earlier wordings, newest first. */
		earlier: SlimMessage[];
		zone: string;
		owner: string;
		focused: boolean;
		picked: boolean;
		hit: boolean;
		find: string;
		/** Names of the captures of its store, oldest first. */
		captures: string[];
		/** The one copy that has it, where others of the thread lack it. */
		onlyIn: string | null;
		onfocus: () => void;
		onpick: () => void;
	}
	let { message, earlier, zone, owner, focused, picked, hit, find, captures, onlyIn, onfocus, onpick }: Props = $props();

	const SHOWN = 6000;
	const writer = $derived(writerOf(message, owner));
	const rest = $derived((message.textRest?.text ?? '').slice(0, SHOWN));
	const text = $derived(message.text && message.text.length > SHOWN ? message.text.slice(0, SHOWN) : message.text);
</script>

<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -- keys are the page's: j, k, n, p, x -->
<article
	class={message.standing}
	class:focused
	class:own={message.direction === 'out'}
	class:hit
	aria-current={focused ? 'true' : undefined}
	onclick={onfocus}
>
	<time
		class="mono"
		datetime={message.sentAt === null ? undefined : new Date(message.sentAt).toISOString()}
		title={message.sentAt === null ? 'Time not known' : `${shortDay(message.sentAt, zone)} ${timeWithSeconds(message.sentAt, zone)}`}
		>{message.sentAt === null ? '––:––' : timeOfDay(message.sentAt, zone)}</time
	>
	<StandingMark standing={message.standing} />
	<div class="what">
		<bdi class="writer">{writer}</bdi>
		{#if text !== null}
			<p class="text" dir="auto">
				<span
					>{#if hit}<Marked {text} {find} />{:else}{text}{/if}</span
				>{#if message.textRest}<em class="cut"> … {lostBytes(message.textRest.lost)} overwritten … </em><span
						>{#if hit}<Marked text={rest} {find} />{:else}{rest}{/if}</span
					>{:else if message.textCut}<em class="cut">
						… the rest is overwritten</em
					>{/if}{#if message.text && message.text.length > SHOWN}<em class="cut">
						… {message.text.length.toLocaleString('en-GB')} characters; the record holds them all</em
					>{/if}
			</p>
		{:else}
			<p class="soft">No text</p>
		{/if}
		{#if message.grade !== 'whole'}<p class="grade soft">{message.grade === 'rebuilt' ? 'rebuilt' : 'fragment'}</p>{/if}
		{#if onlyIn}<p class="grade soft">only in <bdi>{onlyIn}</bdi></p>{/if}
		{#if message.attachments}
			<p class="files soft">
				{#each message.attachments as file, at (at)}<bdi>{file.name ?? file.type ?? 'a file'}</bdi>{file.size
						? ` · ${file.size.toLocaleString('en-GB')} B`
						: ''}{file.link
						? ` · found by ${file.link}`
						: theCase.record?.choice.attachments === false
							? ' · not sought'
							: ' · file not found'}{#if at < message.attachments!.length - 1}<br />{/if}{/each}
			</p>
		{/if}
		{#if message.attached}
			<p class="files soft">
				{#each message.attached as a, i (i)}<bdi>{a.what}</bdi>{a.who ? ` ${a.who}` : ''}{a.standing === 'kept' ? '' : ' (lost)'}{i <
					message.attached.length - 1
						? ' · '
						: ''}{/each}
			</p>
		{/if}
		{#each earlier as was (was.id)}
			<p class="earlier" dir="auto">
				<StandingMark standing={was.standing} />
				<span class="soft">earlier wording{was.until ? `, until ${shortDay(was.until, zone)} ${timeOfDay(was.until, zone)}` : ''}:</span>
				<span class="was">{was.text}</span>
			</p>
		{/each}
	</div>
	<span class="captures"
		>{#if message.states}<CaptureDots states={message.states} names={captures} />{/if}</span
	>
	<button
		type="button"
		class="pick"
		aria-pressed={picked}
		title={picked ? 'Put back' : 'Pick for the bundle'}
		onclick={(e) => {
			e.stopPropagation();
			onpick();
		}}
		><span aria-hidden="true">{picked ? '✓' : '+'}</span><span class="visually-hidden"
			>{picked ? 'Put back' : 'Pick'}: {(message.text ?? 'no text').slice(0, 40)}</span
		></button
	>
</article>

<style>
	article {
		display: grid;
		grid-template-columns: 46px 18px minmax(0, 1fr) auto 28px;
		column-gap: 10px;
		padding: 6px 14px 6px 15px;
		border-left: 3px solid transparent;
		cursor: default;
	}
	article.focused {
		background: var(--shade);
		border-left-color: var(--ink);
	}
	article.focused.dropped {
		border-left-color: var(--plum);
	}
	article.focused.remnant {
		border-left-color: var(--verdigris);
	}
	article.focused.binned {
		border-left-color: var(--ochre);
	}
	time {
		font-size: 13px;
		color: var(--soft);
		padding-top: 1px;
	}
	.what {
		min-width: 0;
	}
	.own .what {
		border-left: 2px solid var(--ink);
		padding-left: 12px;
		margin-left: 14px;
	}
	.writer {
		display: block;
		font: 600 13px/1.3 var(--sans);
		color: var(--soft);
	}
	p {
		margin: 0;
	}
	.text {
		overflow-wrap: anywhere;
		white-space: pre-wrap;
		text-align: start;
	}
	.dropped .text > span {
		box-shadow: inset 0 -5px var(--plum-wash);
	}
	.remnant .text > span {
		box-shadow: inset 0 -5px var(--verdigris-wash);
	}
	.binned .text > span {
		box-shadow: inset 0 -5px var(--ochre-wash);
	}
	.cut {
		color: var(--ochre-text);
		font-size: 13px;
		margin-inline: 0.25em;
	}
	.grade {
		font-size: 12px;
	}
	.files {
		font-size: 13px;
		overflow-wrap: anywhere;
	}
	.earlier {
		font-size: 14px;
		margin-top: 3px;
		overflow-wrap: anywhere;
	}
	.was {
		text-decoration: line-through;
		text-decoration-color: var(--plum);
	}
	.pick {
		align-self: start;
		width: 26px;
		height: 26px;
		border: 1px solid transparent;
		background: transparent;
		color: var(--soft);
		cursor: pointer;
		border-radius: 2px;
		font: 400 15px/1 var(--mono);
	}
	article:hover .pick,
	article.focused .pick,
	.pick:focus-visible {
		border-color: var(--rule);
	}
	.pick[aria-pressed='true'] {
		color: var(--verdigris);
		border-color: var(--verdigris);
	}
	@media (max-width: 820px) {
		article {
			padding: 6px 8px 6px 8px;
			column-gap: 7px;
		}
		.own .what {
			margin-left: 6px;
			padding-left: 9px;
		}
	}
</style>
