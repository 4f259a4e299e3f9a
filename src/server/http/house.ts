import type { Logger } from 'pino';
import { AttemptLimit } from '../accounts/rateLimit.ts';
import { connect, type Database } from '../database/connection.ts';
import { logger } from '../log.ts';
import { readSettings, type Settings } from '../settings.ts';

/** What every request of this process shares. Nothing in it outlives the process or differs between processes. */
export interface House {
  settings: Settings;
  db: Database;
  log: Logger;
  attempts: AttemptLimit;
}

let opened: House | undefined;

/** Opens the house at the first request. */
export function house(): House {
  if (!opened) {
    const settings = readSettings(process.env);
    opened = {
      settings,
      db: connect(settings.DATABASE_URL, 12),
      log: logger('web', settings.LOG_LEVEL),
      attempts: new AttemptLimit(settings.DATABASE_URL),
    };
    process.once('SIGTERM', () => void opened?.db.destroy());
  }
  return opened;
}
