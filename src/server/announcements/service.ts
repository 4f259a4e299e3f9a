import { z } from 'zod';
import {
  draftContentSchema,
  EMPTY_CONTENT,
  type Content,
  type EarlierText,
} from '../../core/content/announcement.ts';
import { sectionsText } from '../../core/content/text.ts';
import { EMPTY_PLAN, planSchema } from '../../core/plan/plan.ts';
import { decide, type Actor, type BoardRules, type Decision } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { requireDesk } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { boardsFor, type BoardForReader } from '../boards/service.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import type { Change } from '../../core/content/change.ts';
import { requireOwnUploads } from '../uploads/service.ts';
import { changesInWorker } from '../comparing/inWorker.ts';
import {
  announcementById,
  deleteDraft,
  drafts,
  forReview,
  insertAnnouncement,
  isInvolved,
  saveRevision,
  setReview,
  templates,
  uploadsNamedBefore,
  writersOf,
  type Announcement,
} from './store.ts';
import { contentOf, earlierTexts, freezeVersion, lastKept, versionById } from './versionStore.ts';

/** A text is kept at most so often while its author goes on writing, so that the list of versions can be read. */
const KEEP_EVERY_MS = 10 * 60_000;

/** Begins an empty draft. */
export async function beginDraft(db: Database, actor: Actor): Promise<number> {
  requireDesk(actor);
  return insertAnnouncement(db, actor.id, EMPTY_CONTENT, EMPTY_PLAN, 'draft');
}

/** The drafts this person may open, the last saved first. */
export async function listDrafts(db: Database, actor: Actor): Promise<Announcement[]> {
  requireDesk(actor);
  return drafts(db, actor.role === 'coordinator' ? null : actor.id, 100);
}

/** The drafts that wait for this person's look: handed on, theirs to clear, and not written by them. */
export async function listForReview(db: Database, actor: Actor): Promise<Announcement[]> {
  requireDesk(actor);
  // All of them are looked at before the list is cut: what others have to clear must not hide what is theirs.
  const [found, boards] = await Promise.all([forReview(db, 1000), boardsFor(db, actor)]);
  return found
    .filter(
      (draft) =>
        draft.reviewById !== actor.id &&
        (draft.reviewAskedId === null || draft.reviewAskedId === actor.id) &&
        decide(actor, {
          kind: 'clear draft',
          writers: [draft.authorId, draft.savedById],
          audience: draft.plan.audience,
          boards: rulesOf(boards, draft.plan.boards),
        }).outcome === 'allowed',
    )
    .slice(0, 50);
}

/** The rules of some boards; a board that is gone asks for nothing. */
const rulesOf = (boards: readonly BoardForReader[], ids: readonly number[]): BoardRules[] =>
  boards.filter((board) => ids.includes(board.id)).map((board) => board.rules);

/** The templates everybody at the desk may start from. */
export async function listTemplates(db: Database, actor: Actor): Promise<Announcement[]> {
  requireDesk(actor);
  return templates(db, 200);
}

/** One announcement at the desk; a 404 problem where it is not this person's to open. */
export async function openAnnouncement(db: Database, actor: Actor, id: number): Promise<Announcement> {
  const found = await announcementById(db, id);
  if (!found) throw notFound('announcement');
  const own = actor.role === 'coordinator' || found.authorId === actor.id;
  const [boards, involved] =
    own || actor.role === 'member'
      ? [[], false]
      : await Promise.all([boardsFor(db, actor), isInvolved(db, id, actor.id)]);
  const opened = decide(actor, {
    kind: 'open draft',
    authorId: found.authorId,
    handedOn: found.review !== 'none' && found.state === 'draft',
    involved: involved && found.state !== 'committed',
    audience: found.plan.audience,
    boards: rulesOf(boards, found.plan.boards),
  });
  if (opened.outcome !== 'allowed') throw notFound('announcement');
  return found;
}

export const saveSchema = z.object({
  content: draftContentSchema,
  plan: planSchema,
  /** The revision this save was made over. */
  revision: z.int().positive(),
  /** Chosen by somebody who was told of the other text: save over it, and keep the other as a version. */
  saveOver: z.boolean().default(false),
});

/**
 * Saves a draft. Somebody who saved meanwhile is never overwritten unseen: the answer is then a 409 problem that
 * says who and when, and carries the revision that saving over them would take. What is saved over is kept.
 *
 * @returns the new revision
 */
export async function saveDraft(
  db: Database,
  actor: Actor,
  id: number,
  input: z.infer<typeof saveSchema>,
): Promise<{ revision: number; savedMs: number }> {
  const before = await openAnnouncement(db, actor, id);
  if (before.state === 'committed')
    throw new Problem(409, 'It is on its way already. Take it back first to change it.', {
      more: { sent: true },
    });
  const changed = JSON.stringify(before.content) !== JSON.stringify(input.content);
  await requireOwnUploads(
    db,
    actor,
    input.content,
    JSON.stringify(before.content) + (await uploadsNamedBefore(db, id, actor.id)),
  );
  const [keptMs, nowMs] = await Promise.all([lastKept(db, id), databaseNow(db)]);
  await transact(db, async (trx) => {
    if (before.savedById !== actor.id || input.saveOver)
      await freezeVersion(trx, id, before.savedById, before.content, 'overwritten');
    else if (changed && before.revision > 1 && nowMs - (keptMs ?? 0) > KEEP_EVERY_MS)
      await freezeVersion(trx, id, before.savedById, before.content, 'saved');
    if (await saveRevision(trx, id, input.revision, actor.id, input.content, input.plan)) {
      if (before.review !== 'none') {
        await record(trx, {
          actorId: actor.id,
          action: before.review === 'cleared' ? 'change after clearance' : 'change during review',
          subject: 'announcement',
          subjectId: id,
        });
        await emit(trx, 'draft.uncleared', {
          announcement: id,
          revision: before.revision,
          tell: before.review === 'cleared' ? toldUncleared(actor, before) : [],
        });
      }
      return;
    }
    throw new Problem(409, `${before.savedByName} saved another text of this draft meanwhile.`, {
      more: { revision: before.revision, savedBy: before.savedByName, savedMs: before.savedMs },
    });
  });
  // Not opened anew: what was changed may have taken it out of this person's reach, and it is saved all the same.
  return { revision: input.revision + 1, savedMs: await databaseNow(db) };
}

/** Whoever cleared a draft, and whoever wrote it: they are told that it was changed since; not who changed it. */
const toldUncleared = (actor: Actor, draft: Announcement): number[] => [
  ...new Set(
    [draft.reviewById, draft.authorId].flatMap((id) => (id === null || id === actor.id ? [] : [id])),
  ),
];

export const reviewSchema = z.object({
  step: z.enum(['hand on', 'clear', 'return']),
  /** The revision that was read. */
  revision: z.int().positive(),
  /** Whom one asks to clear it, where it is handed on; left out or null is whoever may. */
  askId: z.int().positive().nullish(),
});

/** Whether this person may clear a draft, and why not. */
export async function mayClear(db: Database, actor: Actor, draft: Announcement): Promise<Decision> {
  const [writers, boards] = await Promise.all([writersOf(db, draft.id), boardsFor(db, actor)]);
  return decide(actor, {
    kind: 'clear draft',
    writers,
    audience: draft.plan.audience,
    boards: rulesOf(boards, draft.plan.boards),
  });
}

/**
 * Hands a draft on for review, clears it, or returns it to its author. The text is kept as it was then; a change after
 * that needs clearance again. Nobody clears what they wrote in.
 *
 * @throws 403 with the reason, 409 where it was changed after it was read or is not where it was thought to be
 */
export async function review(
  db: Database,
  actor: Actor,
  id: number,
  { step, revision, askId }: z.infer<typeof reviewSchema>,
): Promise<void> {
  const draft = await openAnnouncement(db, actor, id);
  if (draft.state !== 'draft') throw new Problem(409, 'Only a draft is handed on and cleared.');
  if (step !== 'hand on') {
    const decision = await mayClear(db, actor, draft);
    if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
    if (draft.review === 'none')
      throw new Problem(409, 'It was not handed on for review, or was changed since.');
  }
  const asked = step === 'hand on' ? (askId ?? null) : null;
  if (asked !== null) {
    const other = asked === actor.id ? undefined : await actorOf(db, asked);
    const decision = other && (await mayClear(db, other, draft));
    if (decision?.outcome !== 'allowed')
      throw new Problem(422, 'Whoever is asked could not clear it.', {
        errors: [
          { field: 'askId', detail: 'They may not clear this draft. Ask somebody else, or whoever may.' },
        ],
      });
  }
  const to = ({ 'hand on': 'for review', clear: 'cleared', return: 'none' } as const)[step];
  await transact(db, async (trx) => {
    if (!(await setReview(trx, id, revision, draft.review, to, actor.id, asked)))
      throw new Problem(409, 'It was changed after you read it, or somebody was quicker. Read it again.');
    if (to !== 'none') await freezeVersion(trx, id, draft.savedById, draft.content, to);
    await record(trx, {
      actorId: actor.id,
      action: step === 'hand on' ? 'hand on for review' : step === 'clear' ? 'clear' : 'return to author',
      subject: 'announcement',
      subjectId: id,
    });
    await emit(trx, 'draft.reviewed', { announcement: id });
  });
}

/** Keeps a draft's text and plan as a template everybody at the desk may start from; gives its id. */
export async function saveAsTemplate(db: Database, actor: Actor, id: number): Promise<number> {
  const draft = await openAnnouncement(db, actor, id);
  return transact(db, async (trx) => {
    const templateId = await insertAnnouncement(
      trx,
      actor.id,
      { ...draft.content, issue: null },
      { ...draft.plan, timing: EMPTY_PLAN.timing },
      'template',
    );
    await record(trx, {
      actorId: actor.id,
      action: 'save as template',
      subject: 'announcement',
      subjectId: templateId,
    });
    return templateId;
  });
}

/**
 * Begins a draft from a template, or from any announcement this person may open, with its plan. A time that has
 * passed does not come along.
 */
export async function copyAnnouncement(db: Database, actor: Actor, id: number): Promise<number> {
  requireDesk(actor);
  const found = await announcementById(db, id);
  const from = found?.state === 'template' ? found : await openAnnouncement(db, actor, id);
  const { timing } = from.plan;
  return insertAnnouncement(
    db,
    actor.id,
    from.content,
    { ...from.plan, timing: timing.kind === 'at' || timing.kind === 'local' ? EMPTY_PLAN.timing : timing },
    'draft',
  );
}

/** What changed from an earlier text of a draft to the one it has now, word by word. */
export async function changesSince(
  db: Database,
  actor: Actor,
  id: number,
  versionId: number,
): Promise<Change[]> {
  const [then, now] = await Promise.all([
    earlierText(db, actor, id, versionId),
    openAnnouncement(db, actor, id),
  ]);
  const text = (content: Content): string =>
    [
      content.title,
      content.byline,
      sectionsText(content.sections),
      content.button ? `${content.button.label}: ${content.button.url}` : '',
    ]
      .filter(Boolean)
      .join('\n\n');
  return changesInWorker(text(then), text(now.content));
}

/** The texts of a draft that were kept, the latest first. */
export async function listEarlierTexts(db: Database, actor: Actor, id: number): Promise<EarlierText[]> {
  await openAnnouncement(db, actor, id);
  return earlierTexts(db, id);
}

/** One of them in full, to be brought back. */
export async function earlierText(
  db: Database,
  actor: Actor,
  id: number,
  versionId: number,
): Promise<Content> {
  await openAnnouncement(db, actor, id);
  const version = await versionById(db, versionId);
  if (version?.announcementId !== id) throw notFound('text');
  return contentOf(version);
}

/** Throws a draft away. What has been sent, or taken back from sending, stays. */
export async function discardDraft(db: Database, actor: Actor, id: number): Promise<void> {
  const draft = await openAnnouncement(db, actor, id);
  const decision = decide(actor, { kind: 'discard draft', authorId: draft.authorId });
  if (decision.outcome === 'denied')
    throw new Problem(403, 'Only its author and the coordinators throw a draft away.');
  await transact(db, async (trx) => {
    if (!(await deleteDraft(trx, id)))
      throw new Problem(409, 'Only a draft that was never scheduled can be thrown away.');
    await record(trx, { actorId: actor.id, action: 'discard', subject: 'announcement', subjectId: id });
  });
}
