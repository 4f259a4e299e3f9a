import { z } from 'zod';
import {
  automationSchema,
  listensToAsks,
  sheetOf,
  type Automation,
} from '../../core/automation/automation.ts';
import type { Cause } from '../../core/automation/cause.ts';
import type { Trial, TriedSaying } from '../../core/automation/run.ts';
import { audienceWords } from '../../core/audience/words.ts';
import { fillFor, sectionsHtml } from '../../core/content/html.ts';
import { EMPTY_PLAN, type Plan } from '../../core/plan/plan.ts';
import { cellWords } from '../../core/sheets/cell.ts';
import { momentWords, zoneWords } from '../../core/timing/words.ts';
import { insertAnnouncement } from '../announcements/store.ts';
import { freezeVersion } from '../announcements/versionStore.ts';
import { reasonOf } from '../aside/store.ts';
import { record } from '../audit/store.ts';
import { countPeople, isIn } from '../audience/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { peopleWhere } from '../groups/memberStore.ts';
import { readerById, organisation } from '../people/store.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { Problem } from '../problem.ts';
import { planOnce } from '../sends/planning.ts';
import { insertSend } from '../sends/store.ts';
import { recordsPage } from '../sheets/store.ts';
import type { Asking } from '../sources/asking.ts';
import { callsBetween } from '../gateways/calls.ts';
import { readingNames } from './naming.ts';
import { Around } from './around.ts';
import { askToTry } from './askCauses.ts';
import { datesDue } from './dates.ts';
import { prepare, type Prepared, type Saying } from './prepare.ts';
import { requireOwn } from './service.ts';
import { triedAs } from './sharing.ts';
import { comingTimes } from './timing.ts';

/** What an automation is tried on: one person or record; without either, the newest record, or whoever comes first by name. */
export const trialSchema = z.object({
  automation: automationSchema,
  personId: z.int().positive().nullable().default(null),
  recordId: z.int().positive().nullable().default(null),
});
export type TrialInput = z.infer<typeof trialSchema>;

const MOST_SHOWN = 12;
/** Records a trial of something that records set off looks at: the newest. */
const NEWEST = 200;
/** A session is tried on its next date within so many days, or else its last. */
const TRIED_DAYS = 400;

/** What it is tried on, as a cause; nothing where there is nothing to try it on. */
async function causeOf(
  db: Database,
  automation: Automation,
  { personId, recordId }: Pick<TrialInput, 'personId' | 'recordId'>,
  ownerId: number,
  nowMs: number,
): Promise<{ cause: Cause; dueMs: number; words: string } | { problem: string }> {
  const { when } = automation;
  if (when.kind === 'schedule') {
    const [next] = comingTimes(when, when.zone === null ? ['UTC'] : [], nowMs, 1);
    const wall = next?.wall ?? when.start;
    return {
      cause: { kind: 'time', wall },
      dueMs: next?.dueMs ?? nowMs,
      words: next ? `the next time, ${momentWords(Date.parse(`${wall}:00Z`), 'UTC', nowMs)}` : 'now',
    };
  }
  if ('groupId' in when) {
    const now = await audienceContext(db);
    if (!now.groups.has(when.groupId)) return { problem: 'The group it listens to is not there any more.' };
    const members = await peopleWhere(db, isIn({ kind: 'group', id: when.groupId }, now), null, 1);
    const id = personId ?? members[0]?.id;
    if (id === undefined) return { problem: 'Nobody is in the group to try it on. Choose somebody.' };
    return {
      cause: { kind: 'person', groupId: when.groupId, people: [id] },
      dueMs: nowMs,
      words: personId === null ? `${members[0]?.name ?? 'somebody'} in the group` : 'whom you chose',
    };
  }
  if (when.kind === 'session') {
    const span = TRIED_DAYS * 86_400_000;
    const [next] = await datesDue(db, automation, nowMs, nowMs + span);
    const dueMs = next ?? (await datesDue(db, automation, nowMs - span, nowMs)).at(-1);
    if (dueMs === undefined) return { problem: 'The session has no date near enough to be tried on.' };
    return {
      cause: { kind: 'date', dueMs },
      dueMs,
      words: `${next === undefined ? 'the last' : 'the next'} time, ${momentWords(dueMs, 'UTC', nowMs)}`,
    };
  }
  if (listensToAsks(when)) {
    const occurrenceId = await askToTry(db, when, ownerId);
    if (occurrenceId === undefined) return { problem: 'Nothing of that kind has been asked yet.' };
    return {
      cause: { kind: 'ask', occurrenceId },
      dueMs: nowMs,
      words: 'what was asked last, as it stands now',
    };
  }
  if (when.kind === 'called') {
    const [last] = await callsBetween(db, when.hookId, 0, nowMs, 1);
    if (!last)
      return { problem: 'Nothing has come in by it yet that could be tried. Send it something first.' };
    return {
      cause: { kind: 'call', hookId: when.hookId, call: 'trial', values: last.values },
      dueMs: nowMs,
      words: `what came in ${momentWords(last.atMs, 'UTC', nowMs)}`,
    };
  }
  const sheetId = sheetOf(when);
  if (sheetId === null) return { problem: 'It has nothing to be tried on.' };
  const newest = recordId === null ? await recordsPage(db, sheetId, null, '', NEWEST) : [];
  const ids = recordId === null ? newest.map((each) => each.id) : [recordId];
  if (ids.length === 0) return { problem: 'The record sheet is empty. Add a record to try it on.' };
  return {
    cause: { kind: 'records', sheetId, ids },
    dueMs: nowMs,
    words:
      recordId === null
        ? `the newest ${ids.length === 1 ? 'record' : `${ids.length} records`}`
        : 'the record you chose',
  };
}

async function shownSaying(
  db: Database,
  actor: Actor,
  automationId: number,
  saying: Saying,
  senderName: string,
  zone: string,
  names: Awaited<ReturnType<typeof readingNames>>,
): Promise<TriedSaying> {
  const now = await audienceContext(db);
  const reader = await readerById(db, saying.personId ?? actor.id);
  const [first] = saying.buckets;
  const dueMs = first?.dueMs ?? 0;
  const one =
    saying.personId === null ? null : (names.person(saying.personId) ?? reader?.name ?? 'one person');
  return {
    about: saying.about,
    whom: one ?? (saying.audience ? audienceWords(saying.audience, names) : ''),
    people: saying.audience ? await countPeople(db, saying.audience, now) : null,
    boards: saying.boards.map((id) => names.board(id) ?? 'a board that no longer exists'),
    outside: saying.outside.map((id) => names.outside(id) ?? 'an outside place that no longer exists'),
    mail: saying.mail,
    due:
      saying.timing.kind === 'local'
        ? `${saying.timing.wall.slice(11)} their time`
        : `${momentWords(dueMs, reader && saying.personId !== null ? reader.zone : zone)}${saying.timing.kind === 'at' && saying.timing.zone !== 'UTC' ? ` in ${zoneWords(saying.timing.zone)}` : ''}`,
    title: saying.content.title,
    from: senderName,
    html: sectionsHtml(
      saying.content.sections,
      fillFor(reader && { ...reader, atMs: dueMs, eventMs: null }),
      { kind: 'page', level: 4, address: (path) => `${path}?automation=${automationId}` },
    ),
    otherwise: saying.otherwise,
    reason: saying.reason,
    keptBack: null,
  };
}

async function prepareTrial(
  db: Database,
  actor: Actor,
  id: number,
  input: TrialInput,
  asking: Asking,
): Promise<{ prepared: Prepared; words: string; owner: Actor } | { problem: string }> {
  const row = await requireOwn(db, actor, id);
  const owner = await triedAs(db, actor, row);
  if (!owner) return { problem: `${row.owner}, who looked after it, has left. Take it over first.` };
  const nowMs = await databaseNow(db);
  const found = await causeOf(db, input.automation, input, owner.id, nowMs);
  if ('problem' in found) return found;
  try {
    const prepared = await prepare(
      db,
      owner,
      input.automation,
      found.cause,
      found.dueMs,
      asking,
      new Around(db),
    );
    return { prepared, words: found.words, owner };
  } catch (error) {
    return { problem: reasonOf(error) };
  }
}

/** What an automation would say, as it is written, of something real: nothing leaves. */
export async function tryAutomation(
  db: Database,
  actor: Actor,
  id: number,
  input: TrialInput,
  asking: Asking,
): Promise<Trial> {
  const tried = await prepareTrial(db, actor, id, input, asking);
  const nothing = { cause: '', considered: 0, matched: 0, values: [], sayings: [], more: 0 };
  if ('problem' in tried) return { ...nothing, problem: tried.problem };
  const { prepared, words } = tried;
  const [names, home] = await Promise.all([readingNames(db, actor, [input.automation]), organisation(db)]);
  const zone = home?.zone ?? 'UTC';
  const sender =
    (input.automation.senderId === null ? null : names.sender(input.automation.senderId)) ??
    input.automation.content.byline;
  const shown = await Promise.all(
    prepared.sayings
      .slice(0, MOST_SHOWN)
      .map((saying) => shownSaying(db, actor, id, saying, sender, zone, names)),
  );
  const kept = prepared.keptBack.slice(0, MOST_SHOWN).map(({ about, reason }): TriedSaying => ({
    about,
    whom: '',
    people: null,
    boards: [],
    outside: [],
    mail: false,
    due: '',
    title: '',
    from: '',
    html: '',
    otherwise: false,
    reason: null,
    keptBack: reason,
  }));
  const [item] = prepared.items;
  return {
    cause: words,
    considered: prepared.considered,
    matched: prepared.matched,
    values: item
      ? [...prepared.fields.values()].flatMap((field) => {
          const value = cellWords(field, item.values.get(field.name) ?? '', zone);
          return value === '' ? [] : [{ label: field.label, value }];
        })
      : [],
    sayings: [...shown, ...kept],
    more: prepared.sayings.length + prepared.keptBack.length - shown.length - kept.length,
    problem: null,
  };
}

/** Sends the first of what it would say to whoever tries it, by inbox and mail, and to nobody else. */
export async function sendTrial(
  db: Database,
  actor: Actor,
  id: number,
  input: TrialInput,
  asking: Asking,
  key: string,
): Promise<{ occurrenceId: number }> {
  const tried = await prepareTrial(db, actor, id, input, asking);
  if ('problem' in tried) throw new Problem(422, tried.problem);
  const [saying] = tried.prepared.sayings;
  if (!saying)
    throw new Problem(
      422,
      tried.prepared.keptBack[0]
        ? `Nothing of it would be said: ${tried.prepared.keptBack[0].reason}`
        : 'Nothing meets its conditions, so there is nothing to send. Try it on something else.',
    );
  const plan: Plan = { ...EMPTY_PLAN, audience: { kind: 'person', id: actor.id } };
  return transact(db, async (trx) => {
    const announcementId = await insertAnnouncement(trx, actor.id, saying.content, plan, 'committed');
    const versionId = await freezeVersion(trx, announcementId, actor.id, saying.content, 'sent');
    const sendId = await insertSend(trx, {
      announcementId,
      versionId,
      createdBy: actor.id,
      plan,
      key,
      kind: 'test',
    });
    const occurrenceId = await planOnce(trx, { id: sendId, versionId, plan }, null, { all: [], reached: [] });
    await record(trx, { actorId: actor.id, action: 'send test', subject: 'automation', subjectId: id });
    return { occurrenceId };
  });
}
