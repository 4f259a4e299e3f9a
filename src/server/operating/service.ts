import type { Running } from '../../core/operating/running.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { countAside, databaseState, lastBackups, latenessOfDay, mailOfDay, queues } from './figuresStore.ts';
import { processes } from './processStore.ts';

const BACKUPS_SHOWN = 5;

/**
 * How the installation runs at this moment: processes, what waits, lateness, mail, backups, the database. Of nobody by name.
 *
 * @throws 403 for whoever is no coordinator
 */
export async function howItRuns(db: Database, actor: Actor): Promise<Running> {
  if (actor.role !== 'coordinator') throw new Problem(403, 'Only coordinators see how it runs.');
  const nowMs = await databaseNow(db);
  const [running, waiting, lateness, mail, aside, backups, database] = await Promise.all([
    processes(db),
    queues(db),
    latenessOfDay(db),
    mailOfDay(db),
    countAside(db),
    lastBackups(db, BACKUPS_SHOWN),
    databaseState(db, nowMs),
  ]);
  return { nowMs, processes: running, queues: waiting, lateness, mail, aside, backups, database };
}
