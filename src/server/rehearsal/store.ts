import type { Audience } from '../../core/audience/expression.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import type { Bundling } from '../../core/bundling/bundling.ts';
import type { Alike } from '../../core/bundling/together.ts';
import type { RehearsalFilter } from '../../core/sends/rehearsal.ts';
import type { Quiet } from '../../core/timing/quiet.ts';
import type { Sql } from '../audience/sql.ts';
import { isIn } from '../audience/store.ts';
import { bundlingOfAll, bundlingSql } from '../bundling/store.ts';
import { rows, type Database } from '../database/connection.ts';
import { organisation, readQuiet, type QuietColumns } from '../people/store.ts';

export interface RecipientRow {
  id: number;
  name: string;
  station: string | null;
  zone: string;
  quiet: Quiet | null;
  hasMail: number;
  mailStopped: number;
  /** Whether it is a working day of theirs. */
  works: number;
}

/** A clock to choose recipients by: a zone and quiet hours of their own. */
export interface Clock {
  zone: string;
  quiet: Quiet | null;
}

function onClocks(clocks: readonly Clock[]): Sql {
  if (clocks.length === 0) return { sql: 'FALSE', bindings: [] };
  return {
    sql: `(${clocks.map(({ quiet }) => (quiet ? '(p.zone = ? AND p.quiet_from = ? AND p.quiet_to = ?)' : '(p.zone = ? AND p.quiet_from IS NULL)')).join(' OR ')})`,
    bindings: clocks.flatMap(({ zone, quiet }) => (quiet ? [zone, quiet.from, quiet.to] : [zone])),
  };
}

/**
 * A page of an audience by name.
 *
 * @param options.clocks for the filters that go by the clock: the clocks it holds on
 */
export async function recipientsPage(
  db: Database,
  audience: Audience,
  now: AudienceContext,
  options: {
    filter: RehearsalFilter;
    /** Where it goes only on working days: those whose it is; null where it goes on all. */
    works: Sql | null;
    stoppable: boolean;
    clocks: readonly Clock[];
    search: string;
    after: { name: string; id: number } | null;
    most: number;
  },
): Promise<RecipientRow[]> {
  const who = isIn(audience, now);
  const works = options.works ?? { sql: 'TRUE', bindings: [] };
  const further: Sql =
    options.filter === 'all'
      ? { sql: 'TRUE', bindings: [] }
      : options.filter === 'without mail'
        ? {
            sql: `(p.mail IS NULL OR p.mail_failing = p.mail${options.stoppable ? ' OR p.mail_stopped_at IS NOT NULL' : ''})`,
            bindings: [],
          }
        : options.filter === 'not working'
          ? { sql: `NOT ${works.sql}`, bindings: works.bindings }
          : onClocks(options.clocks);
  const like = `%${options.search.replace(/[\\%_]/g, (mark) => `\\${mark}`)}%`;
  // The page is picked by name first and only then joined.
  const found = await rows<Omit<RecipientRow, 'quiet'> & QuietColumns>(
    db,
    `SELECT p.id, p.shown_name AS name, s.name AS station, p.zone, p.quiet_from AS quietFrom, p.quiet_to AS quietTo,
       (p.mail IS NOT NULL AND NOT (p.mail_failing <=> p.mail)) AS hasMail, p.mail_stopped_at IS NOT NULL AS mailStopped, ${works.sql} AS works
     FROM people p LEFT JOIN stations s ON s.id = p.station_id
     WHERE ${who.sql} AND ${further.sql}
       AND (? = '' OR p.name LIKE ? OR s.name LIKE ?)
       AND (? IS NULL OR p.name > (SELECT q.name FROM people q WHERE q.id = ?) OR (p.name = (SELECT q.name FROM people q WHERE q.id = ?) AND p.id > ?))
     ORDER BY p.name, p.id LIMIT ?`,
    [
      ...works.bindings,
      ...who.bindings,
      ...further.bindings,
      options.search,
      like,
      like,
      options.after?.id ?? null,
      options.after?.id ?? 0,
      options.after?.id ?? 0,
      options.after?.id ?? 0,
      options.most,
    ],
  );
  return found.map(({ quietFrom, quietTo, ...row }) => ({
    ...row,
    quiet: readQuiet({ quietFrom, quietTo }),
  }));
}

/** Who gets another going-out: by its audience while it is planned, by its deliveries once it has gone. */
export interface Other {
  occurrenceId: number;
  audience: Audience | null;
  gone: boolean;
  /** The zones in which it counts. */
  zones: 'all' | string[];
}

function gets(other: Other, now: AudienceContext): Sql {
  const who = getsAnywhere(other, now);
  if (other.zones === 'all') return who;
  if (other.zones.length === 0) return { sql: 'FALSE', bindings: [] };
  return {
    sql: `(p.zone IN (${other.zones.map(() => '?').join(', ')}) AND ${who.sql})`,
    bindings: [...other.zones, ...who.bindings],
  };
}

function getsAnywhere(other: Other, now: AudienceContext): Sql {
  if (other.gone)
    return {
      sql: "p.id IN (SELECT d.person_id FROM deliveries d WHERE d.occurrence_id = ? AND d.method = 'inbox')",
      bindings: [other.occurrenceId],
    };
  return other.audience ? isIn(other.audience, now) : { sql: 'FALSE', bindings: [] };
}

/** The people of an audience by clock, by quiet hours, by how routine matter comes to them, and by which of these they get too. */
export async function alike(
  db: Database,
  audience: Audience,
  now: AudienceContext,
  others: readonly Other[],
): Promise<Alike[]> {
  const who = isIn(audience, now);
  const how = bundlingSql(await bundlingOfAll(db, now));
  const parts = others.map((other) => gets(other, now));
  const names = parts.map((_, i) => `o${i}`);
  const columns = ['zone', 'quietFrom', 'quietTo', 'bundling', ...names].join(', ');
  const ofAll = (await organisation(db))?.quiet ?? null;
  const found = await rows<
    QuietColumns & { zone: string; bundling: Bundling; people: number } & Record<string, unknown>
  >(
    db,
    `SELECT ${columns}, COUNT(*) AS people
     FROM (SELECT p.zone, p.quiet_from AS quietFrom, p.quiet_to AS quietTo, ${how.sql} AS bundling${parts.map((part, i) => `, (${part.sql}) AS o${i}`).join('')}
       FROM people p WHERE ${who.sql}) x
     GROUP BY ${columns}`,
    [...how.bindings, ...parts.flatMap((part) => part.bindings), ...who.bindings],
  );
  return found.map(({ zone, bundling, people, quietFrom, quietTo, ...row }) => ({
    zone,
    quiet: readQuiet({ quietFrom, quietTo }) ?? ofAll,
    bundling,
    people,
    gets: names.map((name) => Number(row[name]) === 1),
  }));
}

/** How many of an audience get each of these too, in the order given. */
export async function shared(
  db: Database,
  audience: Audience,
  now: AudienceContext,
  others: readonly Other[],
): Promise<number[]> {
  const who = isIn(audience, now);
  const parts = others.map((other) => gets(other, now));
  if (parts.length === 0) return [];
  const [found] = await rows<Record<string, number | string | null>>(
    db,
    `SELECT ${parts.map((part, i) => `SUM(${part.sql}) AS both${i}`).join(', ')} FROM people p WHERE ${who.sql}`,
    [...parts.flatMap((part) => part.bindings), ...who.bindings],
  );
  return parts.map((_, i) => Number(found?.[`both${i}`] ?? 0));
}
