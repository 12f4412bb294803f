/** Typesets a record: tagged PDF/A, with the fonts that ship with the application. Server only. */
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { NodeCompiler } from '@myriaddreamin/typst-ts-node-compiler';
import { pageData, TEMPLATE, type BundleRecord } from '$core/bundle';

const require = createRequire(import.meta.url);

const FONTS: [string, string[]][] = [
	['source-serif-pro', ['.']],
	['source-sans-pro', ['.']],
	['source-code-pro', ['400Regular', '600SemiBold']],
	['noto-naskh-arabic', ['400Regular', '700Bold']],
	['noto-sans-sc', ['400Regular', '600SemiBold']],
	['noto-sans-kr', ['400Regular']],
	['noto-sans-hebrew', ['400Regular']],
	['noto-sans-thai', ['400Regular']],
	['noto-sans-devanagari', ['400Regular']],
	['noto-emoji', ['400Regular']],
	['noto-sans-symbols-2', ['400Regular']],
	['noto-sans-math', ['400Regular']],
	['noto-sans', ['400Regular']]
];

let compiler: NodeCompiler | null = null;

function typesetter(): NodeCompiler {
	compiler ??= NodeCompiler.create({
		workspace: dirname(require.resolve('@expo-google-fonts/noto-emoji/package.json')),
		fontArgs: [
			{
				fontPaths: FONTS.flatMap(([name, folders]) =>
					folders.map((f) => join(dirname(require.resolve(`@expo-google-fonts/${name}/package.json`)), f))
				)
			}
		]
	});
	return compiler;
}

export class TypesettingFailed extends Error {
	override readonly name = 'TypesettingFailed';
}

export function typeset(record: BundleRecord): { pdf: Uint8Array<ArrayBuffer>; pages: number } {
	const engine = typesetter();
	const result = engine.compile({ mainFileContent: TEMPLATE, inputs: { record: JSON.stringify(pageData(record)) } });
	const document = result.result;
	if (!document) {
		const error = result.takeError();
		throw new TypesettingFailed(`The pages could not be set: ${JSON.stringify(error?.shortDiagnostics ?? 'no reason given')}`);
	}
	const pdf = new Uint8Array(
		engine.pdf(document, { pdfStandard: 'a-2b', pdfTags: true, creationTimestamp: Math.floor(record.madeAt / 1000) })
	);
	const pages = document.numOfPages;
	engine.evictCache(2);
	return { pdf, pages };
}
