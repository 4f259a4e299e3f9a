import { asksOf, type Asking } from '../../core/asks/ask.ts';
import { deedWords } from '../../core/asks/askWords.ts';
import { chasePlan } from '../../core/asks/chase.ts';
import { planOfChases } from '../../core/plan/plan.ts';
import { simpleContent } from '../../core/content/announcement.ts';
import { freezeVersion, versionById } from '../announcements/versionStore.ts';
import type { Database } from '../database/connection.ts';
import { lockSend, type SendRow } from './store.ts';
import {
  chaseSendOf,
  chasesOf,
  deleteChases,
  insertChase,
  insertChaseSend,
  type ChaseSend,
} from './chaseStore.ts';

/** What a chase says where its author wrote nothing of their own. */
const usualText = (ask: Asking): string =>
  `You have not answered this yet. Please ${deedWords(ask.kind)} when you have a moment; it takes one tap or two.`;

/** The send that the chases of a send belong to: written, and its text frozen, the first time it is needed. */
export async function sendOfChases(
  trx: Database,
  send: Pick<SendRow, 'id' | 'versionId' | 'plan'>,
  ask: Asking,
  text: string,
): Promise<ChaseSend> {
  const known = await chaseSendOf(trx, send.id);
  if (known !== null) return known;
  const [version, row] = await Promise.all([versionById(trx, send.versionId), lockSend(trx, send.id)]);
  if (!version || !row) throw new Error('There is no such send');
  const content = {
    ...simpleContent(`Reminder: ${version.title}`.slice(0, 150), {
      type: 'doc',
      content: [{ type: 'paragraph', content: [{ type: 'text', text: text.trim() || usualText(ask) }] }],
    }),
    byline: version.byline,
    importance: version.importance,
  };
  const versionId = await freezeVersion(trx, row.announcementId, row.createdBy, content, 'chase');
  const id = await insertChaseSend(trx, send.id, versionId, planOfChases(send.plan));
  return { id, versionId };
}

/** Plans the chases of an occurrence anew, by what its ask says; what of them has begun stays. */
export async function planChases(
  trx: Database,
  send: Pick<SendRow, 'id' | 'versionId' | 'plan'>,
  occurrenceId: number,
  { lastMs, deadlineMs }: { lastMs: number; deadlineMs: number | null },
): Promise<void> {
  await deleteChases(trx, occurrenceId);
  const ask = asksOf(send.plan.ask);
  if (!ask?.chase || !send.plan.audience) return;
  const { dues } = chasePlan(ask.chase, lastMs, deadlineMs);
  if (dues.length === 0) return;
  const chases = await sendOfChases(trx, send, ask, ask.chase.text);
  // Those that have gone keep their place: asked again, it is chased again under further numbers.
  const before = (await chasesOf(trx, occurrenceId)).length;
  for (const [i, dueMs] of dues.entries())
    await insertChase(trx, {
      send: chases,
      chases: occurrenceId,
      key: String(before + i + 1),
      dueMs,
      deadlineMs,
    });
}
