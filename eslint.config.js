import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';

/** The core runs anywhere: no interface code, no page, no worker, no Node. */
const CORE_IMPORTS = [
	{
		group: ['svelte', 'svelte/*', '@sveltejs/*', '$app/*', '$env/*', '$lib/*', '**/*.svelte', '@skeletonlabs/*'],
		message: 'The core has no interface code.'
	},
	{
		group: ['node:*', 'fs', 'path', 'os', 'crypto', 'buffer', 'worker_threads', 'child_process', 'stream', 'util', 'zlib'],
		message: 'The core does not know Node.'
	},
	{
		group: ['**/workers/**', '**/store/**', '**/cli/**', '**/routes/**', '**/lib/**', 'comlink', 'idb'],
		message: 'The core does not know who runs it.'
	}
];
const CORE_GLOBALS = [
	'window',
	'document',
	'self',
	'navigator',
	'location',
	'localStorage',
	'indexedDB',
	'fetch',
	'Worker',
	'postMessage',
	'FileReaderSync',
	'FileReader',
	'File',
	'Blob',
	'process',
	'Buffer',
	'require',
	'global',
	'setTimeout',
	'setInterval',
	'requestAnimationFrame',
	'XMLHttpRequest',
	'WebSocket',
	'HTMLElement'
];

export default ts.config(
	{ ignores: ['build/', '.svelte-kit/', 'node_modules/', 'static/', 'test-results/', 'playwright-report/'] },
	js.configs.recommended,
	...ts.configs.recommended,
	...svelte.configs.recommended,
	{
		languageOptions: { globals: { ...globals.browser, ...globals.node } },
		rules: {
			'no-undef': 'off',
			'no-control-regex': 'off',
			'@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_', caughtErrors: 'none' }],
			'@typescript-eslint/no-non-null-assertion': 'off',
			'svelte/no-navigation-without-resolve': 'off',
			'svelte/prefer-svelte-reactivity': 'off',
			'svelte/no-at-html-tags': 'error',
			'svelte/no-unused-svelte-ignore': 'off',
			'svelte/no-useless-mustaches': 'off',
			'no-eval': 'error',
			eqeqeq: ['error', 'always']
		}
	},
	{ files: ['**/*.svelte', '**/*.svelte.ts'], languageOptions: { parserOptions: { parser: ts.parser } } },
	{
		files: ['src/core/**/*.ts'],
		rules: {
			'no-restricted-imports': 'off',
			'@typescript-eslint/no-restricted-imports': ['error', { patterns: CORE_IMPORTS }],
			'no-restricted-globals': ['error', ...CORE_GLOBALS],
			'no-console': 'error'
		}
	}
);
