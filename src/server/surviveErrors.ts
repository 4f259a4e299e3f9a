import type { Logger } from 'pino';

/**
 * Keeps a process going after an error that nobody caught, and says so in the log. Nothing that matters lives in a
 * process's memory: what the error interrupted is taken up again from the database when its claim ends, while ending the
 * process would take along everything else it is doing.
 */
export function surviveErrors(log: Logger): void {
  process.on('uncaughtException', (error) => log.fatal({ err: error }, 'an error that nobody caught'));
  process.on('unhandledRejection', (error) => log.fatal({ err: error }, 'a rejection that nobody caught'));
}
