import { z } from 'zod';
import { instantInAddress } from '../../../core/timing/bounds.ts';
import { strain } from '../../../server/desk/service.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

const schema = z
  .object({ from: instantInAddress, to: instantInAddress })
  .refine(({ from, to }) => to > from && to - from <= 32 * 86_400_000, 'A period of at most 32 days');

export const GET = endpoint(({ db, session, context }) => {
  const { from, to } = schema.parse(Object.fromEntries(context.url.searchParams));
  return strain(db, session, from, to);
});
