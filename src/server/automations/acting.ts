import { databaseNow, transact, type Database } from '../database/connection.ts';
import { onceIn } from '../database/onceIn.ts';
import type { Handlers } from '../events/follow.ts';
import { peopleOfComings } from './comingStore.ts';
import { onAsk } from './askCauses.ts';
import { lineUpRecords, lineUpSession } from './dates.ts';
import { match } from './matching.ts';
import { insertRun } from './runStore.ts';
import { listeningTo } from './store.ts';

async function onComings(
  trx: Database,
  kind: 'joins' | 'leaves',
  { group, comings }: { group: number; comings: readonly number[] },
): Promise<void> {
  const listening = (await listeningTo(trx, 'groupId', group)).filter(({ live }) => live.when.kind === kind);
  if (listening.length === 0) return;
  const [people, dueMs] = [await peopleOfComings(trx, comings), await databaseNow(trx)];
  for (const { id: automationId, liveVersionId } of listening)
    for (const { id, personId } of people)
      if (liveVersionId !== null)
        await insertRun(trx, {
          automationId,
          versionId: liveVersionId,
          causeKey: `${kind}.${id}`,
          cause: { kind: 'person', groupId: group, people: [personId] },
          dueMs,
        });
}

/** Those that are set off by what becomes of a sheet. */
const listeningToSheet = (trx: Database, sheet: number): ReturnType<typeof listeningTo> =>
  onceIn(trx, `listening to sheet ${sheet}`, () => listeningTo(trx, 'sheetId', sheet));

/** What sets automations off: each event lines up its runs, in the transaction in which it is followed up. */
export const automationCauses: Handlers = {
  'group.joined': (trx, of) => onComings(trx, 'joins', of),
  'group.left': (trx, of) => onComings(trx, 'leaves', of),
  'session.changed': async (trx, { session }) => {
    for (const automation of await listeningTo(trx, 'sessionId', session))
      await lineUpSession(trx, automation);
  },
  'ask.closed': (trx, of) => onAsk(trx, 'ask closes', of.occurrence),
  'ask.answered': (trx, of) => onAsk(trx, 'ask answered', of.occurrence),
  'records.changed': async (trx, { sheet, records, form, changed }, event) => {
    for (const automation of await listeningToSheet(trx, sheet)) {
      const { when } = automation.live;
      if (when.kind === 'meets') await match(trx, automation, records, `event.${event}`);
      if (when.kind === 'date') await lineUpRecords(trx, automation, records);
      const held = when.kind === 'changes' ? changed?.[when.column] : undefined;
      if (held !== undefined && automation.liveVersionId !== null)
        await insertRun(trx, {
          automationId: automation.id,
          versionId: automation.liveVersionId,
          causeKey: `event.${event}`,
          cause: { kind: 'records', sheetId: sheet, ids: records, ...held },
          dueMs: await databaseNow(trx),
        });
      if (when.kind === 'sent in' && form && when.sheetId === sheet && automation.liveVersionId !== null)
        await insertRun(trx, {
          automationId: automation.id,
          versionId: automation.liveVersionId,
          causeKey: `event.${event}`,
          cause: { kind: 'records', sheetId: sheet, ids: records },
          dueMs: await databaseNow(trx),
        });
    }
  },
};

/** Hands a message that came in to the automations that listen to its way in: once each, however often it comes. */
export async function callAutomations(
  db: Database,
  hookId: number,
  call: string,
  values: Record<string, string>,
): Promise<void> {
  await transact(db, async (trx) => {
    const dueMs = await databaseNow(trx);
    for (const { id, live, liveVersionId } of await listeningTo(trx, 'hookId', hookId))
      if (live.when.kind === 'called' && liveVersionId !== null)
        await insertRun(trx, {
          automationId: id,
          versionId: liveVersionId,
          causeKey: call,
          cause: { kind: 'call', hookId, call, values },
          dueMs,
        });
  });
}
