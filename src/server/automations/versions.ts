import { automationAsText } from '../../core/automation/asText.ts';
import type { Automation } from '../../core/automation/automation.ts';
import type { AutomationVersion } from '../../core/automation/page.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { changesInWorker } from '../comparing/inWorker.ts';
import type { Database } from '../database/connection.ts';
import { notFound } from '../problem.ts';
import { fieldsFor } from './fields.ts';
import { readingNames } from './naming.ts';
import { requireOwn } from './service.ts';
import { versionNumbered } from './store.ts';

/**
 * A version of an automation, with what changed in it and since, word by word, as everything that it names is called now.
 *
 * @throws 404 for whoever may not change it, and where there is no such version; 503 where it takes too long to compare
 */
export async function automationVersion(
  db: Database,
  actor: Actor,
  id: number,
  number: number,
): Promise<AutomationVersion> {
  const { draft } = await requireOwn(db, actor, id);
  const [before, version] = await Promise.all([
    versionNumbered(db, id, number - 1),
    versionNumbered(db, id, number),
  ]);
  if (!version) throw notFound('version');
  const names = await readingNames(db, actor, [draft, version, ...(before ? [before] : [])]);
  const text = async (automation: Automation): Promise<string> =>
    automationAsText(automation, (await fieldsFor(db, automation)).fields, names);
  const [was, is, written] = await Promise.all([before ? text(before) : '', text(version), text(draft)]);
  return {
    automation: version,
    since: await changesInWorker(was, is),
    until: await changesInWorker(is, written),
    same: JSON.stringify(version) === JSON.stringify(draft),
  };
}
