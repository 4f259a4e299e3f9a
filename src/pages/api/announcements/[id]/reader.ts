import { endpoint } from '../../../../server/http/endpoint.ts';
import { previewReader } from '../../../../server/preview/service.ts';
import { z } from 'zod';

export const GET = endpoint(({ db, session, id, context }) =>
  previewReader(
    db,
    session.actor,
    id(),
    z.coerce.number().int().positive().parse(context.url.searchParams.get('person')),
  ),
);
