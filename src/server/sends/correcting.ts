import { z } from 'zod';
import { canAskAgain, withoutNames } from '../../core/asks/ask.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { contentProblems, MAX_TITLE, type Content } from '../../core/content/announcement.ts';
import type { Doc, Inline } from '../../core/content/document.ts';
import { MAX_SECTIONS, plainSection } from '../../core/content/section.ts';
import { EMPTY_PLAN, type Plan } from '../../core/plan/plan.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { briefOf } from '../../core/sends/forecast.ts';
import { numbered } from '../../core/series/series.ts';
import { openAnnouncement } from '../announcements/service.ts';
import { commit, insertAnnouncement, setContent, type Announcement } from '../announcements/store.ts';
import { contentOf, freezeVersion, versionById } from '../announcements/versionStore.ts';
import { askAgain } from '../asks/store.ts';
import { record } from '../audit/store.ts';
import { countPeople } from '../audience/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { emit } from '../events/store.ts';
import { repostOccurrence } from '../posts/occurrencePostStore.ts';
import { Problem } from '../problem.ts';
import { forgottenOf } from '../retention/keptStore.ts';
import { forgetOccurrence } from '../search/indexStore.ts';
import { planChases } from './chasing.ts';
import { forecast } from './forecast.ts';
import { planOnce } from './planning.ts';
import { currentVersion, insertSend, sendByKey } from './store.ts';
import { correctOccurrence, occurrenceById, type Occurrence } from './occurrenceStore.ts';

/** Whom a correction is told to: everybody who got it, those who opened or answered it, or nobody. */
export const CORRECTED = ['everybody', 'opened', 'nobody'] as const;

export const correctSchema = z.object({
  revision: z.int().positive(),
  note: z
    .string()
    .trim()
    .min(1, 'Say in a few words what was corrected')
    .max(300, 'The note has at most 300 characters'),
  tell: z.enum(CORRECTED),
  /** Whether what changed is of substance, so that it is asked again; the answers to the text before are kept. */
  askAgain: z.boolean().default(false),
});

/** Those a correction is told to; null is nobody. */
function toldOf(occurrence: Occurrence, tell: (typeof CORRECTED)[number]): Audience | null {
  const { id } = occurrence;
  switch (tell) {
    case 'everybody':
      return { kind: 'reached', occurrenceId: id };
    case 'opened':
      return occurrence.asked.kind === 'nothing' || isSecret(occurrence)
        ? { kind: 'read', occurrenceId: id }
        : {
            kind: 'any',
            of: [
              { kind: 'read', occurrenceId: id },
              { kind: 'answered', occurrenceId: id, answered: true },
            ],
          };
    case 'nobody':
      return null;
  }
}

/** Of a poll without names nothing is told by who has answered. */
const isSecret = ({ asked }: Occurrence): boolean => withoutNames(asked);

async function openCorrection(
  db: Database,
  actor: Actor,
  announcementId: number,
): Promise<{ draft: Announcement; occurrence: Occurrence }> {
  const draft = await openAnnouncement(db, actor, announcementId);
  const occurrence = draft.corrects === null ? undefined : await occurrenceById(db, draft.corrects);
  if (!occurrence) throw new Problem(409, 'It was corrected already.');
  return { draft, occurrence };
}

/** How many a correction would be told to, by each choice. */
export async function correctionReach(
  db: Database,
  actor: Actor,
  announcementId: number,
): Promise<{ everybody: number; opened: number }> {
  const { occurrence } = await openCorrection(db, actor, announcementId);
  const now = await audienceContext(db);
  const count = async (tell: 'everybody' | 'opened'): Promise<number> => {
    const audience = toldOf(occurrence, tell);
    return audience ? countPeople(db, audience, now) : 0;
  };
  const [everybody, opened] = await Promise.all([count('everybody'), count('opened')]);
  return { everybody, opened };
}

/**
 * Publishes a correction: whoever opens the announcement reads the new text with a visible note. Those chosen get the new text
 * itself, under its title, with what was corrected above it and a link to where it stands.
 */
export async function publishCorrection(
  db: Database,
  actor: Actor,
  announcementId: number,
  input: z.infer<typeof correctSchema>,
  key: string,
): Promise<{ occurrenceId: number; told: number | null }> {
  const { draft, occurrence } = await openCorrection(db, actor, announcementId);
  const errors = contentProblems(draft.content);
  if (errors.length > 0) throw new Problem(422, 'It cannot go out yet.', { errors });
  const outlook = await forecast(db, actor, occurrence.plan, briefOf(draft.content));
  if (outlook.right.outcome === 'denied') throw new Problem(403, outlook.right.reason);
  if (outlook.clearance.length > 0 && draft.review !== 'cleared')
    throw new Problem(422, 'It cannot go out yet.', {
      errors: [{ field: 'review', detail: 'A correction needs clearance too. Hand it on for review.' }],
    });
  return transact(db, async (trx) => {
    if (!(await commit(trx, announcementId, input.revision, draft.review)))
      throw new Problem(409, 'It was changed or sent a moment ago. Read it again.');
    const before = await versionById(trx, occurrence.versionId);
    const title = numbered(draft.content.title, before?.number ?? null);
    const versionId = await freezeVersion(
      trx,
      announcementId,
      draft.savedById,
      { ...draft.content, title },
      'sent',
      before?.number ?? null,
    );
    await correctOccurrence(trx, occurrence.id, versionId, input.note);
    await repostOccurrence(trx, { ...occurrence, versionId });
    // What was taken out is found no more from this moment; the new words are soon after.
    await forgetOccurrence(trx, occurrence.id);
    // What recurs goes on with the text of its send, not with that of the one that was corrected.
    const goesOn =
      occurrence.plan.timing.kind === 'recurring' &&
      (await versionById(trx, await currentVersion(trx, occurrence.sendId)));
    if (goesOn) await setContent(trx, announcementId, contentOf(goesOn));
    if (input.askAgain && (await forgottenOf(trx, occurrence.id)).answersMs !== null)
      throw new Problem(
        422,
        'Who was asked is not known any more, only how many. Correct it without asking again, or send it anew.',
        { errors: [{ field: 'askAgain', detail: 'Who was asked is not known any more. Send it anew.' }] },
      );
    const again =
      input.askAgain && canAskAgain(occurrence.asked)
        ? await askAgain(trx, occurrence.id, occurrence.versionId)
        : null;
    if (again !== null) {
      await planChases(trx, { id: occurrence.sendId, versionId, plan: occurrence.plan }, occurrence.id, {
        lastMs: await databaseNow(trx),
        deadlineMs: occurrence.deadlineMs,
      });
    }
    const told = await notifyCorrection(
      trx,
      actor,
      occurrence,
      { ...draft.content, title },
      input,
      key,
      again !== null,
    );
    await record(trx, {
      actorId: actor.id,
      action: 'correct',
      subject: 'occurrence',
      subjectId: occurrence.id,
      detail: { told: input.tell, askedAgain: again },
    });
    await emit(trx, 'occurrence.corrected', {
      occurrence: occurrence.id,
      boards: occurrence.plan.boards,
      asksAgain: again !== null,
    });
    return { occurrenceId: occurrence.id, told };
  });
}

/** Sends the corrected text to those chosen, and to all who are asked again; gives its occurrence, or null where nobody is told. */
async function notifyCorrection(
  trx: Database,
  actor: Actor,
  occurrence: Occurrence,
  corrected: Content,
  { note, tell }: z.infer<typeof correctSchema>,
  key: string,
  again: boolean,
): Promise<number | null> {
  const chosen = toldOf(occurrence, tell);
  const asked: Audience | null = again
    ? { kind: 'answered', occurrenceId: occurrence.id, answered: false }
    : null;
  const of = [chosen, asked].flatMap((audience) => audience ?? []);
  if (of.length === 0) return null;
  const audience: Audience = { kind: 'any', of };
  // Nobody is there to be told: the correction stands where it is read.
  if ((await countPeople(trx, audience, await audienceContext(trx))) === 0) return null;
  const known = await sendByKey(trx, actor.id, key);
  if (known) return known.occurrenceId;
  const plan: Plan = { ...EMPTY_PLAN, audience, mail: occurrence.plan.mail };
  const content = correctionContent(occurrence, corrected, note, again);
  const noticeId = await insertAnnouncement(trx, actor.id, content, plan, 'committed');
  const noticeVersion = await freezeVersion(trx, noticeId, actor.id, content, 'sent');
  const sendId = await insertSend(trx, {
    announcementId: noticeId,
    versionId: noticeVersion,
    createdBy: actor.id,
    plan,
    key,
    kind: 'correction',
  });
  return planOnce(trx, { id: sendId, versionId: noticeVersion, plan }, null, { all: [], reached: [] });
}

/** The corrected text under its title, with what was corrected and where it stands above it. */
function correctionContent(
  occurrence: Occurrence,
  corrected: Content,
  note: string,
  again: boolean,
): Content {
  const home = process.env.CLEAR_BELL_URL?.replace(/\/$/, '');
  const where: Inline[] =
    home === undefined
      ? []
      : [
          {
            type: 'text',
            text: again ? 'Open it and acknowledge it as it is now' : 'Open it where it stands',
            marks: [{ type: 'link', attrs: { href: `${home}/for-me/${occurrence.id}` } }],
          },
          { type: 'text', text: '.' },
        ];
  const document: Doc = {
    type: 'doc',
    content: [
      {
        type: 'paragraph',
        content: [
          { type: 'text', text: 'What was corrected: ', marks: [{ type: 'bold' }] },
          { type: 'text', text: note },
        ],
      },
      ...(again
        ? [
            {
              type: 'paragraph' as const,
              content: [
                {
                  type: 'text' as const,
                  text: 'It has changed in substance, and asks you again.',
                },
              ],
            },
          ]
        : []),
      ...(where.length > 0 ? [{ type: 'paragraph' as const, content: where }] : []),
    ],
  };
  const ids = new Set(corrected.sections.map((section) => section.id));
  const id = ['note', 'note1', 'note2'].find((each) => !ids.has(each)) ?? 'correction';
  return {
    ...corrected,
    title: `Corrected: ${corrected.title}`.slice(0, MAX_TITLE),
    sections: [{ ...plainSection(document, id), accent: 'slate' as const }, ...corrected.sections].slice(
      0,
      MAX_SECTIONS,
    ),
    issue: null,
  };
}
