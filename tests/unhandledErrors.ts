import { writeFileSync } from 'node:fs';
import type { Reporter, SerializedError } from 'vitest/node';

/*
 * Writes down the errors that nobody caught, each with the file of tests it came in: they fail the run without failing a test, and the
 * report of the tests does not have them. Nothing is written unless a file is named for it.
 */
export default class UnhandledErrors implements Reporter {
  onTestRunEnd(_modules: unknown, errors: readonly SerializedError[]): void {
    const to = process.env.UNHANDLED_ERRORS_TO;
    if (to === undefined) return;
    const found = errors.map((error) => ({
      file: (error.VITEST_TEST_PATH as string | undefined) ?? null,
      error: error.stack ?? error.message,
    }));
    writeFileSync(to, JSON.stringify(found));
  }
}
