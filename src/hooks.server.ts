import type { Handle } from '@sveltejs/kit';

const OWN_HOSTS = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;

/** Answers only to this machine's own names, and forbids the page everything it does not need. */
export const handle: Handle = async ({ event, resolve }) => {
	if (!OWN_HOSTS.test(event.request.headers.get('host') ?? ''))
		return new Response('This server answers on this machine only.', { status: 421 });
	const response = await resolve(event);
	response.headers.set('X-Content-Type-Options', 'nosniff');
	response.headers.set('Referrer-Policy', 'no-referrer');
	response.headers.set('Cross-Origin-Opener-Policy', 'same-origin');
	response.headers.set('Cross-Origin-Resource-Policy', 'same-origin');
	response.headers.set('X-Frame-Options', 'DENY');
	response.headers.set('Permissions-Policy', 'camera=(), microphone=(), geolocation=(), payment=(), usb=()');
	return response;
};
