import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { EVENTS, readEvent, topicsOf, type EventKind } from '../../src/core/events/event.ts';
import { TOPIC, topics } from '../../src/core/events/topics.ts';

interface Shape {
  type?: string;
  enum?: unknown[];
  const?: unknown;
  anyOf?: Shape[];
  items?: Shape;
  properties?: Record<string, Shape>;
}

/** What a JSON Schema allows, as far as events use it. */
function valuesOf(shape: Shape): fc.Arbitrary<unknown> {
  if (shape.const !== undefined) return fc.constant(shape.const);
  if (shape.enum) return fc.constantFrom(...shape.enum);
  if (shape.anyOf) return fc.oneof(...shape.anyOf.map(valuesOf));
  switch (shape.type) {
    case 'object':
      return fc.record(
        Object.fromEntries(Object.entries(shape.properties ?? {}).map(([name, of]) => [name, valuesOf(of)])),
      );
    case 'array':
      return fc.array(valuesOf(shape.items ?? {}), { maxLength: 130 });
    case 'integer':
      return fc.integer({ min: 1, max: 999_999_999_999 });
    case 'boolean':
      return fc.boolean();
    case 'string':
      return fc.string({ maxLength: 60 });
    case 'null':
      return fc.constant(null);
    default:
      throw new Error(`No values for ${JSON.stringify(shape)}`);
  }
}

const KINDS = Object.keys(EVENTS) as EventKind[];
/** An event of any kind, as it is stored. */
const storedOf = (kind: EventKind) =>
  valuesOf(z.toJSONSchema(EVENTS[kind].schema) as Shape).map((detail) => ({
    id: 1,
    kind,
    version: EVENTS[kind].version,
    detail,
  }));

describe('an event of each kind', () => {
  it.each(KINDS)(
    '%s is read as it was written, is about one thing, and its topics can be listened to',
    (kind) => {
      fc.assert(
        fc.property(storedOf(kind), (stored) => {
          const written = JSON.parse(JSON.stringify(stored)) as typeof stored;
          expect(readEvent(written)).toEqual({ kind, detail: stored.detail });
          const subject = (EVENTS[kind].subject as (detail: unknown) => string)(stored.detail);
          expect(subject).toMatch(/^[a-z][a-z ]*(:([1-9]\d*|[a-z][a-z ]*))?$/);
          expect(subject.length).toBeLessThanOrEqual(60);
          const told = topicsOf(written);
          for (const topic of told) expect(topic).toMatch(TOPIC);
          // A list of thousands who are brought in does not make each of them look by name.
          expect(told.length).toBeLessThanOrEqual(110);
        }),
        { numRuns: 40 },
      );
    },
  );

  it('of a kind or a version that is not known here, or with more than is known, is not read and tells nobody', () => {
    const stored = { id: 1, kind: 'board.changed', version: 1, detail: { board: 3 } };
    expect(topicsOf(stored)).toContain('board:3');
    for (const other of [
      { ...stored, kind: 'board.flown' },
      { ...stored, kind: 'toString' },
      { ...stored, version: 2 },
      { ...stored, detail: { board: 0 } },
      { ...stored, detail: { board: 3, more: true } },
      { ...stored, detail: null },
    ]) {
      expect(() => readEvent(other)).toThrow();
      expect(topicsOf(other)).toEqual([]);
    }
  });
});

describe('the topics', () => {
  it('that are named can all be listened to, and each is told of by some event', () => {
    const sampled = new Set(
      KINDS.flatMap((kind) => fc.sample(storedOf(kind), { numRuns: 60, seed: 7 }).flatMap(topicsOf)).map(
        (topic) => topic.split(':')[0],
      ),
    );
    for (const [name, topic] of Object.entries(topics)) {
      const one = typeof topic === 'string' ? topic : topic(12);
      expect(one).toMatch(TOPIC);
      expect([name, sampled.has(one.split(':')[0])]).toEqual([name, true]);
    }
    for (const other of [
      'desk:1',
      'board',
      'board:0',
      'board:-1',
      'board:1 ',
      'board:1\n',
      'sheet:x',
      'moon:1',
    ])
      expect(other).not.toMatch(TOPIC);
  });
});
