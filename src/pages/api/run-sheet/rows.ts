import { z } from 'zod';
import { instantInAddress } from '../../../core/timing/bounds.ts';
import { endpoint } from '../../../server/http/endpoint.ts';
import { runSheet } from '../../../server/sends/runSheet.ts';

/** A period of the run sheet at most this long, in milliseconds. */
const LONGEST = 32 * 86_400_000;

const schema = z
  .object({ from: instantInAddress, to: instantInAddress })
  .refine(({ from, to }) => to > from && to - from <= LONGEST, 'A period of at most 32 days');

/** What goes out between two instants, in milliseconds since 1970. */
export const GET = endpoint(({ db, session, context }) => {
  const { from, to } = schema.parse(Object.fromEntries(context.url.searchParams));
  return runSheet(db, session.actor, from, to);
});
