import type { Audience } from '../../core/audience/expression.ts';
import { isReadable } from '../../core/audience/groups.ts';
import { includes } from '../../core/audience/includes.ts';
import type { Problem } from '../../core/content/announcement.ts';
import type { FieldName } from '../../core/content/field.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { Brief } from '../../core/sends/forecast.ts';
import { list, people as peopleWords } from '../../core/words.ts';
import type { namesWhere } from '../audience/store.ts';
import { countOutside, whichAmong } from '../audience/outsideStore.ts';
import { factsOf, type Reach } from '../audience/store.ts';
import { whyNotCalling } from '../boards/callable.ts';
import { seersOf, type BoardForReader } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import type { audienceContext } from '../groups/directory.ts';

/**
 * Fields that would say nothing to somebody, calls on many on a board where this person may not call on them, and mentions of
 * people who would neither get it nor see it on a board.
 */
export async function textProblems(
  db: Database,
  actor: Actor,
  plan: Plan,
  brief: Brief,
  boards: readonly BoardForReader[],
  reach: Reach | null,
  namesOf: NamesWhere,
  now: Awaited<ReturnType<typeof audienceContext>>,
): Promise<{ problems: Problem[]; warnings: Problem[] }> {
  const problems: Problem[] = [];
  const warnings: Problem[] = [];
  const lacking: Partial<Record<FieldName, { n: number; further: 'no station' | 'no occupation' }>> = {
    station: { n: reach?.withoutStation ?? 0, further: 'no station' },
    occupation: { n: reach?.withoutOccupation ?? 0, further: 'no occupation' },
  };
  const empty = new Set(
    brief.fields.filter((field) => field.fallback.trim() === '').map((field) => field.name),
  );
  for (const name of empty) {
    const missing = lacking[name];
    if (missing && missing.n > 0) {
      const names = await namesOf(missing.further);
      problems.push({
        field: `fields.${name}`,
        detail: `The field “${name}” would be empty for ${peopleWords(missing.n)} (${names.slice(0, 3).join(', ')}${missing.n > 3 ? ' …' : ''}). Say what stands there instead.`,
      });
    }
  }
  if (brief.fields.some((field) => field.name === 'event time') && !brief.event)
    problems.push({
      field: 'fields.event time',
      detail: 'The text tells the time of an event, and there is none. Add the event, or take the field out.',
    });
  const barred = new Set(
    brief.mentions.flatMap((mention) => whyNotCalling(actor, boards, mention, now.groups) ?? []),
  );
  for (const detail of barred) problems.push({ field: 'document', detail });
  const seers = boards.map((board) => seersOf(board, now));
  const mentioned = brief.mentions.filter((mention) => mention.kind === 'person');
  if (plan.audience && mentioned.length > 0) {
    const facts = await factsOf(
      db,
      mentioned.map((mention) => mention.id),
      plan.audience,
      now,
    );
    const audience = plan.audience;
    const without = mentioned.filter((mention) => {
      const person = facts.get(mention.id);
      return !person || !includes(audience, person, now);
    });
    const seen = await whichAmong(
      db,
      without.map((mention) => mention.id),
      seers,
    );
    const outside = without.filter((mention) => !seen.has(mention.id));
    if (outside.length > 0)
      warnings.push({
        field: 'document',
        detail: `${list([...new Set(outside.map((mention) => mention.label))], 'and')} ${outside.length === 1 ? 'is' : 'are'} mentioned and would not get it.`,
      });
  }
  for (const group of brief.mentions.filter((mention) => mention.kind === 'group')) {
    const called: Audience = { kind: 'group', id: group.id };
    if (!plan.audience || !now.groups.has(group.id) || !isReadable(called, now)) continue;
    const outside = await countOutside(db, called, plan.audience, now, seers);
    if (outside > 0)
      warnings.push({
        field: 'document',
        detail: `${group.label} is called on, and ${peopleWords(outside)} of it would not get it.`,
      });
  }
  return { problems, warnings };
}

export type NamesWhere = (further: Parameters<typeof namesWhere>[3]) => Promise<string[]>;
