<script lang="ts">
	import * as pdfjs from 'pdfjs-dist';
	import workerUrl from 'pdfjs-dist/build/pdf.worker.min.mjs?url';

	pdfjs.GlobalWorkerOptions.workerSrc = workerUrl;

	let { pdf, page = $bindable(1), pages = $bindable(0) }: { pdf: Uint8Array; page?: number; pages?: number } = $props();
	let canvas = $state<HTMLCanvasElement>();
	let text = $state('');
	let file = $state.raw<pdfjs.PDFDocumentProxy | null>(null);
	let drawing: pdfjs.RenderTask | null = null;

	$effect(() => {
		// The reader takes the bytes over, so it gets its own.
		const task = pdfjs.getDocument({ data: pdf.slice(), isEvalSupported: false });
		task.promise.then(
			(loaded) => {
				file = loaded;
				pages = loaded.numPages;
				page = Math.min(Math.max(1, page), loaded.numPages);
			},
			() => (file = null)
		);
		return () => void task.destroy();
	});

	$effect(() => {
		if (!file || !canvas) return;
		void draw(file, canvas, page);
	});

	let latest = 0;
	async function draw(from: pdfjs.PDFDocumentProxy, onto: HTMLCanvasElement, number: number): Promise<void> {
		// Only the page asked for last is shown, whichever is ready first.
		const own = ++latest;
		drawing?.cancel();
		const sheet = await from.getPage(number);
		if (own !== latest) return;
		const scale = (onto.parentElement!.clientWidth / sheet.getViewport({ scale: 1 }).width) * Math.max(1, devicePixelRatio);
		const viewport = sheet.getViewport({ scale });
		onto.width = viewport.width;
		onto.height = viewport.height;
		drawing = sheet.render({ canvas: onto, viewport });
		await drawing.promise.catch(() => undefined);
		const content = await sheet.getTextContent();
		if (own === latest) text = content.items.map((i) => ('str' in i ? i.str + (i.hasEOL ? '\n' : '') : '')).join('');
	}
</script>

<div class="sheet">
	<canvas bind:this={canvas} aria-label="Page {page} of {pages}" aria-describedby="page-text"></canvas>
	<div id="page-text" class="visually-hidden">{text}</div>
</div>

<style>
	.sheet {
		width: min(100%, 560px);
		margin: 0 auto;
		background: #fff;
		border: 1px solid var(--rule);
		aspect-ratio: 210 / 297;
	}
	canvas {
		width: 100%;
		height: auto;
		display: block;
	}
</style>
