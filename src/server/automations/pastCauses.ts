import {
  goesByDates,
  listensToAsks,
  sheetOf,
  type Automation,
  type When,
} from '../../core/automation/automation.ts';
import type { Cause } from '../../core/automation/cause.ts';
import type { Fields } from '../../core/automation/condition.ts';
import { dueBetween } from '../../core/automation/dates.ts';
import type { Row } from '../../core/automation/items.ts';
import { dateAt } from '../../core/timing/wallTime.ts';
import { isIn } from '../audience/store.ts';
import type { Database } from '../database/connection.ts';
import { callsBetween } from '../gateways/calls.ts';
import { audienceContext } from '../groups/directory.ts';
import { clocks } from '../people/store.ts';
import { zonesOf } from '../sends/planning.ts';
import { MOST_RECORDS, narrowing, type Narrowing } from '../sheets/conditionStore.ts';
import { pastAsks } from './askCauses.ts';
import { comingsBetween } from './comingStore.ts';
import { datesDue } from './dates.ts';
import { meetings, PastSheet, rowOf, type Moment } from './pastSheet.ts';
import { changesSince, joinedBetween, recordsWithBeginning } from './replayStore.ts';
import { pastTimes } from './timing.ts';

/** So many causes are gone through; of more, the latest. */
export const MOST_CAUSES = 100_000;
/** Of an ask several statements tell when its share was reached, of a message that came in its whole text is read. */
const MOST_ASKS = 5_000;
const MOST_CALLS = 20_000;

/** What would have set an automation off, and when, in milliseconds since 1970. */
export interface PastCause {
  cause: Cause;
  atMs: number;
  /** The rows it was about, as they were then; null where they are read as they are now. */
  rows: (() => Row[]) | null;
}

/** A period of the past, in milliseconds since 1970, and the zone in which dates of it are told. */
interface Period {
  fromMs: number;
  toMs: number;
  zone: string;
}

interface Found {
  causes: PastCause[];
  /** What could not be known, in sentences. */
  notes: string[];
}

const DELETED = 'Records that were deleted since are not among them.';

/**
 * Of the records that neither changed nor came in a period, those that may be spoken of: of those whose condition may have held
 * where it looks at all of them, or whose date was due; none where it goes by what changes or comes.
 */
function ofOthers({ when, if: condition }: Automation, fields: Fields, period: Period): Narrowing | null {
  const { fromMs, toMs, zone } = period;
  const first = { nowMs: fromMs, zone };
  if (when.kind === 'date') {
    const kind = fields.get(`record.${when.column}`)?.kind === 'date' ? 'date' : 'moment';
    return narrowing(dueBetween(when, kind, fromMs, toMs), fields, first);
  }
  return when.kind === 'schedule' ? narrowing(condition, fields, first, { nowMs: toMs, zone }) : null;
}

/** The records of a sheet in a period; it begins later where more changed than is gone through. */
async function pastSheet(
  db: Database,
  automation: Automation,
  fields: Fields,
  sheetId: number,
  period: Period,
): Promise<{ sheet: PastSheet; period: Period; notes: string[] }> {
  const changes = await changesSince(db, sheetId, period.fromMs, MOST_CAUSES);
  const [first] = changes;
  const all = changes.length < MOST_CAUSES || first === undefined;
  const known = all ? period : { ...period, fromMs: first.atMs };
  const records = await recordsWithBeginning(
    db,
    sheetId,
    known.fromMs,
    ofOthers(automation, fields, known),
    MOST_RECORDS,
  );
  return {
    sheet: new PastSheet(records, changes),
    period: known,
    notes: [
      ...(records.length < MOST_RECORDS
        ? []
        : [
            `Only the first ${MOST_RECORDS.toLocaleString('en-GB')} records that may be spoken of are looked at.`,
          ]),
      ...(all
        ? []
        : [
            `So much changed in its sheet that only the last ${MOST_CAUSES.toLocaleString('en-GB')} changes are gone through: those since ${dateAt(known.fromMs, period.zone)}.`,
          ]),
    ],
  };
}

function ofRecords(
  automation: Automation,
  fields: Fields,
  sheetId: number,
  sheet: PastSheet,
  period: Period,
): Found {
  const { when } = automation;
  const about = ({ id, atMs, cells }: Moment, more: { before?: string; after?: string } = {}): PastCause => ({
    cause: { kind: 'records', sheetId, ids: [id], ...more },
    atMs,
    rows: () => [rowOf(id, cells)],
  });
  if (when.kind === 'sent in')
    return {
      causes: sheet.records
        .filter(({ fromForm, madeMs }) => fromForm && madeMs >= period.fromMs && madeMs < period.toMs)
        .map((record) =>
          about({ id: record.id, atMs: record.madeMs, cells: sheet.cellsAt(record, record.madeMs) }),
        ),
      notes: [DELETED],
    };
  if (when.kind === 'changes') {
    const { column } = when;
    return {
      causes: sheet.changes
        .filter(({ before, after }) => (before[column] ?? '') !== (after[column] ?? ''))
        .map(({ recordId, atMs, before, after }) =>
          about(
            { id: recordId, atMs, cells: after },
            { before: before[column] ?? '', after: after[column] ?? '' },
          ),
        ),
      notes: [DELETED],
    };
  }
  return {
    causes: meetings(sheet, automation, fields, period).map((each) => about(each)),
    notes: [DELETED],
  };
}

async function ofDates(
  db: Database,
  automation: Automation,
  sheet: PastSheet | null,
  { fromMs, toMs }: Period,
): Promise<Found> {
  const { when } = automation;
  if (sheet && when.kind === 'date') {
    const due = [...sheet.due(when, fromMs, toMs)].sort(([a], [b]) => a - b);
    return {
      causes: due.map(([atMs, rows]) => ({ cause: { kind: 'date', dueMs: atMs }, atMs, rows: () => rows })),
      notes: [DELETED],
    };
  }
  return {
    causes: (await datesDue(db, automation, fromMs, toMs)).map((atMs) => ({
      cause: { kind: 'date', dueMs: atMs },
      atMs,
      rows: null,
    })),
    notes: ['Dates that were changed since are taken as they are now.'],
  };
}

async function ofComings(
  db: Database,
  when: Extract<When, { kind: 'joins' | 'leaves' }>,
  { fromMs, toMs }: Period,
): Promise<Found> {
  const now = await audienceContext(db);
  const known = await comingsBetween(
    db,
    when.groupId,
    { fromMs, toMs },
    when.kind === 'joins' ? 'came' : 'went',
    MOST_CAUSES,
  );
  const came = new Set(known.map((each) => each.personId));
  const joined =
    when.kind === 'joins' && now.groups.has(when.groupId)
      ? await joinedBetween(
          db,
          isIn({ kind: 'group', id: when.groupId }, now),
          dateAt(fromMs, 'UTC'),
          dateAt(toMs, 'UTC'),
          MOST_CAUSES,
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

/** What would have set an automation off in a period of the past, in order, and what could not be known. */
export async function causesOf(
  db: Database,
  automation: Automation,
  fields: Fields,
  ownerId: number,
  period: Period,
): Promise<Found> {
  const { when } = automation;
  const { fromMs, toMs } = period;
  const sheetId = sheetOf(when);
  const past = sheetId === null ? null : await pastSheet(db, automation, fields, sheetId, period);
  const withNotes = ({ causes, notes }: Found): Found => ({
    causes,
    notes: [...(past?.notes ?? []), ...notes],
  });
  if (when.kind === 'schedule') {
    const since = past?.period.fromMs ?? fromMs;
    return withNotes({
      causes: pastTimes(when, zonesOf(await clocks(db)), since, toMs).map(({ wall, dueMs }) => ({
        cause: { kind: 'time', wall },
        atMs: dueMs,
        rows: past && (() => past.sheet.rowsAt(dueMs)),
      })),
      notes: [],
    });
  }
  if (listensToAsks(when))
    return {
      causes: (await pastAsks(db, when, ownerId, fromMs, toMs, MOST_ASKS)).map(({ occurrenceId, atMs }) => ({
        cause: { kind: 'ask', occurrenceId },
        atMs,
        rows: null,
      })),
      notes: ['What came of each ask, and who had not answered, is taken as it is now.'],
    };
  if (goesByDates(when))
    return withNotes(await ofDates(db, automation, past?.sheet ?? null, past?.period ?? period));
  if (when.kind === 'joins' || when.kind === 'leaves') return ofComings(db, when, period);
  if (when.kind === 'called')
    return {
      causes: (await callsBetween(db, when.hookId, fromMs, toMs, MOST_CALLS)).map(({ id, atMs, values }) => ({
        cause: { kind: 'call', hookId: when.hookId, call: `past.${id}`, values },
        atMs,
        rows: null,
      })),
      notes: ['Of what came in, long messages are not kept whole, and are not among them.'],
    };
  if (!past || sheetId === null) return { causes: [], notes: [] };
  return withNotes(ofRecords(automation, fields, sheetId, past.sheet, past.period));
}
