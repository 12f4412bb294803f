/** The kinds of places where messages can still be: a data file that anyone can extend. */
import { z } from 'zod';
import shipped from './catalogue.json';

export const harmSchema = z.enum(['harmless', 'overwrites', 'erases']);
export type Harm = z.infer<typeof harmSchema>;

export const kindSchema = z.object({
	id: z.string().regex(/^[a-z0-9-]{1,40}$/),
	name: z.string().min(1).max(120),
	/**
	 * How it holds messages: a copy made at one moment; residue of what was deleted; a bin that empties after `days`;
	 * rolling copies that reach `days` back; an account kept in step; the other side's copy; the provider; or a step that
	 * holds nothing itself.
	 */
	holds: z.enum(['copy', 'residue', 'bin', 'rolling', 'account', 'other-side', 'provider', 'step']),
	days: z.number().positive().max(40_000).nullable(),
	can: z.string().max(600),
	needs: z.array(z.string().max(120)).max(12),
	harm: harmSchema,
	/** Kinds that are no use any more once this was done. */
	closes: z.array(z.string()).max(30).default([]),
	/** From and to, minutes. */
	minutes: z.tuple([z.number().min(0), z.number().min(0)]),
	steps: z.array(z.string().max(400)).max(20),
	warning: z.string().max(400).nullable()
});
export type PlaceKind = z.infer<typeof kindSchema>;

export const catalogueSchema = z.object({
	format: z.literal('ombudsman-catalogue'),
	version: z.literal(1),
	kinds: z.array(kindSchema).max(500)
});
export type Catalogue = z.infer<typeof catalogueSchema>;

export const CATALOGUE: Catalogue = catalogueSchema.parse(shipped);

/** Reads a catalogue file. The kinds that are right, and a line for each that is not. */
export function readCatalogue(text: string): { kinds: PlaceKind[]; problems: string[] } {
	let data: unknown;
	try {
		data = JSON.parse(text);
	} catch {
		return { kinds: [], problems: ['The catalogue is not JSON. Nothing was taken from it.'] };
	}
	const outer = z
		.object({ format: z.literal('ombudsman-catalogue'), version: z.number(), kinds: z.array(z.unknown()).max(500) })
		.safeParse(data);
	if (!outer.success)
		return { kinds: [], problems: ['This is not a catalogue of places: "format" and "kinds" are missing. Nothing was taken from it.'] };
	if (outer.data.version !== 1)
		return { kinds: [], problems: [`This catalogue is of version ${outer.data.version}; version 1 can be read here.`] };
	const kinds: PlaceKind[] = [];
	const problems: string[] = [];
	outer.data.kinds.forEach((raw, i) => {
		const parsed = kindSchema.safeParse(raw);
		if (parsed.success) kinds.push(parsed.data);
		else {
			const [issue] = parsed.error.issues;
			problems.push(`Kind ${i + 1}: ${issue?.path.join('.') || 'it'} is not right (${issue?.message ?? 'unknown'}). It was left out.`);
		}
	});
	return { kinds, problems };
}

/** The shipped kinds and the user's own; of two with one id the user's. */
export function kindsWith(own: readonly PlaceKind[]): PlaceKind[] {
	const ids = new Set(own.map((k) => k.id));
	return [...CATALOGUE.kinds.filter((k) => !ids.has(k.id)), ...own];
}
