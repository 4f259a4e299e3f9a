import type { AudienceContext } from '../../core/audience/includes.ts';
import {
  groupOf,
  isAboutOne,
  isAboutPerson,
  sheetOf,
  type Automation,
} from '../../core/automation/automation.ts';
import type { Cause } from '../../core/automation/cause.ts';
import {
  holdsFor,
  testsIn,
  type Condition,
  type Fields,
  type ReadAt,
  type Values,
} from '../../core/automation/condition.ts';
import { fillContent } from '../../core/automation/filling.ts';
import { itemsOf, type Item, type Row } from '../../core/automation/items.ts';
import { contentProblems, type Content } from '../../core/content/announcement.ts';
import type { PlannedBucket } from '../../core/plan/buckets.ts';
import type { Timing } from '../../core/plan/plan.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { dateAt } from '../../core/timing/wallTime.ts';
import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { lookUp, SourceError, type Asking } from '../sources/asking.ts';
import { recordsThatMay } from '../sheets/conditionStore.ts';
import { UNSEEN_SHEET } from '../sheets/rights.ts';
import { countRecords, recordsByIds } from '../sheets/store.ts';
import type { SourceRow } from '../sources/store.ts';
import { personRows } from './personRows.ts';
import type { Around } from './around.ts';
import { askRows } from './askCauses.ts';
import { rowsDue } from './dates.ts';
import { dueOf } from './due.ts';
import { mayKnowSession } from './sessionDates.ts';
import { calledIn, whyNotCalled, withCalled } from './calling.ts';
import { whereOf, whyNot, type Missing, type Reaching, type Where } from './where.ts';

/** One thing an automation would say: to whom, when, in which words. */
export interface Saying extends Where {
  item: string;
  /** What of, in words. */
  about: string;
  mail: boolean;
  timing: Timing;
  buckets: PlannedBucket[];
  content: Content;
}

/** What would not be said, with why. */
export interface KeptBack {
  item: string;
  about: string;
  reason: string;
  missing: Missing | null;
}

export interface Prepared {
  /** How many records or people were looked at, and how many matched. */
  considered: number;
  matched: number;
  fields: Fields;
  items: Item[];
  sayings: Saying[];
  keptBack: KeptBack[];
}

/** What preparing depends on besides the automation, read once for a run. */
interface Surroundings extends Reaching {
  fields: Fields;
  zone: string;
  zones: string[];
  /** When it is due, in milliseconds since 1970. */
  dueMs: number;
  wall: string | null;
  senderName: string | null;
}

/** A column that changed is what it was changed to, though it may have been changed again since. */
const changedTo = ({ when }: Automation, cause: Cause): [string, string][] =>
  when.kind === 'changes' && cause.kind === 'records' && cause.after !== undefined
    ? [[`record.${when.column}`, cause.after]]
    : [];

/** @throws 403 where the owner of an automation does not see the sheet it reads: told again at each run */
export async function requireReadable(around: Around, owner: Actor, { when }: Automation): Promise<void> {
  const sheetId = sheetOf(when);
  if (sheetId !== null && !(await around.mayRead(owner, sheetId))) throw new Problem(403, UNSEEN_SHEET);
}

/** What is read of the records of a sheet: those of which a condition may hold. */
interface Narrowed {
  condition: Condition;
  fields: Fields;
  at: ReadAt;
}

/**
 * The rows a cause is about, as they are now, and how many were looked at: what was deleted meanwhile is not among them, and
 * of a whole sheet only those are read of which the condition may hold.
 */
async function rowsOf(
  db: Database,
  around: Around,
  owner: Actor,
  automation: Automation,
  cause: Cause,
  now: AudienceContext,
  narrowed: Narrowed,
): Promise<{ rows: Row[]; considered: number }> {
  if (cause.kind === 'ask') {
    const found = await askRows(db, owner, cause, narrowed.at.zone);
    return { rows: found, considered: 1 };
  }
  if (cause.kind === 'call') {
    const values = Object.entries(cause.values).map(([name, value]): [string, string] => [
      `call.${name}`,
      value,
    ]);
    return { rows: [{ id: 1, values: new Map(values) }], considered: 1 };
  }
  if (cause.kind === 'date') {
    const { when } = automation;
    if (when.kind === 'session' && !(await mayKnowSession(db, owner, when.sessionId)))
      return { rows: [], considered: 0 };
    const found = await rowsDue(db, around, automation, cause.dueMs, now, narrowed);
    return { rows: found, considered: found.length };
  }
  if (cause.kind === 'person') {
    const found = await personRows(
      around,
      cause.people,
      now.groups.get(cause.groupId)?.name ?? 'the group',
      automation.when,
      narrowed.at.nowMs,
    );
    return { rows: found, considered: found.length };
  }
  const sheetId = sheetOf(automation.when);
  if (sheetId === null) return { rows: [], considered: 0 };
  const { condition, fields, at } = narrowed;
  const [records, considered] =
    cause.kind === 'records'
      ? [await recordsByIds(db, sheetId, cause.ids), null]
      : await Promise.all([
          recordsThatMay(db, sheetId, condition, fields, at),
          countRecords(db, sheetId, ''),
        ]);
  const found = records.map(({ id, cells }) => ({
    id,
    values: new Map([
      ...Object.entries(cells).map(([column, value]): [string, string] => [`record.${column}`, value]),
      ...changedTo(automation, cause),
    ]),
  }));
  return { rows: found, considered: considered ?? found.length };
}

/** Puts what a source answers into the rows; gives why it could not be asked, by the row. */
async function withFound(
  db: Database,
  automation: Automation,
  source: SourceRow,
  rows: readonly Row[],
  asking: Asking,
  shared: ReadonlyMap<string, string>,
): Promise<{ rows: Row[]; failed: Map<number, string> }> {
  const inputs = Object.entries(automation.lookup?.inputs ?? {});
  const answers = await lookUp(
    db,
    source,
    rows.map(
      (row) =>
        new Map(inputs.map(([input, field]) => [input, row.values.get(field) ?? shared.get(field) ?? ''])),
    ),
    asking,
  );
  const failed = new Map<number, string>();
  const found = rows.map((row, at): Row => {
    const answer = answers[at];
    if (answer instanceof SourceError) failed.set(row.id, answer.message);
    return answer instanceof Map ? { ...row, values: new Map([...row.values, ...answer]) } : row;
  });
  return { rows: found, failed };
}

/** The fields a condition names on either side. */
const fieldsTested = (condition: Condition): string[] =>
  testsIn(condition).flatMap(({ field, against }) =>
    against.kind === 'field' ? [field, against.field] : [field],
  );

/** What the run has with what a row has, which counts where both name it. */
function together(shared: Values, of: Values, ...more: [string, string][]): Map<string, string> {
  const all = new Map(shared);
  for (const [name, value] of more) all.set(name, value);
  for (const [name, value] of of) all.set(name, value);
  return all;
}

/** What an item is about, in a few words. */
function aboutOf(item: Item, automation: Automation, fields: Fields): string {
  if (item.key === 'all') return item.rows.length === 1 ? 'one record' : `${item.rows.length} records`;
  if (automation.each.kind === 'group') return item.values.get(automation.each.field) || 'without a value';
  for (const field of ['person.name', 'session.title', 'ask.title']) {
    const name = item.values.get(field);
    if (name !== undefined) return name;
  }
  const first = [...fields.keys()].find((field) => /^(record|call)\./.test(field) && item.values.get(field));
  return first === undefined ? `record ${item.rows[0]?.id ?? ''}` : (item.values.get(first) ?? '');
}

async function sayingOf(around: Surroundings, item: Item): Promise<Saying | KeptBack> {
  const { automation, fields, zone } = around;
  const about = aboutOf(item, automation, fields);
  const found = await whereOf(around, item);
  let where: Where;
  if ('audience' in found) where = found;
  else {
    const { otherwise } = automation.tell;
    if (!otherwise || (!otherwise.audience && otherwise.boards.length === 0))
      return { item: item.key, about, ...found };
    where = {
      audience: otherwise.audience,
      personId: null,
      boards: otherwise.boards,
      outside: [],
      otherwise: true,
      ...found,
    };
  }
  const kept = (reason: string): KeptBack => ({ item: item.key, about, reason, missing: where.missing });
  const denied = whyNot(around, where);
  if (denied !== null) return kept(denied);
  const reader = where.personId === null ? undefined : await around.read.person(where.personId);
  if (where.personId !== null && (!reader || reader.standing === 'left'))
    return kept('Whoever it is for is not here any more.');
  const readBy = reader?.zone ?? zone;
  const written = await withCalled(around, automation.content);
  const barred = whyNotCalled(around, where.boards, written);
  if (barred !== null) return kept(barred);
  const { content, empty } = fillContent(
    { content: written, table: automation.table },
    {
      fields,
      values: item.values,
      rows: item.rows,
      zone: readBy,
      called: await calledIn(around, written, item, where),
    },
  );
  if (empty.length > 0) return kept(`It would have said nothing for ${empty.join(', ')}.`);
  const signed = around.senderName === null ? content : { ...content, byline: around.senderName };
  const [problem] = contentProblems(signed);
  if (problem) return kept(problem.detail);
  return {
    item: item.key,
    about,
    ...where,
    mail: automation.tell.mail && where.audience !== null,
    ...dueOf(automation, {
      ...around,
      zone: readBy,
      single: where.personId !== null || where.audience === null,
    }),
    content: signed,
  };
}

/**
 * What an automation would say of a cause, and what it would keep back: the one reading for its runs, its trials and its
 * replay. Nothing is written.
 *
 * @param dueMs when it is due, in milliseconds since 1970; nothing is due before that
 * @param around what it is read against, shared by those prepared together
 * @param given the rows it is about, where they are not those of now: of a replay
 * @throws where more records may meet its conditions than are held in memory
 */
export async function prepare(
  db: Database,
  owner: Actor,
  automation: Automation,
  cause: Cause,
  dueMs: number,
  asking: Asking,
  around: Around,
  given: Row[] | null = null,
): Promise<Prepared> {
  const [{ fields, source }, { zone, zones, now, senders, places }, boards] = await Promise.all([
    around.fields(automation),
    around.organisation(),
    around.boards(owner),
  ]);
  await requireReadable(around, owner, automation);
  const shared = new Map([['run.date', dateAt(dueMs, zone)]]);
  if (cause.kind === 'records' && cause.before !== undefined) shared.set('run.before', cause.before);
  const at = { nowMs: dueMs, zone };
  const { rows: all, considered } = given
    ? { rows: given, considered: given.length }
    : await rowsOf(db, around, owner, automation, cause, now, { condition: automation.if, fields, at });
  const reads = cause.kind !== 'time' || sheetOf(automation.when) !== null;
  const tested = fieldsTested(automation.if);
  // What names nothing that is looked up is told apart first, so that no more is asked than is needed.
  const afterFound = tested.some((field) => field.startsWith('found.'));
  const ofRun = tested.some((field) => shared.has(field));
  const holds = (row: Row): boolean =>
    holdsFor(automation.if, fields, ofRun ? together(shared, row.values) : row.values, at);
  let matched = afterFound ? all : all.filter(holds);
  let failed = new Map<number, string>();
  if (source && matched.length > 0) {
    const looked = await withFound(db, automation, source, matched, asking, shared);
    failed = looked.failed;
    matched = afterFound ? looked.rows.filter((row) => failed.has(row.id) || holds(row)) : looked.rows;
  }
  const known = matched.filter((row) => !failed.has(row.id));
  const items = reads
    ? itemsOf(known, isAboutOne(automation.when) ? { kind: 'each' } : automation.each)
    : [{ key: 'all', rows: [], values: new Map<string, string>() }];
  for (const item of items)
    item.values = together(shared, item.values, ['run.count', String(item.rows.length)]);
  const surroundings: Surroundings = {
    db,
    read: around,
    owner,
    automation,
    fields,
    now,
    boards,
    places,
    zone,
    zones,
    dueMs,
    wall: cause.kind === 'time' && cause.wall !== '' ? cause.wall : null,
    groupId: groupOf(automation.when),
    senderName: automation.senderId === null ? null : (senders.get(automation.senderId) ?? null),
  };
  const sayings: Saying[] = [];
  const keptBack: KeptBack[] = matched
    .filter((row) => failed.has(row.id))
    .map((row) => {
      const item: Item = { key: `r${row.id}`, rows: [row], values: row.values };
      const about = aboutOf(item, { ...automation, each: { kind: 'each' } }, fields);
      return { item: item.key, about, reason: failed.get(row.id) ?? '', missing: null };
    });
  for (const item of items) {
    const each = await sayingOf(surroundings, item);
    if ('content' in each) sayings.push(each);
    else keptBack.push(each);
  }
  return {
    considered,
    matched: isAboutPerson(automation.when) || reads ? matched.length : 0,
    fields,
    items,
    sayings,
    keptBack,
  };
}
