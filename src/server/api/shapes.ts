import { z } from 'zod';
import { Problem } from '../problem.ts';

/** An instant as the API writes it: RFC 3339, in UTC. */
export const instant = z.iso
  .datetime()
  .meta({ description: 'An instant, RFC 3339, in UTC.', examples: ['2026-09-14T06:30:00.000Z'] });

export const at = (epochMs: number): string => new Date(epochMs).toISOString();
export const atOrNull = (epochMs: number | null): string | null => (epochMs === null ? null : at(epochMs));

export const id = z.int().positive();

/** Which page: what the link to it says. */
export const paged = z.object({
  after: z.string().max(400).optional().meta({
    description:
      'From where the page begins. Take it from the Link header of the page before; it has no meaning of its own.',
  }),
});

const DAY_MS = 86_400_000;

/** A span of time. */
export const span = z.object({ from: z.iso.datetime(), to: z.iso.datetime() });

/** Its ends in milliseconds since 1970. @throws 422 where it ends before it begins, or is longer than so many days */
export function spanOf(
  { from, to }: z.output<typeof span>,
  mostDays: number,
): { fromMs: number; toMs: number } {
  const [fromMs, toMs] = [Date.parse(from), Date.parse(to)];
  if (fromMs < toMs && toMs - fromMs <= mostDays * DAY_MS) return { fromMs, toMs };
  const detail = `“to” comes after “from”, by at most ${mostDays} days.`;
  throw new Problem(422, detail, { errors: [{ field: 'to', detail }] });
}

export const pageOf = <S extends z.ZodType>(item: S) => z.object({ items: z.array(item) });

/** Where a page ended, as the text that leads on from there. */
export const cursorOf = (last: Record<string, string | number> | null): string | null =>
  last && Buffer.from(JSON.stringify(last)).toString('base64url');

/** Reads such a text; null where there is none. */
export function readCursor<S extends z.ZodType>(schema: S, after: string | undefined): z.output<S> | null {
  if (after === undefined) return null;
  try {
    return schema.parse(JSON.parse(Buffer.from(after, 'base64url').toString('utf8')));
  } catch {
    const detail = 'That leads nowhere. Take “after” from the Link header of the page before.';
    throw new Problem(422, detail, { errors: [{ field: 'after', detail }] });
  }
}
