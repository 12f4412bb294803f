import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** @type {import('@sveltejs/kit').Config} */
export default {
	preprocess: vitePreprocess(),
	compilerOptions: { runes: ({ filename }) => (filename.includes('node_modules') ? undefined : true) },
	kit: {
		adapter: adapter({ out: 'build' }),
		alias: { $core: 'src/core', $store: 'src/store', $workers: 'src/workers' },
		// Nothing is requested from anywhere but this server, and nothing runs that did not ship with it.
		csp: {
			mode: 'nonce',
			directives: {
				'default-src': ['none'],
				'script-src': ['self', 'wasm-unsafe-eval'],
				'style-src': ['self'],
				// The framework's own live region carries one fixed inline style; its hash and no other.
				'style-src-attr': ['unsafe-hashes', 'sha256-S8qMpvofolR8Mpjy4kQvEm7m1q8clzU4dfDH0AmvZjo='],
				'img-src': ['self', 'blob:', 'data:'],
				'font-src': ['self'],
				'connect-src': ['self'],
				'worker-src': ['self'],
				'manifest-src': ['self'],
				'base-uri': ['none'],
				'form-action': ['none'],
				'frame-ancestors': ['none']
			}
		}
	}
};
