import { defineConfig } from 'vitest/config';

/** The code is loaded once for each worker, not once more for each file: no state of it outlives a database. */
const LOADED_ONCE = { isolate: false };

export default defineConfig({
  test: {
    // Two cores: more files at once would only make the engines in them late.
    maxWorkers: 2,
    projects: [
      // A property tried five hundred times may take longer than five seconds on a busy machine.
      { test: { ...LOADED_ONCE, name: 'core', include: ['tests/core/**/*.test.ts'], testTimeout: 60_000 } },
      {
        test: {
          name: 'components',
          include: ['tests/components/**/*.test.tsx'],
          environment: 'happy-dom',
          setupFiles: ['tests/components/page.ts'],
          testTimeout: 60_000,
        },
      },
      {
        test: {
          ...LOADED_ONCE,
          name: 'server',
          include: ['tests/server/**/*.test.ts'],
          globalSetup: ['tests/server/mariadb.ts'],
          setupFiles: ['tests/server/answers.ts'],
          // As in the browser tests: one more go in the check, on machines that differ sixfold; the report names it.
          retry: process.env.CI ? 1 : 0,
          testTimeout: 60_000,
          hookTimeout: 180_000,
        },
      },
    ],
  },
});
