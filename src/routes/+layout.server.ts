import { env } from '$env/dynamic/private';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = () => ({ demo: env.OMBUDSMAN_DEMO === '1' });
