import { defineConfig } from '@playwright/test';
import { CHROMIUM } from './tests/browser/chromium.ts';

export default defineConfig({
  testDir: 'tests/browser',
  testMatch: '*.spec.ts',
  globalSetup: './tests/browser/house.ts',
  workers: 1,
  fullyParallel: false,
  timeout: 60_000,
  expect: { timeout: 10_000 },
  reporter: [['list'], ['json', { outputFile: '.clear-bell/check/browser.json' }]],
  outputDir: '.clear-bell/check/browser-output',
  use: {
    launchOptions: CHROMIUM,
    viewport: { width: 1280, height: 800 },
    locale: 'en-GB',
    timezoneId: 'Europe/London',
    trace: 'retain-on-failure',
  },
});
