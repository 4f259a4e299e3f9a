import { z } from 'zod';
import { endpoint } from '../../../server/http/endpoint.ts';
import { answersUnder } from '../../../server/shelf/service.ts';

const schema = z.object({ subject: z.coerce.number().int().positive() });

/** The published answers under a subject. */
export const GET = endpoint(({ db, context }) =>
  answersUnder(db, schema.parse(Object.fromEntries(context.url.searchParams)).subject),
);
