import type { LaunchOptions } from '@playwright/test';
import { find } from '../../scripts/house/debian.ts';

/** The command the browser tests need, with the Debian package it comes in. */
export const CHROMIUM_COMMANDS = { chromium: 'chromium' };

/** Debian's Chromium, kept from asking the network for anything of its own. */
export const CHROMIUM: LaunchOptions = {
  executablePath: find('chromium') ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
};
