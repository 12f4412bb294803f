import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig({
	plugins: [tailwindcss(), sveltekit()],
	worker: { format: 'es' },
	build: { target: 'es2022', assetsInlineLimit: 0, chunkSizeWarningLimit: 2000 },
	ssr: { external: ['@myriaddreamin/typst-ts-node-compiler'] }
});
