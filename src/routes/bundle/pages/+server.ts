import { error } from '@sveltejs/kit';
import { recordSchema } from '$core/bundle';
import { typeset, TypesettingFailed } from '$lib/server/typeset';
import type { RequestHandler } from './$types';

/** A record in, its pages as PDF out. Nothing is kept. */
export const POST: RequestHandler = async ({ request }) => {
	if (!request.headers.get('content-type')?.startsWith('application/json')) error(415, 'Send the record as JSON.');
	const body: unknown = await request.json().catch(() => null);
	const record = recordSchema.safeParse(body);
	if (!record.success)
		error(400, `The record is not one: ${record.error.issues[0]?.path.join('.') ?? ''} ${record.error.issues[0]?.message ?? ''}`);
	try {
		const { pdf, pages } = typeset(record.data);
		return new Response(pdf, { headers: { 'Content-Type': 'application/pdf', 'X-Pages': String(pages), 'Cache-Control': 'no-store' } });
	} catch (e) {
		if (e instanceof TypesettingFailed) error(500, e.message);
		throw e;
	}
};
