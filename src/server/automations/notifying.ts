import type { Database } from '../database/connection.ts';
import { notifyPeople } from '../notices/notify.ts';
import { lockCoordinators } from '../people/store.ts';
import type { AutomationRow } from './store.ts';

/** Tells whoever looks after an automation that it stopped by itself; where they are gone, the coordinators. */
export async function notifyPaused(
  trx: Database,
  automation: Pick<AutomationRow, 'id' | 'ownerId' | 'ownerHere' | 'draft'>,
  why: string,
): Promise<void> {
  const told = automation.ownerHere ? [automation.ownerId] : await lockCoordinators(trx);
  await notifyPeople(trx, told, {
    kind: 'outcome',
    title: `“${automation.draft.name}” has paused itself`,
    text: why,
    path: `/automations/${automation.id}`,
    why: automation.ownerHere
      ? 'You look after this automation.'
      : 'Whoever looked after this automation has left.',
    dedupeKey: `automation-paused:${automation.id}:${Date.now()}`,
  });
}
