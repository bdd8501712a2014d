import { existsSync } from 'node:fs';

/** Debian's browser without windows: it draws the same with a third of the work. */
export const HEADLESS = '/usr/bin/chromium-headless-shell';
export const WHOLE = '/usr/bin/chromium';
/** How the browser of tests, pictures and measurements is started: it asks nobody outside for anything. */
export const chromiumOptions = () => ({
  executablePath: process.env.CHROMIUM_PATH ?? (existsSync(HEADLESS) ? HEADLESS : WHOLE),
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
});
