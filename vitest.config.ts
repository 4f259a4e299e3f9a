import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    // Two cores: more files at once would only make the engines in them late.
    maxWorkers: 2,
    projects: [
      { test: { name: 'core', include: ['tests/core/**/*.test.ts'] } },
      {
        test: {
          name: 'server',
          include: ['tests/server/**/*.test.ts'],
          globalSetup: ['tests/server/mariadb.ts'],
          testTimeout: 60_000,
          hookTimeout: 60_000,
        },
      },
    ],
  },
});
