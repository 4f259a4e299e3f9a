import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { audienceSchema } from '../../src/core/audience/expression.ts';
import { draftContentSchema } from '../../src/core/content/announcement.ts';
import { planSchema } from '../../src/core/plan/plan.ts';
import { automationSchema } from '../../src/core/automation/automation.ts';
import {
  ID_FIELDS,
  LIST_FIELDS,
  columnsIn,
  referencesIn,
  withColumns,
  withReferences,
} from '../../src/core/organisation/references.ts';
import {
  freeName,
  inOrder,
  sameName,
  withNeeds,
  withoutPart,
  type Part,
} from '../../src/core/organisation/parts.ts';

type Json = Record<string, unknown>;

/** Every field of a schema that holds a whole number of one or more without an upper bound of its own: an id. */
function idFields(schema: unknown): Set<string> {
  const found = new Set<string>();
  const walk = (node: unknown, field: string): void => {
    if (Array.isArray(node)) node.forEach((each) => walk(each, field));
    if (typeof node !== 'object' || node === null || Array.isArray(node)) return;
    const { properties, type, minimum, exclusiveMinimum, maximum, ...rest } = node as Json;
    if (
      type === 'integer' &&
      (minimum === 1 || exclusiveMinimum === 0) &&
      maximum === Number.MAX_SAFE_INTEGER
    )
      found.add(field);
    for (const [name, inner] of Object.entries((properties ?? {}) as Json)) walk(inner, name);
    for (const [name, inner] of Object.entries(rest))
      if (name === '$defs') Object.values(inner as Json).forEach((each) => walk(each, ''));
      else walk(inner, name === 'items' ? `${field}[]` : field);
  };
  walk(schema, '');
  return found;
}

describe('what a document names by its ids', () => {
  it('is known for every id that an automation, an audience, a plan or a text can hold', () => {
    const json = [automationSchema, audienceSchema, planSchema, draftContentSchema].map((schema) =>
      z.toJSONSchema(schema, { unrepresentable: 'any', io: 'input' }),
    );
    const fields = idFields(json);
    const lists = Object.keys(LIST_FIELDS).map((name) => `${name}[]`);
    expect(
      [...fields].filter((name) => !(name in ID_FIELDS || lists.includes(name) || name === 'id')),
    ).toEqual([]);
    for (const name of [...Object.keys(ID_FIELDS), ...lists]) expect(fields).toContain(name);
  });

  it('is found wherever it stands, and moved there alone', () => {
    const document = {
      when: { kind: 'joins', groupId: 3 },
      tell: {
        to: {
          kind: 'audience',
          audience: {
            kind: 'any',
            of: [
              { kind: 'station', id: 3 },
              { kind: 'person', id: 7 },
            ],
          },
        },
        boards: [3, 4],
        outside: [9],
      },
      each: { kind: 'group', field: 'c3' },
      content: {
        sections: [
          { id: 's3', document: [{ type: 'mention', attrs: { kind: 'group', id: 3, label: '3' } }] },
        ],
      },
      ceiling: 3,
    };
    expect(referencesIn(document)).toEqual([
      { kind: 'group', id: 3 },
      { kind: 'station', id: 3 },
      { kind: 'person', id: 7 },
      { kind: 'board', id: 3 },
      { kind: 'board', id: 4 },
      { kind: 'place', id: 9 },
    ]);
    expect(withReferences(document, ({ id }) => id)).toEqual(document);
    const moved = withReferences(document, ({ kind, id }) => (kind === 'group' ? 30 : id));
    expect(moved).toEqual({
      ...document,
      when: { kind: 'joins', groupId: 30 },
      content: {
        sections: [
          { id: 's3', document: [{ type: 'mention', attrs: { kind: 'group', id: 30, label: '3' } }] },
        ],
      },
    });
  });
});

describe('the columns an automation names', () => {
  const document = {
    when: { kind: 'changes', sheetId: 1, column: 'c1' },
    if: { kind: 'all', of: [{ field: 'record.c2', with: { field: 'record.c1' } }] },
    table: { columns: ['record.c3', 'person.name'] },
    content: { title: 'c1 and record.c2', sections: [{ id: 'c3', attrs: { name: 'record.c12' } }] },
  };

  it('are found wherever they stand, each once, and moved there alone', () => {
    expect(columnsIn(document).sort()).toEqual(['c1', 'c12', 'c2', 'c3']);
    expect(withColumns(document, (column) => column)).toEqual(document);
    expect(withColumns(document, (column) => (column === 'c1' ? 'c9' : column))).toEqual({
      ...document,
      when: { kind: 'changes', sheetId: 1, column: 'c9' },
      if: { kind: 'all', of: [{ field: 'record.c2', with: { field: 'record.c9' } }] },
    });
  });
});

const part = (key: string, needs: string[] = []): Part => ({
  key,
  kind: key.split(':')[0] as Part['kind'],
  name: key,
  state: 'new',
  says: [],
  why: [],
  needs,
  beside: null,
});

describe('a choice of parts', () => {
  const parts = [
    part('automation:1', ['board:2', 'group:2']),
    part('board:2', ['group:2']),
    part('group:1'),
    part('group:2', ['group:1']),
  ];

  it('takes with it what is named, however deep, and leaves with one whatever needs it', () => {
    const chosen = withNeeds(parts, new Set(['automation:1']));
    expect([...chosen].sort()).toEqual(['automation:1', 'board:2', 'group:1', 'group:2']);
    expect([...withoutPart(parts, chosen, 'group:2')]).toEqual(['group:1']);
    expect([...withoutPart(parts, chosen, 'group:1')]).toEqual([]);
  });

  it('comes in an order in which nothing names what is not there yet', () => {
    expect(inOrder(parts).map(({ key }) => key)).toEqual(['group:1', 'group:2', 'board:2', 'automation:1']);
  });

  it('has a free name beside one that is here, however long', () => {
    const here = new Set(['the vault desk', 'the vault desk (2)']);
    const taken = (name: string): boolean => here.has(sameName(name));
    expect(freeName('The Vault Désk', taken, 80)).toBe('The Vault Désk (3)');
    expect(freeName('x'.repeat(80), () => false, 80)).toHaveLength(80);
  });
});
