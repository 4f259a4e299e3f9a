import {
  automationSchema,
  goesByDates,
  isAboutPerson,
  listensToAsks,
  sheetOf,
  type Automation,
} from '../../core/automation/automation.ts';
import { dateDue } from '../../core/automation/dates.ts';
import type { Cause } from '../../core/automation/cause.ts';
import { holdsFor, testsIn, type Fields } from '../../core/automation/condition.ts';
import type { Row } from '../../core/automation/items.ts';
import type { Replay } from '../../core/automation/run.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { Cells } from '../../core/sheets/sheet.ts';
import { dateAt } from '../../core/timing/wallTime.ts';
import { pastAsks } from './askCauses.ts';
import { countPeople, isIn } from '../audience/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { circumstances } from '../groups/directory.ts';
import { clocks, namesOfPeople, organisation } from '../people/store.ts';
import { Problem } from '../problem.ts';
import { zonesOf } from '../sends/planning.ts';
import { callsBetween } from '../gateways/calls.ts';
import { comingsBetween } from './comingStore.ts';
import { Around } from './around.ts';
import { datesDue } from './dates.ts';
import { fieldsFor } from './fields.ts';
import { prepare, requireReadable, type Prepared } from './prepare.ts';
import { MOST_RECORDS } from '../sheets/conditionStore.ts';
import {
  changesSince,
  joinedBetween,
  reallySaid,
  recordsWithBeginning,
  type PastRecord,
} from './replayStore.ts';
import { requireOwn } from './service.ts';
import { triedAs } from './sharing.ts';
import { pastTimes } from './timing.ts';

export const replaySchema = automationSchema;
export const REPLAY_WEEKS = 8;
const WEEK_MS = 7 * 86_400_000;
/** Causes that are gone through one by one; what is more than this is said, and counted no further. */
const MOST_CAUSES = 400;
const MOST_CHANGES = 100_000;

export interface PastCause {
  cause: Cause;
  atMs: number;
  /** The rows it was about, as they were then; null where they are read as they are now. */
  rows: Row[] | null;
}

const rowOf = (id: number, cells: Cells): Row => ({
  id,
  values: new Map(Object.entries(cells).map(([column, value]) => [`record.${column}`, value])),
});

/** The records of a sheet as they were at any instant of a stretch: what was deleted since is not known any more. */
class PastSheet {
  readonly records: PastRecord[];
  readonly changes: Awaited<ReturnType<typeof changesSince>>;
  readonly #ofRecord = new Map<number, { atMs: number; before: Cells; after: Cells }[]>();

  constructor(records: PastRecord[], changes: PastSheet['changes']) {
    this.records = records;
    this.changes = changes;
    for (const each of changes)
      this.#ofRecord.set(each.recordId, [...(this.#ofRecord.get(each.recordId) ?? []), each]);
  }

  cellsAt(record: PastRecord, atMs: number): Cells {
    const next = this.#ofRecord.get(record.id)?.find((each) => each.atMs > atMs);
    return next ? next.before : record.cells;
  }

  rowsAt(atMs: number): Row[] {
    return this.records
      .filter((record) => record.madeMs <= atMs)
      .map((record) => rowOf(record.id, this.cellsAt(record, atMs)));
  }
}

/** What came to meet a condition in a stretch, in the order in which it did. */
function meetings(
  sheet: PastSheet,
  sheetId: number,
  automation: Automation,
  fields: Fields,
  stretch: { fromMs: number; toMs: number; zone: string },
): PastCause[] {
  const again = automation.when.kind === 'meets' && automation.when.again;
  const holds = (cells: Cells, atMs: number): boolean =>
    holdsFor(automation.if, fields, rowOf(0, cells).values, { nowMs: atMs, zone: stretch.zone });
  const seen = new Map<number, boolean>();
  for (const record of sheet.records)
    if (record.madeMs < stretch.fromMs)
      seen.set(record.id, holds(sheet.cellsAt(record, stretch.fromMs), stretch.fromMs));
  const moments = [
    ...sheet.records
      .filter((record) => record.madeMs >= stretch.fromMs && record.madeMs < stretch.toMs)
      .map((record) => ({ id: record.id, atMs: record.madeMs, cells: sheet.cellsAt(record, record.madeMs) })),
    ...sheet.changes.map((each) => ({ id: each.recordId, atMs: each.atMs, cells: each.after })),
  ].sort((a, b) => a.atMs - b.atMs);
  const found: PastCause[] = [];
  for (const { id, atMs, cells } of moments) {
    const was = seen.get(id) ?? false;
    const is = holds(cells, atMs);
    if (is === was || (!is && !again)) continue;
    seen.set(id, is);
    if (is) found.push({ cause: { kind: 'records', sheetId, ids: [id] }, atMs, rows: [rowOf(id, cells)] });
  }
  return found;
}

/** What would have set an automation off in a stretch of the past, in order, and what could not be known. */
export async function causesOf(
  db: Database,
  automation: Automation,
  fields: Fields,
  ownerId: number,
  stretch: { fromMs: number; toMs: number; zone: string },
): Promise<{ causes: PastCause[]; notes: string[] }> {
  const { when } = automation;
  const { fromMs, toMs } = stretch;
  const sheetId = sheetOf(when);
  const sheet =
    sheetId === null
      ? null
      : new PastSheet(
          await recordsWithBeginning(db, sheetId, MOST_RECORDS),
          await changesSince(db, sheetId, fromMs, MOST_CHANGES),
        );
  if (when.kind === 'schedule') {
    const times = pastTimes(when, zonesOf(await clocks(db)), fromMs, toMs);
    return {
      causes: times.map(({ wall, dueMs }) => ({
        cause: { kind: 'time', wall },
        atMs: dueMs,
        rows: sheet ? sheet.rowsAt(dueMs) : null,
      })),
      notes: [],
    };
  }
  if (listensToAsks(when))
    return {
      causes: (await pastAsks(db, when, ownerId, fromMs, toMs, MOST_CAUSES)).map(
        ({ occurrenceId, atMs }) => ({ cause: { kind: 'ask', occurrenceId }, atMs, rows: null }),
      ),
      notes: ['What came of each ask, and who had not answered, is taken as it is now.'],
    };
  if (goesByDates(when)) {
    const due = (await datesDue(db, automation, fromMs, toMs)).slice(-MOST_CAUSES);
    return {
      causes: due.map((atMs) => ({
        cause: { kind: 'date', dueMs: atMs },
        atMs,
        rows:
          sheet && when.kind === 'date'
            ? sheet
                .rowsAt(atMs)
                .filter((row) => dateDue(when, row.values.get(`record.${when.column}`) ?? '') === atMs)
            : null,
      })),
      notes: ['Dates that were changed since are taken as they are now.'],
    };
  }
  if (when.kind === 'joins' || when.kind === 'leaves') {
    const now = await circumstances(db);
    const known = await comingsBetween(
      db,
      when.groupId,
      fromMs,
      toMs,
      when.kind === 'joins' ? 'came' : 'went',
    );
    const came = new Set(known.map((each) => each.personId));
    const joined =
      when.kind === 'joins' && now.groups.has(when.groupId)
        ? await joinedBetween(
            db,
            isIn({ kind: 'group', id: when.groupId }, now),
            dateAt(fromMs, 'UTC'),
            dateAt(toMs, 'UTC'),
          )
        : [];
    const all = [...known, ...joined.filter((each) => !came.has(each.personId))].sort(
      (a, b) => a.atMs - b.atMs,
    );
    return {
      causes: all.map(({ personId, atMs }) => ({
        cause: { kind: 'person', groupId: when.groupId, people: [personId] },
        atMs,
        rows: null,
      })),
      notes:
        when.kind === 'joins'
          ? [
              'Who came into the group before it was listened to is told by the day they joined the organisation.',
            ]
          : ['Who went out of the group is known only since it is listened to.'],
    };
  }
  if (when.kind === 'called')
    return {
      causes: (await callsBetween(db, when.hookId, fromMs, toMs, MOST_CAUSES)).map(
        ({ id, atMs, values }) => ({
          cause: { kind: 'call', hookId: when.hookId, call: `past.${id}`, values },
          atMs,
          rows: null,
        }),
      ),
      notes: ['Of what came in, long messages are not kept whole, and are not among them.'],
    };
  if (!sheet || sheetId === null) return { causes: [], notes: [] };
  const gone = 'Records that were deleted since are not among them.';
  if (when.kind === 'sent in')
    return {
      causes: sheet.records
        .filter((record) => record.fromForm && record.madeMs >= fromMs && record.madeMs < toMs)
        .map((record) => ({
          cause: { kind: 'records', sheetId, ids: [record.id] },
          atMs: record.madeMs,
          rows: [rowOf(record.id, sheet.cellsAt(record, record.madeMs))],
        })),
      notes: [gone],
    };
  if (when.kind === 'changes')
    return {
      causes: sheet.changes
        .filter(({ before, after }) => (before[when.column] ?? '') !== (after[when.column] ?? ''))
        .map(({ recordId, atMs, before, after }) => ({
          cause: {
            kind: 'records',
            sheetId,
            ids: [recordId],
            before: before[when.column] ?? '',
            after: after[when.column] ?? '',
          },
          atMs,
          rows: [rowOf(recordId, after)],
        })),
      notes: [gone],
    };
  return { causes: meetings(sheet, sheetId, automation, fields, stretch), notes: [gone] };
}

/** Look-ups are of now and not of then: a replay takes them as found, and leaves conditions on them out. */
function withoutLookup(automation: Automation): { automation: Automation; notes: string[] } {
  if (!automation.lookup) return { automation, notes: [] };
  const asks = (condition: Automation['if']): boolean =>
    testsIn(condition).some((test) => test.field.startsWith('found.'));
  const kept =
    automation.if.kind === 'all'
      ? { kind: 'all' as const, of: automation.if.of.filter((each) => !asks(each)) }
      : automation.if;
  return {
    automation: { ...automation, lookup: null, if: kept },
    notes: [
      'What is looked up is not known for the past: it is taken as found, and conditions on it as met.',
    ],
  };
}

class Tally {
  runs = 0;
  said = 0;
  keptBack = 0;
  readonly days = new Map<string, { runs: number; said: number; people: number }>();
  readonly hours = new Map<number, number>();
  readonly people = new Map<number, number>();
  readonly missing = new Set<string>();
  /** Sayings to audiences, of which not everybody is counted by name. */
  readonly counts = new Map<string, number>();

  async add(db: Database, prepared: Prepared, atMs: number, zone: string): Promise<void> {
    const date = dateAt(atMs, zone);
    const day = this.days.get(date) ?? { runs: 0, said: 0, people: 0 };
    this.days.set(date, day);
    this.runs++;
    day.runs++;
    this.keptBack += prepared.keptBack.length;
    for (const each of [...prepared.keptBack, ...prepared.sayings])
      if (each.missing) this.missing.add(each.missing.value);
    for (const saying of prepared.sayings) {
      this.said++;
      day.said++;
      const hour = Math.floor(atMs / 3_600_000) * 3_600_000;
      this.hours.set(hour, (this.hours.get(hour) ?? 0) + 1);
      if (saying.personId !== null) {
        day.people++;
        this.people.set(saying.personId, (this.people.get(saying.personId) ?? 0) + 1);
      } else if (saying.audience) day.people += await this.#count(db, saying.audience);
    }
  }

  async #count(
    db: Database,
    audience: NonNullable<Prepared['sayings'][number]['audience']>,
  ): Promise<number> {
    const key = JSON.stringify(audience);
    let found = this.counts.get(key);
    if (found === undefined) {
      found = await countPeople(db, audience, await circumstances(db));
      this.counts.set(key, found);
    }
    return found;
  }
}

/**
 * Runs an automation as it is written over the past weeks, without saying anything: how much it would have said, to how many,
 * on which days, whom it would have troubled most, and what it would have failed to find; beside it what it really said.
 */
export async function replay(db: Database, actor: Actor, id: number, written: Automation): Promise<Replay> {
  const row = await requireOwn(db, actor, id);
  const owner = await triedAs(db, actor, row);
  if (!owner) throw new Problem(409, `${row.owner}, who looked after it, has left. Take it over first.`);
  await requireReadable(db, owner, written);
  const toMs = await databaseNow(db);
  const fromMs = toMs - REPLAY_WEEKS * WEEK_MS;
  const zone = (await organisation(db))?.zone ?? 'UTC';
  const { automation, notes } = withoutLookup(written);
  const { fields } = await fieldsFor(db, automation);
  const found = await causesOf(db, automation, fields, owner.id, { fromMs, toMs, zone });
  notes.push(...found.notes);
  if (found.causes.length > MOST_CAUSES)
    notes.push(
      `It would have been set off ${found.causes.length.toLocaleString('en-GB')} times; the last ${MOST_CAUSES} are gone through.`,
    );
  if (isAboutPerson(automation.when)) notes.push('People who left since are not told of.');
  const tally = new Tally();
  const nobody = { secret: '', inside: [] };
  const around = new Around(db);
  for (const { cause, atMs, rows } of found.causes.slice(-MOST_CAUSES))
    await tally.add(db, await prepare(db, owner, automation, cause, atMs, nobody, around, rows), atMs, zone);
  const most = [...tally.people].sort((a, b) => b[1] - a[1]).slice(0, 5);
  const names = await namesOfPeople(
    db,
    most.map(([person]) => person),
  );
  const [busiest] = [...tally.hours].sort((a, b) => b[1] - a[1]);
  return {
    fromMs,
    toMs,
    runs: found.causes.length,
    said: tally.said,
    keptBack: tally.keptBack,
    people: tally.people.size + Math.max(0, ...tally.counts.values()),
    days: [...tally.days].map(([date, day]) => ({ date, ...day })).sort((a, b) => (a.date < b.date ? -1 : 1)),
    busiest: busiest ? { atMs: busiest[0], said: busiest[1] } : null,
    most: most.map(([person, times]) => ({ name: names.get(person) ?? '', times })),
    missing: [...tally.missing].slice(0, 20),
    reallySaid: await reallySaid(db, id, fromMs, toMs),
    notes,
  };
}
