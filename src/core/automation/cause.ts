import { z } from 'zod';

const id = z.int().positive();

/** What set a run off. Instants are milliseconds since 1970. */
export const causeSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('person'), groupId: id, people: z.array(id).max(10_000) }),
  /** `wall`: the wall-clock time its rule gave, which is also that of each reader where it goes by their clocks. */
  z.object({ kind: z.literal('time'), wall: z.string() }),
  /** `before`, `after`: what the column held that changed, and what it was changed to. */
  z.object({
    kind: z.literal('records'),
    sheetId: id,
    ids: z.array(id).max(10_000),
    before: z.string().optional(),
    after: z.string().optional(),
  }),
  /** A message that came in: what its named values hold. `call` sets it apart. */
  z.object({
    kind: z.literal('call'),
    hookId: id,
    call: z.string().max(80),
    values: z.record(z.string().max(40), z.string()),
  }),
  /** An ask that closed, or was answered by as many as it was to be. */
  z.object({
    kind: z.literal('ask'),
    occurrenceId: id,
    /** The deadline it came to, where that is what set it off. */
    deadlineMs: z.int().optional(),
  }),
  /** Dates of records, people or sessions that are due at an instant: which these are is read then. */
  z.object({ kind: z.literal('date'), dueMs: z.int() }),
]);
export type Cause = z.infer<typeof causeSchema>;
