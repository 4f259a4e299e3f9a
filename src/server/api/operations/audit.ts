import { z } from 'zod';
import { dateSchema } from '../../../core/timing/bounds.ts';
import { auditPage } from '../../audit/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, cursorOf, id, instant, paged, pageOf, readCursor } from '../shapes.ts';

const audit = operationsAbout('Audit trail');

export const AUDIT = [
  audit('GET /audit', {
    id: 'listDeeds',
    scope: 'audit:read',
    summary: 'Who did what, the latest first; for coordinators',
    description: '“from” and “to” are days by the clock of the owner of the token.',
    query: paged.extend({
      search: z.string().max(100).default(''),
      from: dateSchema('2026-09-01').optional(),
      to: dateSchema('2026-09-30').optional(),
    }),
    answer: pageOf(
      z.object({
        id,
        doneAt: instant,
        actor: z.object({ id: id.nullable(), name: z.string() }).nullable(),
        /** What was done, in words. */
        words: z.string(),
        subject: z.string(),
        subjectId: z.int().nullable(),
      }),
    ),
    pages: true,
    run: async ({ db, actor, zone, query }) => {
      const before = readCursor(z.object({ id }), query.after);
      const { lines, next } = await auditPage(
        db,
        { actor, zone },
        { search: query.search, subject: null, from: query.from ?? null, to: query.to ?? null },
        before?.id ?? null,
      );
      return {
        body: { items: lines.map((line) => ({ ...line, doneAt: at(line.atMs) })) },
        after: cursorOf(next === null ? null : { id: next }),
      };
    },
  }),
];
