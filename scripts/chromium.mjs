import { existsSync } from 'node:fs';

/** Debian's browser without windows: it draws the same with a third of the work. */
export const HEADLESS = '/usr/bin/chromium-headless-shell';
export const WHOLE = '/usr/bin/chromium';
/** The browser of tests and pictures. */
export const chromiumPath = () => process.env.CHROMIUM_PATH ?? (existsSync(HEADLESS) ? HEADLESS : WHOLE);
