import { hookOf, sheetOf, type Automation } from '../../core/automation/automation.ts';
import type { Fields } from '../../core/automation/condition.ts';
import { fieldsOf } from '../../core/automation/fields.ts';
import type { Database } from '../database/connection.ts';
import { hookInById } from '../gateways/inStore.ts';
import { sheetById } from '../sheets/store.ts';
import { sourceById, type SourceRow } from '../sources/store.ts';

/** The fields an automation can name, with the source it looks things up at. */
export async function fieldsFor(
  db: Database,
  automation: Automation,
): Promise<{ fields: Fields; source: SourceRow | undefined }> {
  const sheetId = sheetOf(automation.when);
  const hookId = hookOf(automation.when);
  const [sheet, source, hook] = await Promise.all([
    sheetId === null ? undefined : sheetById(db, sheetId),
    automation.lookup === null ? undefined : sourceById(db, automation.lookup.sourceId),
    hookId === null ? undefined : hookInById(db, hookId),
  ]);
  return {
    fields: fieldsOf(automation.when, sheet?.columns ?? [], source?.fields ?? [], hook?.hook.fields ?? []),
    source,
  };
}
