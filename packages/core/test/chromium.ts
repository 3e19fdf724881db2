import { existsSync } from 'node:fs';

/** The one without windows starts in half the time, and draws for a third less. */
const HEADLESS = '/usr/bin/chromium-headless-shell';

/** How tests start Debian's Chromium: without a window, and without reaching for the network. */
export const CHROMIUM = {
  executablePath:
    process.env['CHROMIUM'] ?? (existsSync(HEADLESS) ? HEADLESS : '/usr/bin/chromium'),
  headless: true,
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost',
  ],
};
