import type { z } from 'zod';
import { leavesOf, type Audience } from '../../core/audience/expression.ts';
import {
  attributeKey,
  attributeProblem,
  TEXT,
  type attributeChangeSchema,
  type occupationRenameSchema,
  type PeopleKinds,
} from '../../core/people/kinds.ts';
import { people } from '../../core/words.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { replaceInAudiences } from '../audience/renaming.ts';
import { transact, type Database } from '../database/connection.ts';
import { allGroups } from '../groups/store.ts';
import { notFound, Problem } from '../problem.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import * as store from './kindsStore.ts';

function requireLookingAfterKinds(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

/** The occupations and attributes of people, with how many have each. */
export async function peopleKinds(db: Database, actor: Actor): Promise<PeopleKinds> {
  requireLookingAfterPeople(actor);
  const [occupations, attributes] = await Promise.all([store.occupationLines(db), store.attributeLines(db)]);
  return { occupations, attributes };
}

/**
 * Gives an occupation another name; with that of another the two become one, and without a name nobody has it any more. Audiences
 * that speak of it speak of it under its new name.
 *
 * @throws 409 where it is to be taken away and a group's rule speaks of it
 */
export async function renameOccupation(
  db: Database,
  actor: Actor,
  { from, to }: z.infer<typeof occupationRenameSchema>,
): Promise<PeopleKinds> {
  requireLookingAfterKinds(actor);
  return transact(db, async (trx) => {
    if (to === '')
      await refuseWhereSpokenOf(trx, (part) => part.kind === 'occupation' && part.occupation === from);
    if (from !== to) {
      const changed = await store.renameOccupation(trx, from, to);
      if (changed === 0) throw notFound('occupation');
      if (to !== '')
        await replaceInAudiences(
          trx,
          JSON.stringify({ kind: 'occupation', occupation: from }),
          JSON.stringify({ kind: 'occupation', occupation: to }),
        );
      await record(trx, {
        actorId: actor.id,
        action: 'rename occupation',
        subject: 'organisation',
        subjectId: 1,
        detail: { from, to, changed },
      });
    }
    return peopleKinds(trx, actor);
  });
}

/** A 409 problem that says which groups' rules speak of something. */
async function refuseWhereSpokenOf(trx: Database, isIt: (part: Audience) => boolean): Promise<void> {
  const rules = (await allGroups(trx)).filter(
    (group) => group.kind === 'live' && group.rule !== null && leavesOf(group.rule).some(isIt),
  );
  if (rules.length > 0)
    throw new Problem(
      409,
      `The rule of ${rules.map((group) => group.name).join(', ')} speaks of it. Change the rule first.`,
    );
}

/**
 * Makes an attribute, says what it holds, or gives it another name; with that of another the two become one, and whoever has both
 * keeps what the other says.
 *
 * @throws 422 where what people have does not fit, with how many and an example
 */
export async function changeAttribute(
  db: Database,
  actor: Actor,
  { from, name, kind, choices }: z.infer<typeof attributeChangeSchema>,
): Promise<PeopleKinds> {
  requireLookingAfterKinds(actor);
  return transact(db, async (trx) => {
    await store.attributeForms(trx, true);
    const form = { kind, choices: kind === 'choice' ? choices : [] };
    const lines = await store.attributeLines(trx);
    const here = (named: string) => lines.find((line) => attributeKey(line.name) === attributeKey(named));
    if (from !== null && !here(from)) throw notFound('attribute');
    if (from === null && here(name))
      throw new Problem(422, 'There is an attribute of this name already.', {
        errors: [{ field: 'name', detail: 'There is an attribute of this name already. Change that one.' }],
      });
    const values = [
      ...(from === null ? [] : await store.attributeValues(trx, from)),
      ...(from !== null && attributeKey(from) === attributeKey(name)
        ? []
        : await store.attributeValues(trx, name)),
    ];
    const wrong = values.filter(({ value }) => attributeProblem(form, value) !== null);
    if (wrong.length > 0) {
      const n = wrong.reduce((sum, each) => sum + each.n, 0);
      const detail = `${people(n)} ${n === 1 ? 'has' : 'have'} something else: ${attributeProblem(form, wrong[0]?.value ?? '') ?? ''} Change that first.`;
      throw new Problem(422, detail, { errors: [{ field: kind === 'choice' ? 'choices' : 'kind', detail }] });
    }
    if (from !== null && from !== name)
      for (const was of await store.renameAttribute(trx, from, name))
        await replaceInAudiences(
          trx,
          JSON.stringify({ kind: 'attribute', name: was }).slice(0, -1),
          JSON.stringify({ kind: 'attribute', name }).slice(0, -1),
        );
    await store.setAttributeForm(trx, from, { name, ...form });
    await record(trx, {
      actorId: actor.id,
      action: from === null ? 'make attribute' : 'change attribute',
      subject: 'organisation',
      subjectId: 1,
      detail: { from, name, ...form },
    });
    return peopleKinds(trx, actor);
  });
}

/** Takes an attribute away from everybody. @throws 409 where a group's rule speaks of it */
export async function removeAttribute(db: Database, actor: Actor, name: string): Promise<PeopleKinds> {
  requireLookingAfterKinds(actor);
  return transact(db, async (trx) => {
    const key = attributeKey(name);
    if (!(await store.attributeLines(trx)).some((line) => attributeKey(line.name) === key))
      throw notFound('attribute');
    await refuseWhereSpokenOf(trx, (part) => part.kind === 'attribute' && attributeKey(part.name) === key);
    const changed = await store.deleteAttribute(trx, name);
    await record(trx, {
      actorId: actor.id,
      action: 'delete attribute',
      subject: 'organisation',
      subjectId: 1,
      detail: { name, changed },
    });
    return peopleKinds(trx, actor);
  });
}

/** A 422 problem where an attribute does not hold what it is to hold; what somebody has already stays. */
export async function requireFitting(
  db: Database,
  attributes: readonly { name: string; value: string }[],
  before: readonly { name: string; value: string }[],
): Promise<void> {
  const forms = await store.attributeForms(db);
  const had = new Map(before.map(({ name, value }) => [attributeKey(name), value]));
  const errors = attributes.flatMap(({ name, value }, at) => {
    if (had.get(attributeKey(name)) === value) return [];
    const detail = attributeProblem(forms.get(attributeKey(name)) ?? TEXT, value);
    return detail === null ? [] : [{ field: `attributes.${at}.value`, detail }];
  });
  if (errors.length > 0) throw new Problem(422, errors[0]?.detail ?? '', { errors });
}
