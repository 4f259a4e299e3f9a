import type { Audience } from '../../core/audience/expression.ts';
import { UnreadableRule } from '../../core/audience/groups.ts';
import { joinedSince, OF_THE_ORGANISATION, type AudienceContext } from '../../core/audience/includes.ts';

/** A piece of SQL with its bindings. */
export interface Sql {
  sql: string;
  bindings: (string | number)[];
}

const sql = (text: string, ...bindings: (string | number)[]): Sql => ({ sql: text, bindings });

function joined(parts: Sql[], word: 'AND' | 'OR', none: string): Sql {
  if (parts.length === 0) return sql(none);
  return {
    sql: `(${parts.map((part) => part.sql).join(` ${word} `)})`,
    bindings: parts.flatMap((part) => part.bindings),
  };
}

const NO_GUEST = 'p.guest_until IS NULL';

const both = (a: Sql, b: Sql): Sql => joined([a, b], 'AND', 'TRUE');

/**
 * The database reading of an audience: a condition over `people p`, true for those whom the plain reading `holds`.
 * It does not put aside those who have left; the statements that use it do.
 *
 * @throws UnreadableRule where it depends on a group whose rule cannot be read
 */
export function condition(audience: Audience, now: AudienceContext): Sql {
  const who = matching(audience, now);
  const guests = guestsIn(audience, now);
  if (guests === 'who match') return who;
  if (guests === 'none') return audience.kind === 'everyone' ? who : both(who, sql(NO_GUEST));
  return joined([both(sql(NO_GUEST), who), both(sql(`NOT ${NO_GUEST}`), guests)], 'OR', 'FALSE');
}

/** Which guests an audience takes in: all who match, none, or those for whom a condition holds. */
type GuestsIn = 'who match' | 'none' | Sql;

function guestsIn(audience: Audience, now: AudienceContext): GuestsIn {
  if (OF_THE_ORGANISATION.has(audience.kind)) return 'none';
  switch (audience.kind) {
    case 'group': {
      const group = now.groups.get(audience.id);
      return group?.kind === 'live' && group.rule !== null ? guestsIn(group.rule, now) : 'who match';
    }
    case 'any': {
      const parts = audience.of.map((part) => [part, guestsIn(part, now)] as const);
      if (parts.every(([, guests]) => guests === 'who match')) return 'who match';
      return takenInBy(parts, now);
    }
    case 'all': {
      const parts = audience.of.map((part) => [part, guestsIn(part, now)] as const);
      // Who matches all matches that part, which takes them in.
      if (parts.some(([, guests]) => guests === 'who match')) return 'who match';
      const taken = takenInBy(parts, now);
      return taken === 'none' ? 'none' : both(matching(audience, now), taken);
    }
    case 'except': {
      const from = guestsIn(audience.from, now);
      if (typeof from === 'string') return from;
      const minus = matching(audience.minus, now);
      return both(from, sql(`NOT ${minus.sql}`, ...minus.bindings));
    }
    default:
      return 'who match';
  }
}

/** The guests that any of some parts takes in. */
function takenInBy(parts: readonly (readonly [Audience, GuestsIn])[], now: AudienceContext): Sql | 'none' {
  const taken = parts.flatMap(([part, guests]) =>
    guests === 'none' ? [] : [guests === 'who match' ? matching(part, now) : guests],
  );
  return taken.length === 0 ? 'none' : joined(taken, 'OR', 'FALSE');
}

/** What an audience says of somebody, whether or not it takes in guests: for those who are left out by it. */
export function matching(audience: Audience, now: AudienceContext): Sql {
  const read = (part: Audience): Sql => matching(part, now);
  switch (audience.kind) {
    case 'everyone':
      return sql(`(${NO_GUEST})`);
    case 'guests':
      return sql(`(NOT ${NO_GUEST})`);
    case 'group': {
      const group = now.groups.get(audience.id);
      if (!group) return sql('FALSE');
      if (group.kind === 'fixed') return members([group.id]);
      if (group.rule === null) throw new UnreadableRule(group.name);
      return read(group.rule);
    }
    case 'station':
      // station_id can be null, and NOT (null = 3) would be null where "except" means true.
      return sql('p.station_id <=> ?', audience.id);
    case 'role':
      return sql('p.role = ?', audience.role);
    case 'standing':
      return sql('p.standing = ?', audience.standing);
    case 'occupation':
      return sql('BINARY p.occupation = ?', audience.occupation);
    case 'joined within':
      return sql('p.joined_on >= ?', joinedSince(now.today, audience.days));
    case 'joined since':
      return sql('p.joined_on >= ?', audience.date);
    case 'attribute':
      return sql(
        '(p.id IN (SELECT a.person_id FROM person_attributes a WHERE a.name = ? AND a.value = ? AND BINARY a.name = ? AND BINARY a.value = ?))',
        audience.name,
        audience.value,
        audience.name,
        audience.value,
      );
    case 'answered':
      return sql(
        `(p.id IN (SELECT r.person_id FROM roll r WHERE r.occurrence_id = ? AND r.answered_at IS ${audience.answered ? 'NOT ' : ''}NULL))`,
        audience.occurrenceId,
      );
    case 'reached':
      return sql(
        "(p.id IN (SELECT d.person_id FROM deliveries d WHERE d.occurrence_id = ? AND d.method = 'inbox' AND d.state = 'delivered'))",
        audience.occurrenceId,
      );
    case 'read':
      return sql(
        "(p.id IN (SELECT d.person_id FROM deliveries d WHERE d.occurrence_id = ? AND d.method = 'inbox' AND d.read_at IS NOT NULL))",
        audience.occurrenceId,
      );
    case 'signed up':
      return sql(
        `((p.mail IS NOT NULL AND p.mail IN (SELECT u.mail FROM sign_ups u WHERE u.occurrence_id = ?))
          OR p.id IN (SELECT a.person_id FROM person_addresses a JOIN sign_ups u ON u.mail = a.mail WHERE u.occurrence_id = ?))`,
        audience.occurrenceId,
        audience.occurrenceId,
      );
    case 'session':
      return sql(
        '(p.id IN (SELECT c.person_id FROM session_answers c WHERE c.date_id = ? AND c.stands = ?))',
        audience.dateId,
        audience.stands,
      );
    case 'person':
      return sql('p.id = ?', audience.id);
    case 'any':
      return anyOf(audience.of, now);
    case 'all':
      return joined(audience.of.map(read), 'AND', 'TRUE');
    case 'except': {
      const minus = read(audience.minus);
      const from = read(audience.from);
      return sql(`(${from.sql} AND NOT ${minus.sql})`, ...from.bindings, ...minus.bindings);
    }
  }
}

function members(groupIds: number[]): Sql {
  return sql(
    `(p.id IN (SELECT m.person_id FROM group_members m WHERE m.group_id IN (${groupIds.map(() => '?').join(', ')})))`,
    ...groupIds,
  );
}

/** Fixed groups that stand side by side are looked up together: one subquery, not one a group. */
function anyOf(parts: Audience[], now: AudienceContext): Sql {
  const fixed = parts.flatMap((part) =>
    part.kind === 'group' && now.groups.get(part.id)?.kind === 'fixed' ? [part.id] : [],
  );
  const others = parts.filter((part) => !(part.kind === 'group' && fixed.includes(part.id)));
  const conditions = others.map((part) => matching(part, now));
  return joined(fixed.length > 0 ? [members(fixed), ...conditions] : conditions, 'OR', 'FALSE');
}
