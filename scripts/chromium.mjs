/** Where Chromium is, if it is anywhere. CHROMIUM names another one. */
import { existsSync } from 'node:fs';

const PLACES = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/lib/chromium/chromium'];

export const chromiumPath = () => [process.env.CHROMIUM, ...PLACES].find((p) => p && existsSync(p)) ?? null;
