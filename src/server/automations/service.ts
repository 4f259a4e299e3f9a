import { allSenders } from '../senders/store.ts';
import { z } from 'zod';
import {
  automationSchema,
  hookOf,
  listensToGroup,
  newAutomation,
  sheetOf,
  waitsForClock,
  whenSchema,
  type Automation,
  type When,
} from '../../core/automation/automation.ts';
import type { AutomationChoices } from '../../core/automation/choices.ts';
import { fieldsOf } from '../../core/automation/fields.ts';
import type { AutomationLine } from '../../core/automation/run.ts';
import { readTaken } from '../../core/automation/takenSchema.ts';
import { automationSentence, automationText } from '../../core/automation/words.ts';
import { leavesOf } from '../../core/audience/expression.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireDesk } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { boardsSeenBy } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { audienceChoices } from '../groups/service.ts';
import { identitySystems } from '../identities/store.ts';
import { clocks, namesOfPeople } from '../people/store.ts';
import { notFound, Problem } from '../problem.ts';
import { zonesOf } from '../sends/planning.ts';
import { placeChoices } from '../gateways/places.ts';
import { allHooksIn } from '../gateways/inStore.ts';
import { attributeForms } from '../people/kindsStore.ts';
import { isTheirs } from './sharing.ts';
import { automationsNaming } from './sharingStore.ts';
import { requireOwnUploads } from '../uploads/service.ts';
import { mayRead, unseenSheets } from '../sheets/rights.ts';
import { allSheets, sheetById } from '../sheets/store.ts';
import { allSources } from '../sources/store.ts';
import { match } from './matching.ts';
import { sessionsKnown } from './sessionDates.ts';
import { forgetMatches } from './matchStore.ts';
import { readingNames } from './naming.ts';
import { lineUpDates } from './dates.ts';
import { publishProblems } from './publishProblems.ts';
import { runLine } from './runs.ts';
import { deleteWaiting, runById, runFigures } from './runStore.ts';
import {
  allAutomations,
  automationById,
  beginLooking,
  deleteAutomationById,
  insertAutomation,
  lockAutomation,
  publishVersion,
  saveAutomation,
  setAutomationOwner,
  setAutomationState,
  type AutomationRow,
} from './store.ts';
import { lineUpTimes } from './timing.ts';
import { lookAtGroup } from './watching.ts';

/** What an automation begins with: a name and what sets it off; or all of it, from a template or from one that was taken out. */
export const newAutomationSchema = z.union([
  z.object({ name: z.string().trim().max(80, 'A name has at most 80 characters'), when: whenSchema }),
  z.object({ automation: automationSchema }),
  z.object({
    taken: z.string().max(900_000, 'The file is too large to be an automation'),
    name: z.string().trim().max(80, 'A name has at most 80 characters'),
  }),
]);
export const savedSchema = z.object({ revision: z.int().positive(), automation: automationSchema });
export const publishSchema = z.object({ revision: z.int().positive() });
export const stateSchema = z.object({ on: z.boolean() });
const WEEK_DAYS = 7;

/**
 * An automation this person may see and change: coordinators any, editors their own and those they are named for; a 404 problem
 * where there is none, or it is not theirs.
 */
export async function requireOwn(db: Database, actor: Actor, id: number): Promise<AutomationRow> {
  requireDesk(actor);
  const found = await automationById(db, id);
  if (!found || !(isTheirs(actor, found) || (await automationsNaming(db, actor.id)).has(id)))
    throw notFound('automation');
  return found;
}

/** What somebody is told who changes an automation over a revision that it is not at any more. */
const changedMeanwhile = (now: { revision: number } | undefined, revision: number): Problem =>
  new Problem(409, 'Somebody changed this automation a moment ago. Read it again.', {
    more: { revision: now?.revision ?? revision },
  });

/** The automations, by name, each with its sentence, what it said in the last week, and its last run. */
export async function listAutomations(db: Database, actor: Actor): Promise<AutomationLine[]> {
  requireDesk(actor);
  const [all, named, figures, sheets, sources, hooks] = await Promise.all([
    allAutomations(db),
    automationsNaming(db, actor.id),
    runFigures(db, WEEK_DAYS),
    allSheets(db),
    allSources(db),
    allHooksIn(db),
  ]);
  const seen = all.filter((each) => isTheirs(actor, each) || named.has(each.id));
  const names = await readingNames(
    db,
    actor,
    seen.map((each) => each.live ?? each.draft),
  );
  return Promise.all(
    seen.map(async (each): Promise<AutomationLine> => {
      const shown = each.live ?? each.draft;
      const fields = fieldsOf(
        shown.when,
        sheets.find((sheet) => sheet.id === sheetOf(shown.when))?.columns ?? [],
        sources.find((source) => source.id === shown.lookup?.sourceId)?.fields ?? [],
        hooks.find((each) => each.id === hookOf(shown.when))?.hook.fields ?? [],
      );
      const figure = figures.get(each.id);
      const last = figure?.lastId ? await runById(db, figure.lastId) : undefined;
      return {
        id: each.id,
        name: each.draft.name || 'Without a name',
        state: each.state,
        whyPaused: each.whyPaused,
        owner: each.owner,
        sentence: automationText(automationSentence(shown, fields, names)),
        nextMs: each.state === 'on' ? (figure?.nextMs ?? null) : null,
        changed: each.live !== null && JSON.stringify(each.live) !== JSON.stringify(each.draft),
        published: each.live !== null,
        last: last ? runLine(last, names) : null,
        saidWeek: figure?.said ?? 0,
        keptBackWeek: figure?.keptBack ?? 0,
        mayChange: true,
      };
    }),
  );
}

/** The people an automation names one by one. */
const peopleNamedIn = ({ tell }: Automation): number[] =>
  [tell.to?.kind === 'audience' ? tell.to.audience : null, tell.otherwise?.audience ?? null]
    .flatMap((audience) => (audience ? leavesOf(audience) : []))
    .flatMap((leaf) => (leaf.kind === 'person' ? [leaf.id] : []));

/** What an automation can be built from, as this person may use it. */
export async function automationChoices(
  db: Database,
  actor: Actor,
  automation: Automation | null = null,
): Promise<AutomationChoices> {
  const [audience, boards, places, sheets, unseen, forms, senders, sources, hooks, sessions, systems, found] =
    await Promise.all([
      audienceChoices(db, actor),
      boardsSeenBy(db, actor),
      placeChoices(db, actor),
      allSheets(db),
      unseenSheets(db, actor),
      attributeForms(db),
      allSenders(db),
      allSources(db),
      allHooksIn(db),
      sessionsKnown(db, actor),
      identitySystems(db),
      clocks(db),
    ]);
  return {
    audience,
    boards: boards
      .filter((board) => !board.archived)
      .map(({ id, name, rules }) => ({ id, name, automations: rules.automations })),
    outside: places,
    sheets: sheets
      .filter(({ id }) => !unseen.has(id))
      .map(({ id, name, columns, form }) => ({ id, name, columns, form: form !== null })),
    dates: [...forms.values()].filter(({ kind }) => kind === 'date').map(({ name }) => name),
    senders,
    sources: sources.map(({ id, name, url, fields }) => ({ id, name, url, fields })),
    hooks: hooks
      .filter(({ hook }) => hook.target.kind === 'automations')
      .map(({ id, hook }) => ({ id, name: hook.name, fields: hook.fields })),
    sessions,
    hearsAll: actor.role === 'coordinator',
    systems: systems.map((each) => each.system),
    zones: zonesOf(found),
    people: Object.fromEntries(await namesOfPeople(db, automation ? peopleNamedIn(automation) : [])),
  };
}

/** Refuses a record sheet that somebody does not see, so that none is looked into by its number; the one there was may stay. @throws 422 */
async function requireSeenSheet(db: Database, actor: Actor, when: When, before: When | null): Promise<void> {
  const sheetId = sheetOf(when);
  if (sheetId === null || (before && sheetOf(before) === sheetId) || (await mayRead(db, actor, sheetId)))
    return;
  // One that is not there, as in a file from elsewhere, is told of when it is put to work.
  if (!(await sheetById(db, sheetId))) return;
  const detail = 'This record sheet is not for you to read. Choose another.';
  throw new Problem(422, detail, { errors: [{ field: 'when', detail }] });
}

/** What an automation begins as. @throws 422 where a file is none that was taken out */
function begunAs(begun: z.infer<typeof newAutomationSchema>): Automation {
  if ('automation' in begun) return begun.automation;
  if ('when' in begun) return newAutomation(begun.name, begun.when);
  const read = readTaken(begun.taken);
  if ('problem' in read)
    throw new Problem(422, read.problem, { errors: [{ field: 'taken', detail: read.problem }] });
  return { ...read.automation, name: begun.name || read.automation.name };
}

export async function makeAutomation(
  db: Database,
  actor: Actor,
  begun: z.infer<typeof newAutomationSchema>,
): Promise<number> {
  requireDesk(actor);
  const draft = begunAs(begun);
  await requireOwnUploads(db, actor, draft.content);
  await requireSeenSheet(db, actor, draft.when, null);
  return transact(db, async (trx) => {
    const id = await insertAutomation(trx, actor.id, draft);
    await record(trx, { actorId: actor.id, action: 'make', subject: 'automation', subjectId: id });
    await emit(trx, 'automation.changed', { automation: id });
    return id;
  });
}

/** Makes another of its kind, switched off, that its copier looks after. */
export async function copyAutomation(db: Database, actor: Actor, id: number): Promise<number> {
  const { draft } = await requireOwn(db, actor, id);
  return transact(db, async (trx) => {
    const copy = await insertAutomation(trx, actor.id, {
      ...draft,
      name: `${draft.name} (copy)`.slice(0, 80),
    });
    await record(trx, { actorId: actor.id, action: 'copy', subject: 'automation', subjectId: copy });
    await emit(trx, 'automation.changed', { automation: copy });
    return copy;
  });
}

/** Saves what is written; what runs is what was published. Gives the new revision. */
export async function saveDraft(
  db: Database,
  actor: Actor,
  id: number,
  { revision, automation }: z.infer<typeof savedSchema>,
): Promise<number> {
  const { draft, live } = await requireOwn(db, actor, id);
  await requireOwnUploads(db, actor, automation.content, JSON.stringify([draft, live]));
  await requireSeenSheet(db, actor, automation.when, draft.when);
  return transact(db, async (trx) => {
    if (!(await saveAutomation(trx, id, revision, actor.id, automation)))
      throw changedMeanwhile(await automationById(trx, id), revision);
    await emit(trx, 'automation.changed', { automation: id });
    return revision + 1;
  });
}

/**
 * Puts what is written to work: as a version of its own, from now on. Who is in the group it listens to already, and records
 * that meet its conditions already, are not told of.
 *
 * @throws 409 where it was changed meanwhile, 422 with what keeps it from working
 */
export async function publish(
  db: Database,
  actor: Actor,
  id: number,
  revision: number,
): Promise<{ version: number }> {
  const before = await requireOwn(db, actor, id);
  if (before.revision !== revision) throw changedMeanwhile(before, revision);
  const problems = await publishProblems(db, actor, before.draft, before.savedById);
  if (problems.length > 0) throw new Problem(422, 'It cannot be put to work yet.', { errors: problems });
  const { when } = before.draft;
  if (listensToGroup(when)) await lookAtGroup(db, when.groupId);
  const made = await transact(db, async (trx) => {
    const held = await lockAutomation(trx, id);
    if (held?.revision !== revision) throw changedMeanwhile(held, revision);
    const version = await publishVersion(trx, id, held.draft, actor.id);
    // What waited for its time by the version before comes by this one.
    if (waitsForClock(when) || (held.live && waitsForClock(held.live.when))) await deleteWaiting(trx, id);
    await beginLooking(trx, id);
    await beginMatching(trx, { ...held, live: held.draft, liveVersionId: version.id });
    await record(trx, {
      actorId: actor.id,
      action: 'publish',
      subject: 'automation',
      subjectId: id,
      detail: { version: version.number },
    });
    await emit(trx, 'automation.changed', { automation: id });
    return { version: version.number };
  });
  await lineUp(db, when);
  return made;
}

/** Looks at the records as they are, so that those that meet the conditions already are not told of. */
async function beginMatching(
  trx: Database,
  automation: Pick<AutomationRow, 'id' | 'liveVersionId'> & { live: Automation },
): Promise<void> {
  if (automation.live.when.kind !== 'meets') return;
  await forgetMatches(trx, automation.id);
  await match(trx, automation, null, '', true);
}

/** Switches an automation on or off. What waited for its time when it is switched off is not said. */
export async function switchAutomation(db: Database, actor: Actor, id: number, on: boolean): Promise<void> {
  const before = await requireOwn(db, actor, id);
  if (on && before.live === null) throw new Problem(409, 'It was never published. Publish it, and it is on.');
  if (on && !before.ownerHere)
    throw new Problem(409, `${before.owner}, who looked after it, has left. Take it over first.`);
  const when = before.live?.when;
  if (on && when && listensToGroup(when)) await lookAtGroup(db, when.groupId);
  await transact(db, async (trx) => {
    await lockAutomation(trx, id);
    if (!(await setAutomationState(trx, id, on ? 'on' : 'off', null))) return;
    if (on && before.live) await beginMatching(trx, { ...before, live: before.live });
    if (on) await beginLooking(trx, id);
    if (!on) await deleteWaiting(trx, id);
    await record(trx, {
      actorId: actor.id,
      action: on ? 'switch on' : 'switch off',
      subject: 'automation',
      subjectId: id,
    });
    await emit(trx, 'automation.changed', { automation: id });
  });
  if (on && when) await lineUp(db, when);
}

/** Lines up what a clock sets off without waiting for the engine's next look. */
async function lineUp(db: Database, when: When): Promise<void> {
  if (when.kind === 'schedule') await lineUpTimes(db);
  else if (waitsForClock(when) || when.kind === 'ask closes') await lineUpDates(db);
}

/** Makes somebody at the desk the one who looks after it: what it says is said with their rights. */
export async function takeOver(db: Database, actor: Actor, id: number): Promise<void> {
  requireDesk(actor);
  if (actor.role !== 'coordinator') throw new Problem(403, 'Only a coordinator takes an automation over.');
  const found = await automationById(db, id);
  if (!found) throw notFound('automation');
  await transact(db, async (trx) => {
    await setAutomationOwner(trx, id, actor.id);
    await record(trx, {
      actorId: actor.id,
      action: 'take over',
      subject: 'automation',
      subjectId: id,
      detail: { from: found.ownerId },
    });
    await emit(trx, 'automation.changed', { automation: id });
  });
}

/** Deletes an automation with the account of its runs; what it said stays where it is. */
export async function deleteAutomation(db: Database, actor: Actor, id: number): Promise<void> {
  const found = await requireOwn(db, actor, id);
  if (!isTheirs(actor, found)) throw new Problem(403, `It is for ${found.owner} to delete it.`);
  if (found.state === 'on') throw new Problem(409, 'It is on. Switch it off first.');
  await transact(db, async (trx) => {
    await deleteAutomationById(trx, id);
    await record(trx, {
      actorId: actor.id,
      action: 'delete',
      subject: 'automation',
      subjectId: id,
      detail: { name: found.draft.name },
    });
    await emit(trx, 'automation.changed', { automation: id });
  });
}
