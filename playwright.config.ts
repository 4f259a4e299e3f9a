import { defineConfig } from '@playwright/test';
import { CHROMIUM } from './tests/browser/chromium.ts';

export default defineConfig({
  testDir: 'tests/browser',
  testMatch: '*.spec.ts',
  globalSetup: './tests/browser/house.ts',
  // Each worker has an application of its own: two cores are then in use most of the time.
  workers: 2,
  fullyParallel: false,
  timeout: 240_000,
  // One more go on a machine that may be six times slower on a day; the report names each that needed it.
  retries: process.env.CI ? 1 : 0,
  expect: { timeout: 30_000 },
  reporter: [['list'], ['json', { outputFile: '.clear-bell/check/browser.json' }]],
  outputDir: '.clear-bell/check/browser-output',
  use: {
    launchOptions: CHROMIUM,
    viewport: { width: 1280, height: 800 },
    locale: 'en-GB',
    timezoneId: 'Europe/London',
    trace: 'off',
    // An action that cannot be done is a failure told early, not the end of the test's whole time.
    actionTimeout: 60_000,
  },
});
