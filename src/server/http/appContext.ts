import type { Logger } from 'pino';
import { AttemptLimit } from '../accounts/rateLimit.ts';
import { connect, type Database } from '../database/connection.ts';
import { logger } from '../log.ts';
import { readSettings, type Settings } from '../settings.ts';

/** What every request of this process shares. Nothing in it outlives the process or differs between processes. */
export interface AppContext {
  settings: Settings;
  db: Database;
  log: Logger;
  attempts: AttemptLimit;
}

let opened: AppContext | undefined;

/** What every request is answered with: opened at the first of them. */
export function appContext(): AppContext {
  if (!opened) {
    const settings = readSettings(process.env);
    opened = {
      settings,
      db: connect(settings.DATABASE_URL, 12),
      log: logger('web', settings.LOG_LEVEL),
      attempts: new AttemptLimit(settings.DATABASE_URL),
    };
    process.once('SIGTERM', () => void closeAppContext());
  }
  return opened;
}

/** Closes what requests are answered with; the next request opens it anew, by the settings there are then. */
export async function closeAppContext(): Promise<void> {
  const { db } = opened ?? {};
  opened = undefined;
  await db?.destroy();
}
