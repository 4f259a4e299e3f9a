import { deadlineOf, ofWorkingDays } from '../../core/asks/ask.ts';
import { together, type Going, type Together } from '../../core/bundling/together.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { eventSpan } from '../../core/content/event.ts';
import { reasonsIn } from '../../core/audience/words.ts';
import { contentProblems, type Content, type Problem } from '../../core/content/announcement.ts';
import { inlineOf } from '../../core/content/document.ts';
import { lengthOf, PUSH_TITLE } from '../../core/content/text.ts';
import { clashingZones, type Due } from '../../core/load/clash.ts';
import type { OtherGoing } from '../../core/load/otherGoing.ts';
import type { PlannedBucket } from '../../core/plan/buckets.ts';
import { comingOccurrences } from '../../core/plan/coming.ts';
import { bucketsOnce, isLocal, mayUnsubscribe, waitsForMorning, type Plan } from '../../core/plan/plan.ts';
import { draftBodies } from '../gateways/places.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { briefOf, type Forecast } from '../../core/sends/forecast.ts';
import {
  dueToReader,
  type Collision,
  type Rehearsal,
  type RehearsalFilter,
  type RehearsalPage,
  type RehearsedPerson,
} from '../../core/sends/rehearsal.ts';
import { dayAround } from '../../core/timing/day.ts';
import { list } from '../../core/words.ts';
import type { Session } from '../accounts/service.ts';
import { openAnnouncement } from '../announcements/service.ts';
import type { Announcement } from '../announcements/store.ts';
import { requireSeen } from '../audience/naming.ts';
import { factsOf } from '../audience/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';
import { clocks, organisation } from '../people/store.ts';
import { instantsIn, worksAt } from '../people/working.ts';
import { forecast } from '../sends/forecast.ts';
import { zonesOf } from '../sends/planning.ts';
import { occurrencesBetween } from '../sends/occurrenceStore.ts';
import { asOther, otherGoings } from '../sends/otherGoings.ts';
import { checkLinks } from './links.ts';
import { alike, recipientsPage, shared } from './store.ts';

const HOUR_MS = 3_600_000;
const PAGE = 200;
/** Of what else goes out so much is looked at. */
const MOST_NEAR = 40;

/** The buckets of a plan as they would be planned now; of what recurs, those of its next occurrence. */
export function bucketsNow(
  plan: Plan,
  content: Pick<Content, 'event'>,
  zones: string[],
  nowMs: number,
): PlannedBucket[] {
  const { timing } = plan;
  if (timing.kind !== 'recurring') return bucketsOnce(timing, content.event, zones, nowMs);
  return comingOccurrences(timing, zones, nowMs, { most: 1 })[0]?.buckets ?? [];
}

function linksOf(content: Content): string[] {
  const inText = content.sections
    .flatMap((section) => section.document.content.flatMap(inlineOf))
    .flatMap((part) => (part.type === 'text' ? (part.marks ?? []) : []))
    .flatMap((mark) => (mark.type === 'link' ? [mark.attrs.href] : []));
  return [...inText, content.button?.url ?? '', content.event?.link ?? ''].filter(Boolean);
}

/** A draft whose audience this person may look at; a 403 problem where it names what is not theirs to see. */
async function openSeen(db: Database, actor: Actor, announcementId: number): Promise<Announcement> {
  const draft = await openAnnouncement(db, actor, announcementId);
  await requireSeen(db, actor, draft.plan.audience);
  return draft;
}

/** What else goes out in a span, that nearest to an instant first. */
async function nearestGoings(
  db: Database,
  announcementId: number,
  { atMs, fromMs, toMs }: { atMs: number; fromMs: number; toMs: number },
  now: AudienceContext,
): Promise<OtherGoing[]> {
  const found = await occurrencesBetween(db, fromMs, toMs, null);
  const others = found.filter((other) => other.announcementId !== announcementId);
  const goings = await otherGoings(db, others, { fromMs, toMs, whose: null }, now);
  return goings.sort((a, b) => Math.abs(a.dueMs - atMs) - Math.abs(b.dueMs - atMs)).slice(0, MOST_NEAR);
}

/**
 * The full dry run of a draft, for the announcement as it is saved: its sentence, who would be missed and why, what else
 * reaches the same people, what they get that day, and what is wrong with its text. Its recipients come page by page
 * from `rehearsedPeople`.
 *
 * @param within hours before and after in which another going-out to the same people is a collision
 * @param options.links whether to look if the places its links lead to are there
 */
export async function rehearse(
  db: Database,
  session: Pick<Session, 'actor' | 'zone'>,
  announcementId: number,
  within: number,
  options: { links: boolean; publicUrl: string },
): Promise<Rehearsal> {
  const began = performance.now();
  const { actor, zone } = session;
  const draft = await openSeen(db, actor, announcementId);
  const { plan, content } = draft;
  const [outlook, now, nowMs, everyClock, verdicts] = await Promise.all([
    forecast(db, actor, plan, briefOf(content)),
    audienceContext(db),
    databaseNow(db),
    clocks(db),
    options.links ? checkLinks(linksOf(content)) : [],
  ]);
  const atMs = outlook.span?.firstMs ?? nowMs;
  const day = dayAround(atMs, zone);
  const nearest = await nearestGoings(
    db,
    announcementId,
    {
      atMs,
      fromMs: Math.min(day.startMs, atMs - within * HOUR_MS),
      toMs: Math.max(day.endMs, (outlook.span?.lastMs ?? atMs) + within * HOUR_MS),
    },
    now,
  );
  const mine = bucketsNow(plan, content, zonesOf(everyClock), nowMs).filter(
    (bucket) => bucket.pastHour !== 'not',
  );
  const asked = nearest.map((other) => asOther(other, clashingZones(mine, other.dues, within * HOUR_MS + 1)));
  const today = nearest.filter((other) => other.dueMs < day.endMs && other.endsMs >= day.startMs);
  const [both, comes] = plan.audience
    ? await Promise.all([
        shared(db, plan.audience, now, asked),
        comesTogether(db, { draft, mine, day: today }, now),
      ])
    : [[], null];
  const nameOf = (other: OtherGoing): string =>
    decide(actor, { kind: 'see send', authorId: other.ownerId }).outcome === 'allowed'
      ? other.title
      : 'Something another author sends';
  return {
    sentence: `${outlook.phrases.map((phrase) => [phrase.lead, phrase.words].filter(Boolean).join(' ')).join(', ')}.`,
    forecast: outlook,
    within,
    collisions: collisionsOf(nearest, both, nameOf),
    bundled: comes?.waits
      ? {
          ...comes.waits,
          withOthers: comes.withOthers.flatMap(({ other, people }) => {
            const found = today[other];
            return found ? [{ occurrenceId: found.id, title: nameOf(found), people }] : [];
          }),
        }
      : null,
    outside: await draftBodies(
      db,
      plan.outside,
      { content, author: draft.authorName, dueMs: atMs },
      options.publicUrl,
    ),
    load: comes?.load ?? [],
    dayMs: atMs,
    problems: problemsOf(draft, outlook),
    warnings: [...outlook.warnings, ...textWarnings(content, verdicts)],
    tookMs: performance.now() - began,
  };
}

/** What else goes out to some of the same people, in order of time; `both` is how many they are of each. */
const collisionsOf = (
  nearest: readonly OtherGoing[],
  both: readonly number[],
  nameOf: (other: OtherGoing) => string,
): Collision[] =>
  nearest
    .map((other, i) => ({
      occurrenceId: other.id,
      title: nameOf(other),
      state: other.state,
      dueMs: other.dueMs,
      people: both[i] ?? 0,
    }))
    .filter((other) => other.people > 0)
    .sort((a, b) => a.dueMs - b.dueMs);

/** What is to be mended in a draft before it can go. */
function problemsOf({ content, review }: Announcement, outlook: Forecast): Problem[] {
  const problems: Problem[] = [...contentProblems(content), ...outlook.problems];
  if (outlook.right.outcome === 'denied') problems.push({ field: 'audience', detail: outlook.right.reason });
  if (outlook.clearance.length > 0 && review !== 'cleared')
    problems.push({
      field: 'review',
      detail: `${list(outlook.clearance, 'and')} ${outlook.clearance.length === 1 ? 'asks' : 'ask'} for a second person’s clearance. Hand it on for review.`,
    });
  return problems;
}

/** What may be wrong in a text: links that lead nowhere, a title that phones cut. */
function textWarnings(content: Content, verdicts: Awaited<ReturnType<typeof checkLinks>>): Problem[] {
  const warnings: Problem[] = [];
  for (const verdict of verdicts)
    if (verdict.state !== 'good')
      warnings.push({
        field: 'links',
        detail:
          verdict.state === 'dead'
            ? `The link ${verdict.url} is dead: ${verdict.why}.`
            : `The link ${verdict.url} could not be checked: ${verdict.why}.`,
      });
  const title = lengthOf(content.title);
  if (title > PUSH_TITLE)
    warnings.push({
      field: 'title',
      detail: `The title has ${title} characters. Phones cut a push message after about ${PUSH_TITLE}.`,
    });
  return warnings;
}

/** What bundling makes of a draft's going-out and of what else its people get that day. */
async function comesTogether(
  db: Database,
  { draft, mine, day }: { draft: Announcement; mine: readonly Due[]; day: readonly OtherGoing[] },
  now: AudienceContext,
): Promise<Together> {
  const { plan, content } = draft;
  const [readers, whats] = await Promise.all([
    alike(
      db,
      plan.audience ?? { kind: 'any', of: [] },
      now,
      day.map((other) => asOther(other)),
    ),
    Promise.all(day.map((other) => other.what())),
  ]);
  const lastMs = Math.max(0, ...mine.map((due) => due.dueMs));
  const going: Going = {
    what: {
      importance: content.importance,
      test: false,
      chase: false,
      deadlineMs: deadlineOf(plan.ask, lastMs),
      eventMs: content.event ? eventSpan(content.event).startMs : null,
    },
    dues: mine,
  };
  return together(
    going,
    day.map((other, i): Going => ({
      what: whats[i] ?? { ...going.what, importance: 'urgent' },
      dues: other.dues,
    })),
    readers,
  );
}

/** A page of those whom a draft would reach, by name: with method, instant and reason, and what does not reach them. */
export async function rehearsedPeople(
  db: Database,
  actor: Actor,
  announcementId: number,
  options: { filter: RehearsalFilter; search: string; after: { name: string; id: number } | null },
): Promise<RehearsalPage> {
  const draft = await openSeen(db, actor, announcementId);
  return peoplePageOf(db, draft, { ...options, most: PAGE });
}

async function peoplePageOf(
  db: Database,
  { plan, content }: Announcement,
  options: {
    filter: RehearsalFilter;
    search: string;
    after: { name: string; id: number } | null;
    most: number;
  },
): Promise<RehearsalPage> {
  const { audience } = plan;
  if (!audience) return { people: [], next: null };
  const [now, everyClock, home, nowMs] = await Promise.all([
    audienceContext(db),
    clocks(db),
    organisation(db),
    databaseNow(db),
  ]);
  const buckets = bucketsNow(plan, content, isLocal(plan.timing) ? zonesOf(everyClock) : [], nowMs);
  const quietOfAll = home?.quiet ?? null;
  const waits = waitsForMorning(content.importance);
  const stoppable = mayUnsubscribe(content.importance, plan.ask);
  const works =
    ofWorkingDays(plan.ask) && buckets.length > 0 ? worksAt(instantsIn(buckets, zonesOf(everyClock))) : null;
  const found = await recipientsPage(db, audience, now, {
    filter: options.filter,
    works,
    stoppable,
    clocks: everyClock.filter((clock) => {
      const due = dueToReader(buckets, clock, quietOfAll, waits);
      return options.filter === 'hour passed' ? due.dueMs === null : due.quietFromMs !== null;
    }),
    search: options.search.trim(),
    after: options.after,
    most: options.most + 1,
  });
  const page = found.slice(0, options.most);
  const [facts, names] = await Promise.all([
    factsOf(
      db,
      page.map((person) => person.id),
      audience,
      now,
    ),
    audienceNames(db, now, [audience]),
  ]);
  const people = page.map((row): RehearsedPerson => {
    const idle = row.works === 0;
    const due = idle ? { dueMs: null, quietFromMs: null } : dueToReader(buckets, row, quietOfAll, waits);
    const person = facts.get(row.id);
    const mail = plan.mail && row.hasMail === 1 && !(stoppable && row.mailStopped === 1);
    const notes = [
      idle
        ? 'Not a working day of theirs: nothing.'
        : due.dueMs === null
          ? 'The hour has passed there: nothing.'
          : '',
      plan.mail && row.hasMail === 0 ? 'No mail address: the inbox only.' : '',
      plan.mail && row.hasMail === 1 && !mail ? 'Stopped mail of this kind: the inbox only.' : '',
      due.quietFromMs !== null ? 'Quiet hours: it waits for their end.' : '',
    ].filter(Boolean);
    return {
      id: row.id,
      name: row.name,
      station: row.station,
      zone: row.zone,
      methods: due.dueMs === null ? [] : mail ? ['inbox', 'mail'] : ['inbox'],
      reason: person ? list(reasonsIn(audience, person, now, names), 'and') : '',
      note: notes.length > 0 ? notes.join(' ') : null,
      ...due,
    };
  });
  const last = page.at(-1);
  return { people, next: found.length > options.most && last ? { name: last.name, id: last.id } : null };
}

/** Everybody a draft would reach, page after page, for a file. */
export async function* wholeRehearsal(
  db: Database,
  actor: Actor,
  announcementId: number,
): AsyncGenerator<RehearsedPerson[]> {
  const draft = await openSeen(db, actor, announcementId);
  let after: { name: string; id: number } | null = null;
  do {
    const page: RehearsalPage = await peoplePageOf(db, draft, {
      filter: 'all',
      search: '',
      after,
      most: 2000,
    });
    yield page.people;
    after = page.next;
  } while (after);
}
