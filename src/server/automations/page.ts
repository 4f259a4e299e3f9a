import type { AutomationPage } from '../../core/automation/page.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { runFigures } from './runStore.ts';
import { listRuns } from './runs.ts';
import { publishProblems } from './publishProblems.ts';
import { requireOwn } from './service.ts';
import { isTheirs } from './sharing.ts';
import { peopleOfAutomation } from './sharingStore.ts';
import { versionsOf } from './store.ts';

/** An automation as its page shows it: as it is written, what keeps it from working, its versions and its last runs. */
export async function openAutomation(db: Database, actor: Actor, id: number): Promise<AutomationPage> {
  const row = await requireOwn(db, actor, id);
  const [problems, people, versions, figures, { runs }] = await Promise.all([
    publishProblems(db, actor, row.draft, row.savedById),
    peopleOfAutomation(db, id),
    versionsOf(db, id),
    runFigures(db, 7),
    listRuns(db, actor, { automationId: id, states: [], before: null }),
  ]);
  return {
    id,
    automation: row.draft,
    revision: row.revision,
    state: row.state,
    whyPaused: row.whyPaused,
    owner: row.owner,
    isOwner: row.ownerId === actor.id,
    isTheirs: isTheirs(actor, row),
    people,
    live: row.live !== null,
    liveNumber: row.liveNumber,
    changed: row.live !== null && JSON.stringify(row.live) !== JSON.stringify(row.draft),
    nextMs: row.state === 'on' ? (figures.get(id)?.nextMs ?? null) : null,
    problems,
    versions: versions.map(({ number, by, atMs, automation }) => ({
      number,
      by,
      atMs,
      title: automation.content.title,
    })),
    runs: runs.slice(0, 20),
  };
}
