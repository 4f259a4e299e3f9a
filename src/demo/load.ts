import { deadlineOf, ofWorkingDays, type Ask } from '../core/asks/ask.ts';
import { acknowledgement } from '../core/asks/acknowledgement/acknowledgement.ts';
import { audienceOf, groupsForm } from '../core/audience/form.ts';
import type { Audience } from '../core/audience/expression.ts';
import { EMPTY_CONTENT, type Content } from '../core/content/announcement.ts';
import { plainSection, type Image } from '../core/content/section.ts';
import { bucketsAt, type PlannedBucket } from '../core/plan/buckets.ts';
import { bucketsOnce, EMPTY_PLAN, spanOf, type Plan, type Timing } from '../core/plan/plan.ts';
import { dayAround } from '../core/timing/day.ts';
import { occurrenceWalls } from '../core/timing/recurrence.ts';
import { WEEKLY } from '../core/timing/rule.ts';
import { resolveMoment, wallAt } from '../core/timing/wallTime.ts';
import { hashPassword } from '../server/accounts/password.ts';
import { insertAnnouncement } from '../server/announcements/store.ts';
import { freezeVersion } from '../server/announcements/versionStore.ts';
import { isIn } from '../server/audience/store.ts';
import { change, databaseNow, rows, type Database } from '../server/database/connection.ts';
import { audienceContext } from '../server/groups/directory.ts';
import { clocks, insertOrganisation } from '../server/people/store.ts';
import { both, instantsIn, worksAt } from '../server/people/working.ts';
import { planChases } from '../server/sends/chasing.ts';
import { planRecurring, zonesOf } from '../server/sends/planning.ts';
import { insertSend } from '../server/sends/store.ts';
import { insertOccurrence } from '../server/sends/occurrenceStore.ts';
import { insertSeries } from '../server/series/store.ts';
import { ASK_ITEMS, layAnswers } from './asks.ts';
import type { AskTimes } from './askTimes.ts';
import { layAutomations } from './automations.ts';
import { layBoards, layTalk } from './boards.ts';
import { layDeeds } from './deeds.ts';
import { layCalendar } from './calendar.ts';
import { layPatterns } from './patterns.ts';
import { layFollowed } from './followed.ts';
import { layDesk } from './desk.ts';
import { layPast } from './past.ts';
import { layShelf } from './shelf.ts';
import { layPeople, type DemoPeople } from './people.ts';
import { layPicture, type Drawing } from './pictures.ts';
import { CATEGORIES, doc, ITEMS, seedTray, type Item } from './texts.ts';

/** The password of the demo people, for trying the sign-in form. */
export const DEMO_PASSWORD = 'nine small stations';
const ZONE = 'Europe/London';
const HOUR_MS = 3_600_000;
const LATEST_ISSUE = 214;
const ISSUES = 30;

/** Loads the Thistledown Seed Network into an empty database, laid out around this moment. */
export async function loadDemo(db: Database, secret: string): Promise<void> {
  const hash = await hashPassword(DEMO_PASSWORD);
  await db.transaction(async (trx) => {
    const nowMs = await databaseNow(trx);
    await insertOrganisation(trx, {
      name: 'Thistledown Seed Network',
      zone: ZONE,
      demo: true,
      quiet: null,
    });
    const people = await layPeople(trx, nowMs);
    await trx('passwords').insert(people.all.slice(0, 10).map(({ id }) => ({ person_id: id, hash })));
    // Who has been here for a while has signed in; the newest are still to be invited.
    await trx.raw(
      'UPDATE people SET first_in_at = joined_on + INTERVAL 34 HOUR WHERE mail IS NOT NULL AND joined_on < CURRENT_DATE - INTERVAL 30 DAY',
    );
    const groups = await layGroups(trx, people);
    const boards = await layBoards(trx, people, groups);
    await laySends(trx, secret, nowMs, people, groups, boards);
    await layTalk(trx, nowMs, people, boards);
    await layShelf(trx, nowMs, people);
    await layCalendar(trx, nowMs, people, groups);
    await layFollowed(trx, people, groups);
    await layDesk(trx, people, groups, boards);
    await layAutomations(trx, secret, nowMs, people, groups, boards);
    await layPatterns(trx, people, boards);
    await layDeeds(trx);
    await trx.raw(
      `UPDATE posts SET pinned_at = posted_at, pinned_by = author_id, pin_place = id WHERE version_id IN (
         SELECT id FROM announcement_versions WHERE title IN
           ('House rules, read this first', 'How seed loans work', 'Fire drill in the drying rooms this Thursday', 'New humidity limits in every vault'))`,
    );
  });
}

type Ids = Map<string, number>;

async function layGroups(db: Database, people: DemoPeople): Promise<Ids> {
  const ids: Ids = new Map();
  const add = async (name: string, rule: Audience | null, members: number[] = []): Promise<void> => {
    const [id = 0] = await db('groups').insert({
      name,
      kind: rule ? 'live' : 'fixed',
      rule: rule && JSON.stringify(rule),
    });
    ids.set(name, id);
    if (members.length > 0)
      await db('group_members').insert(members.map((person_id) => ({ group_id: id, person_id })));
  };
  for (const [name, id] of people.stations) await add(name, { kind: 'station', id });
  const every = (n: number, from: number): number[] =>
    people.all.filter((_, i) => i % n === from).map((person) => person.id);
  await add('Vault keyholders', null, [
    ...new Set([...every(6, 2), ...people.all.slice(0, 8).map((p) => p.id)]),
  ]);
  await add('First aiders', null, every(11, 4));
  await add('Catalogue working party', null, [...new Set([...every(19, 6), people.byMail('wren')])]);
  await add('Trustees', null, people.idsBy('trustee'));
  await change(db, "UPDATE `groups` SET needs_clearance = TRUE WHERE name = 'Trustees'");
  await add('Field collectors on the road', {
    kind: 'all',
    of: [
      { kind: 'occupation', occupation: 'field collector' },
      { kind: 'standing', standing: 'active' },
    ],
  });
  await db('group_owners').insert({
    group_id: ids.get('Catalogue working party'),
    person_id: people.byMail('wren'),
  });
  await change(
    db,
    "UPDATE `groups` SET joining = 'asked', owner_brings = TRUE, about = ? WHERE name = 'Catalogue working party'",
    ['Puts the old handwritten catalogue into the new one, an hour on Tuesdays.'],
  );
  await change(db, "UPDATE `groups` SET joining = 'open', about = ? WHERE name = 'First aiders'", [
    'Called on when somebody is hurt. Come in once you hold the certificate.',
  ]);
  await db('group_requests').insert({
    group_id: ids.get('Catalogue working party'),
    person_id: people.byMail('marli'),
    words: 'I read old handwriting without glasses.',
  });
  await add('New this season', { kind: 'joined within', days: 60 });
  await add('On leave', { kind: 'standing', standing: 'on leave' });
  const reach: [string, string[]][] = [
    ['nuria', ['Sant Elm', 'Quillan Head', 'Field collectors on the road']],
    ['aroha', ['Tarn Hollow', 'Mallee Reach']],
  ];
  for (const [mail, names] of reach)
    await db('editor_reach').insert(
      names.map((name) => ({ person_id: people.byMail(mail), group_id: ids.get(name) })),
    );
  return ids;
}

interface Frame {
  seriesId: number;
  pictures: Record<Drawing, Image>;
}

function contentOf(item: Item, nowMs: number, frame: Frame): Content {
  const sections = item.sections ?? [plainSection(item.document ?? doc())];
  return {
    ...EMPTY_CONTENT,
    title: item.title,
    byline: item.byline ?? '',
    importance: item.importance ?? 'routine',
    sections: sections.map((section, i) =>
      item.picture && i === 0 ? { ...section, image: frame.pictures[item.picture] } : section,
    ),
    button: item.button ?? null,
    event: item.event
      ? {
          wall: `${dayAround(nowMs, ZONE, item.event.day).date}T${item.event.at}`,
          zone: ZONE,
          minutes: item.event.minutes,
          place: item.event.place,
          link: item.event.link,
          signUp: item.event.signUp,
        }
      : null,
    issue: item.issue ? { seriesId: frame.seriesId, category: item.issue.category } : null,
  };
}

async function laySends(
  db: Database,
  secret: string,
  nowMs: number,
  people: DemoPeople,
  groups: Ids,
  boards: Ids,
): Promise<void> {
  const weekday = new Date(`${dayAround(nowMs, ZONE).date}T12:00:00Z`).getUTCDay();
  const lastMonday = -((weekday + 6) % 7);
  const issues = Array.from({ length: ISSUES }, (_, i) => seedTray(LATEST_ISSUE - i, i, lastMonday));
  const next = [1, 2].map((i) => seedTray(LATEST_ISSUE + i, -i, lastMonday));
  const groupId = (name: string): number => groups.get(name) ?? 0;
  const circumstance = await audienceContext(db);
  const zones = zonesOf(await clocks(db));
  const maud = people.byMail('maud');
  const pictures = {
    hills: await layPicture(db, 'hills', maud, 'Hills, with seeds on the wind', 'wide'),
    drawers: await layPicture(db, 'drawers', maud, 'Rows of labelled drawers in a vault', 'beside'),
    poppies: await layPicture(db, 'poppies', maud, 'A slope of blue poppies below snow', 'wide'),
  };
  const seriesId = await insertSeries(
    db,
    {
      name: 'The Seed Tray',
      banner: pictures.hills,
      heading: 'The Seed Tray No. {number}: ',
      byline: 'the weekly bulletin of the network',
      categories: [...CATEGORIES],
    },
    LATEST_ISSUE + 3,
  );

  for (const item of [...ITEMS, ...issues, ...next, ...ASK_ITEMS]) {
    const date = dayAround(nowMs, ZONE, item.day).date;
    const wall = `${date}T${item.at}`;
    const content = contentOf(item, nowMs, { seriesId, pictures });
    const timing: Timing =
      item.when === 'local'
        ? { kind: 'local', wall, passed: 'at once' }
        : item.when === 'recurring'
          ? {
              kind: 'recurring',
              start: wall,
              zone: item.byReaders ? null : ZONE,
              rule: item.rule ?? WEEKLY,
              passed: 'not',
            }
          : item.when === 'before event'
            ? { kind: 'before event', minutes: item.minutesBefore ?? 60 }
            : { kind: 'at', wall, zone: ZONE };
    const audience = item.audience ?? (item.whom ? addressed(item.whom, groupId) : null);
    const plan: Plan = {
      ...EMPTY_PLAN,
      audience,
      mail: item.mail ?? true,
      contacts: item.contacts ?? false,
      boards: item.boards.map((name) => boards.get(name) ?? 0),
      timing,
      ask: item.ask ? item.ask(timesOf(wall, nowMs, boards)) : askOf(item, timing, wall),
    };
    const author = people.byMail(item.by);
    const announcementId = await insertAnnouncement(db, author, content, plan, 'committed');
    const number = item.issue?.number ?? null;
    const versionId = await freezeVersion(db, announcementId, author, content, 'sent', number);
    const sendId = await insertSend(db, {
      announcementId,
      versionId,
      createdBy: author,
      plan,
      key: `demo-${announcementId}`,
    });
    const who = audience && isIn(audience, circumstance);
    const lay = async (recursAt: string, buckets: PlannedBucket[]): Promise<void> => {
      const span = spanOf(buckets);
      if (!span) return;
      const deadlineMs = deadlineOf(plan.ask, span.lastMs);
      const id = await insertOccurrence(db, { sendId, versionId, recursAt, buckets, ...span, deadlineMs });
      if (id === null || item.recalled) return;
      const those = who && ofWorkingDays(plan.ask) ? both(who, worksAt(instantsIn(buckets, zones))) : who;
      await layPast(db, { occurrenceId: id, versionId, author, plan, item, buckets, nowMs, who: those });
      if (span.firstMs <= nowMs)
        await layAnswers(db, secret, {
          occurrenceId: id,
          ask: plan.ask,
          deadlineMs,
          nowMs,
        });
      await planChases(db, { id: sendId, versionId, plan }, id, { lastMs: span.lastMs, deadlineMs });
      await dropPastChases(db, id);
    };
    if (timing.kind === 'recurring') {
      const until = wallAt(nowMs + 24 * HOUR_MS, 'UTC');
      for (const at of occurrenceWalls(timing.start, timing.rule, { to: until, most: 200 }))
        await lay(at, bucketsAt(at, timing.zone, zones, timing, 0));
      await planRecurring(db, { id: sendId, versionId, plan }, { all: zones, reached: zones });
    } else
      await lay(
        '',
        timing.kind === 'at'
          ? bucketsAt(wall, ZONE, [], {}, 0)
          : timing.kind === 'local'
            ? bucketsAt(wall, null, zones, timing, 0)
            : bucketsOnce(timing, content.event, zones, nowMs),
      );
    const firstMs = resolveMoment({ wall, zone: ZONE }).epochMs;
    const made = new Date(Math.min(nowMs, firstMs) - 20 * HOUR_MS);
    await change(db, 'UPDATE announcements SET created_at = ?, saved_at = ? WHERE id = ?', [
      made,
      made,
      announcementId,
    ]);
    if (item.recalled) {
      await change(
        db,
        "UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id SET b.state = 'recalled' WHERE o.send_id = ?",
        [sendId],
      );
      await change(db, "UPDATE occurrences SET state = 'recalled' WHERE send_id = ?", [sendId]);
      await change(db, "UPDATE announcements SET state = 'draft' WHERE id = ?", [announcementId]);
    }
  }
  await laySignUps(db, people);
}

function addressed(whom: NonNullable<Item['whom']>, groupId: (name: string) => number): Audience | null {
  const { also, except } = groupsForm([], (whom.except ?? []).map(groupId));
  return audienceOf({
    to: whom.to === 'everyone' ? [{ kind: 'everyone' }] : groupsForm(whom.to.map(groupId)).to,
    also,
    except,
  });
}

/** Chases that would have been due before this moment: what they would have said is not made up. */
async function dropPastChases(db: Database, occurrenceId: number): Promise<void> {
  await change(
    db,
    `DELETE b FROM buckets b JOIN occurrences o ON o.id = b.occurrence_id WHERE o.chases = ? AND o.due_at <= NOW(3)`,
    [occurrenceId],
  );
  await change(db, 'DELETE FROM occurrences WHERE chases = ? AND due_at <= NOW(3)', [occurrenceId]);
}

function timesOf(wall: string, nowMs: number, boards: Ids): AskTimes {
  return {
    by: (hours) => ({
      wall: wallAt(resolveMoment({ wall, zone: ZONE }).epochMs + hours * HOUR_MS, ZONE),
      zone: ZONE,
    }),
    at: (days, time, zone) => ({ wall: `${dayAround(nowMs, ZONE, days).date}T${time}`, zone }),
    board: (name) => boards.get(name) ?? 0,
  };
}

function askOf(item: Item, timing: Timing, wall: string): Ask {
  if (item.acknowledge === undefined) return { kind: 'nothing' };
  if (item.acknowledge === 0) return acknowledgement();
  if (timing.kind === 'recurring') return acknowledgement({ within: item.acknowledge });
  const deadlineMs = resolveMoment({ wall, zone: ZONE }).epochMs + item.acknowledge * HOUR_MS;
  return acknowledgement({ deadline: { wall: wallAt(deadlineMs, ZONE), zone: ZONE } });
}

/** Those who signed up for the event that has been, under the links of those who passed theirs on. */
async function laySignUps(db: Database, people: DemoPeople): Promise<void> {
  const [row] = await rows<{ id: number }>(
    db,
    `SELECT o.id FROM occurrences o JOIN announcement_versions v ON v.id = o.version_id
     WHERE v.title = 'An evening in the drying room' LIMIT 1`,
  );
  if (!row) return;
  const sharers = ['wren', 'wren', 'wren', 'otieno', 'otieno', 'keola', 'sarita', 'wren', 'marli', 'otieno'];
  await db('sign_ups').insert(
    sharers.map((mail, i) => ({
      occurrence_id: row.id,
      shared_by: people.byMail(mail),
      name: `Guest ${['Linnet', 'Farrow', 'Osei', 'Tamsin', 'Ruyi', 'Benedikt', 'Salome', 'Ivo', 'Marit', 'Quentin'][i] ?? i}`,
      mail: `guest.${i + 1}@visitors.example`,
    })),
  );
}
