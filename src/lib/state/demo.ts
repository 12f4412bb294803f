/** The demo case: its files come from this server and are looked at like any others. */
import { z } from 'zod';
import { theLook } from './look.svelte';

const listSchema = z.object({
	name: z.string(),
	owner: z.string(),
	zone: z.string(),
	files: z.array(z.object({ name: z.string(), modified: z.number() }))
});

export async function loadDemo(): Promise<void> {
	const list = listSchema.parse(await (await fetch('/demo/case.json')).json());
	const given = await Promise.all(
		list.files.map(async ({ name, modified }) => {
			const response = await fetch(`/demo/${encodeURIComponent(name)}`);
			if (!response.ok) throw new Error(`The demo file ${name} is missing. Start it again with npm run demo.`);
			return { file: new File([await response.blob()], name, { lastModified: modified }), path: name };
		})
	);
	await theLook.start(given, { name: list.name, demo: true, zone: list.zone, owner: list.owner });
}
