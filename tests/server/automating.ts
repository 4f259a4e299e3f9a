import { newAutomation, type Automation, type When } from '../../src/core/automation/automation.ts';
import type { RunLine } from '../../src/core/automation/run.ts';
import type { Inline } from '../../src/core/content/document.ts';
import type { TemplateField } from '../../src/core/content/field.ts';
import { plainSection } from '../../src/core/content/section.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { runAutomations } from '../../src/server/automations/running.ts';
import { listRuns } from '../../src/server/automations/runs.ts';
import { makeAutomation, publish, saveDraft } from '../../src/server/automations/service.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { coordinator, followAll, SECRET } from './world.ts';

/** A field in a text of an automation. */
export const field = (name: TemplateField, fallback = ''): Inline => ({
  type: 'field',
  attrs: { name, fallback },
});

/** What an automation says: a title, and one paragraph. */
export const says = (title: string, ...parts: (string | Inline)[]): Automation['content'] => ({
  ...newAutomation('', { kind: 'joins', groupId: 1 }).content,
  title,
  sections: [
    plainSection({
      type: 'doc',
      content: [
        {
          type: 'paragraph',
          content: parts.map((part) => (typeof part === 'string' ? { type: 'text', text: part } : part)),
        },
      ],
    }),
  ],
});

/** Makes an automation and puts it to work. */
export async function putToWork(
  db: Database,
  when: When,
  part: Partial<Automation>,
  by: Actor = coordinator,
): Promise<number> {
  const id = await makeAutomation(db, by, { name: 'Of a test', when });
  const automation = { ...newAutomation('Of a test', when), ...part };
  const revision = await saveDraft(db, by, id, { revision: 1, automation });
  await publish(db, by, id, revision);
  return id;
}

/** Does all that automations have to do now, as an engine does. */
export async function actIn(db: Database, inside: string[] = []): Promise<void> {
  await followAll(db);
  const now = await databaseNow(db);
  const failed = (error: unknown): never => {
    throw error;
  };
  while ((await runAutomations(db, 'tests', { secret: SECRET, inside }, () => now + 0.5, failed)) > 0);
}

export interface Said {
  title: string;
  body: string;
  byline: string;
  audience: string;
  dueMs: number;
}

/** What an automation has said, in order. */
export const saidIn = (db: Database, id: number): Promise<Said[]> =>
  rows(
    db,
    `SELECT v.title, v.body, v.byline, JSON_EXTRACT(s.plan, '$.audience') AS audience,
       TIMESTAMPDIFF(MICROSECOND, '1970-01-01', o.due_at) DIV 1000 AS dueMs
     FROM automation_runs r JOIN automation_sayings y ON y.run_id = r.id JOIN occurrences o ON o.id = y.occurrence_id
       JOIN sends s ON s.id = o.send_id JOIN announcement_versions v ON v.id = o.version_id
     WHERE r.automation_id = ? ORDER BY o.id`,
    [id],
  );

export const runsIn = async (db: Database, id: number): Promise<RunLine[]> =>
  (await listRuns(db, coordinator, { automationId: id, states: [], before: null })).runs;
