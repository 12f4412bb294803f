/** The demo case: its files come from this server and are looked at like any others. */
import { z } from 'zod';
import { lossSchema, placeSchema } from '$core/prospects';
import { theCase } from './case.svelte';
import { theLook, type Given } from './look.svelte';

const listSchema = z.object({
	name: z.string(),
	owner: z.string(),
	zone: z.string(),
	today: z.number(),
	loss: lossSchema,
	places: z.array(placeSchema),
	heeded: z.record(z.string(), z.number()),
	files: z.array(z.object({ name: z.string(), modified: z.number() }))
});

async function fromServer(name: string, modified: number): Promise<Given> {
	const response = await fetch(`/demo/${encodeURIComponent(name)}`);
	if (!response.ok) throw new Error(`The demo file ${name} is missing. Start it again with npm run demo.`);
	return { file: new File([await response.blob()], name, { lastModified: modified }), path: name };
}

export async function loadDemo(): Promise<void> {
	theLook.begin('Fetching the demo case');
	const list = listSchema.parse(await (await fetch('/demo/case.json')).json());
	const given = await Promise.all(list.files.map(({ name, modified }) => fromServer(name, modified)));
	const { name, owner, zone, today, loss, places, heeded } = list;
	await theCase.create({ name, owner, zone, today, loss, places, heeded, demo: true });
	theLook.running = false;
	await theLook.add(given);
}

/** A file of the demo that a place offers. */
export const offeredFile = (name: string): Promise<Given> => fromServer(name, Date.UTC(2025, 2, 3, 9));
