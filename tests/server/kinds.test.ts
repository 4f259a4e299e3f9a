import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Audience } from '../../src/core/audience/expression.ts';
import { attributeChangeSchema, attributeProblem, type AttributeKind } from '../../src/core/people/kinds.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { groupPage } from '../../src/server/groups/making.ts';
import { applyImport } from '../../src/server/imports/apply.ts';
import { addRows, beginImport, compareImport, importLines } from '../../src/server/imports/service.ts';
import {
  changeAttribute,
  peopleKinds,
  removeAttribute,
  renameOccupation,
} from '../../src/server/people/kinds.ts';
import { alterPerson } from '../../src/server/people/service.ts';
import { attributesOf, personById } from '../../src/server/people/store.ts';
import { saveAudience } from '../../src/server/saved-audiences/service.ts';
import { savedAudiences } from '../../src/server/saved-audiences/store.ts';
import { addGroup, addPeople, coordinator, freshDatabase } from './world.ts';

let db: Database;
let people: number[];
beforeAll(async () => {
  ({ db } = await freshDatabase('kinds'));
  people = await addPeople(db, 30);
  await db('people').update({ occupation: '' });
  await db('people').whereIn('id', people.slice(0, 5)).update({ occupation: 'lorry “driver”' });
  await db('people').whereIn('id', people.slice(5, 12)).update({ occupation: 'haulier' });
});
afterAll(() => db.destroy());

const of = (id: number, ...attributes: [string, string][]) =>
  alterPerson(db, coordinator, id, { attributes: attributes.map(([name, value]) => ({ name, value })) });
const member = { id: 3, role: 'member' as const, moderates: new Set<number>(), mayReach: new Set<number>() };

it('an occupation is renamed with whatever is chosen by it, and two become one', async () => {
  const group = await addGroup(db, 'Drivers', { kind: 'occupation', occupation: 'lorry “driver”' });
  await saveAudience(db, coordinator, {
    name: 'Those who drive',
    audience: { kind: 'any', of: [{ kind: 'occupation', occupation: 'lorry “driver”' }] },
  } as never);
  await renameOccupation(db, coordinator, { from: 'lorry “driver”', to: 'driver' });
  expect(await groupPage(db, coordinator, group)).toMatchObject({
    people: 5,
    rule: { kind: 'occupation', occupation: 'driver' },
  });
  expect((await savedAudiences(db)).map((each) => each.audience)).toContainEqual({
    kind: 'any',
    of: [{ kind: 'occupation', occupation: 'driver' }],
  });
  const after = await renameOccupation(db, coordinator, { from: 'haulier', to: 'driver' });
  expect(after.occupations).toContainEqual({ name: 'driver', people: 12 });
  expect((await groupPage(db, coordinator, group)).people).toBe(12);
  // A name that differs by the size of letters only is another, and only the one meant is renamed.
  await alterPerson(db, coordinator, people[0]!, { occupation: 'Driver' });
  await renameOccupation(db, coordinator, { from: 'Driver', to: 'chauffeur' });
  expect((await groupPage(db, coordinator, group)).people).toBe(11);
  await expect(renameOccupation(db, coordinator, { from: 'driver', to: '' })).rejects.toThrow(
    /Drivers speaks of it/,
  );
  await renameOccupation(db, coordinator, { from: 'chauffeur', to: '' });
  expect((await personById(db, people[0]!))?.occupation).toBe('');
  await expect(renameOccupation(db, coordinator, { from: 'nobody’s', to: 'x' })).rejects.toMatchObject({
    status: 404,
  });
  await expect(renameOccupation(db, member, { from: 'driver', to: 'x' })).rejects.toMatchObject({
    status: 403,
  });
});

it('an attribute holds what it is said to hold, wherever it is written, and what people have must fit first', async () => {
  await of(people[0]!, ['Shoe size', '42'], ['Licence', 'B']);
  await of(people[1]!, ['Shoe size', 'large'], ['Licence', 'C']);
  const define = (kind: AttributeKind, name: string, choices: string[] = [], from: string | null = name) =>
    changeAttribute(db, coordinator, { from, name, kind, choices });
  await expect(define('number', 'Shoe size')).rejects.toThrow(/1 person has something else: “large”/);
  await of(people[1]!, ['Shoe size', '44'], ['Licence', 'C']);
  await define('number', 'Shoe size');
  await expect(define('choice', 'Licence', ['A', 'B'])).rejects.toMatchObject({
    errors: [{ field: 'choices' }],
  });
  await define('choice', 'Licence', ['A', 'B', 'C']);
  await define('date', 'Badge until', [], null);
  await expect(define('text', 'badge UNTIL', [], null)).rejects.toMatchObject({
    errors: [{ field: 'name' }],
  });

  await expect(of(people[2]!, ['shoe size', 'small'], ['Licence', 'B'])).rejects.toMatchObject({
    status: 422,
    errors: [{ field: 'attributes.0.value' }],
  });
  const list = await beginImport(db, coordinator, { fileName: 'a.csv', columns: {}, dateOrder: 'day first' });
  const mail = async (at: number) => (await personById(db, people[at]!))?.mail ?? '';
  const named = async (at: number) => (await personById(db, people[at]!))?.name ?? '';
  await addRows(db, coordinator, list, [
    { line: 1, name: await named(3), mail: await mail(3), attributes: { 'Badge until': '3/4/2027' } },
    { line: 2, name: await named(4), mail: await mail(4), attributes: { Licence: 'D' } },
  ]);
  const { digest } = await compareImport(db, coordinator, list);
  expect((await importLines(db, coordinator, list, 'wrong', 0)).lines[0]).toMatchObject({
    line: 2,
    why: '“Licence”: “D” is none of the choices: A, B, C.',
  });
  await applyImport(db, coordinator, list, digest);
  expect(await attributesOf(db, people[3]!)).toEqual([{ name: 'Badge until', value: '2027-04-03' }]);
});

it('an attribute is renamed with whatever is chosen by it, two become one, and it is not deleted while a rule speaks of it', async () => {
  const rule: Audience = { kind: 'attribute', name: 'Permit', value: 'B' };
  await of(people[20]!, ['Permit', 'B']);
  await of(people[21]!, ['Permit', 'B'], ['Pass', 'A']);
  await of(people[22]!, ['Pass', 'B']);
  const group = await addGroup(db, 'Permitted', rule);
  await changeAttribute(db, coordinator, { from: 'Permit', name: 'Pass', kind: 'text', choices: [] });
  expect(await groupPage(db, coordinator, group)).toMatchObject({
    people: 2,
    rule: { name: 'Pass', value: 'B' },
  });
  expect(await attributesOf(db, people[21]!)).toEqual([{ name: 'Pass', value: 'A' }]);
  const { attributes } = await peopleKinds(db, coordinator);
  expect(attributes.find((each) => each.name === 'Pass')).toMatchObject({ people: 3, kind: 'text' });
  expect(attributes.some((each) => each.name === 'Permit')).toBe(false);
  await expect(removeAttribute(db, coordinator, 'Pass')).rejects.toMatchObject({ status: 409 });
  await db('groups').where({ id: group }).delete();
  await removeAttribute(db, coordinator, 'Pass');
  expect(await attributesOf(db, people[22]!)).toEqual([]);
  await expect(removeAttribute(db, coordinator, 'Pass')).rejects.toMatchObject({ status: 404 });
});

it('a value that fits is taken, and what is wrong with another is told', () => {
  const number = (value: string) => attributeProblem({ kind: 'number', choices: [] }, value);
  fc.assert(
    fc.property(fc.integer({ min: -1e9, max: 1e9 }), (n) => {
      expect(number(String(n))).toBeNull();
      expect(number(`${n} kg`)).toContain('is not a number');
    }),
  );
  fc.assert(
    fc.property(
      fc.date({ min: new Date('1900-01-01'), max: new Date('2100-12-31'), noInvalidDate: true }),
      (day) => {
        const written = day.toISOString().slice(0, 10);
        expect(attributeProblem({ kind: 'date', choices: [] }, written)).toBeNull();
        expect(attributeProblem({ kind: 'date', choices: [] }, written.replaceAll('-', '/'))).toContain(
          'year-month-day',
        );
      },
    ),
  );
  expect(attributeProblem({ kind: 'date', choices: [] }, '2027-02-30')).not.toBeNull();
  expect(
    attributeChangeSchema.safeParse({ from: null, name: 'x', kind: 'choice', choices: [] }).error?.issues[0]
      ?.path,
  ).toEqual(['choices']);
});
