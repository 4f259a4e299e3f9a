import { z } from 'zod';
import { placeLinks } from '../../../../server/boards/settings.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

const schema = z.object({
  links: z
    .array(
      z.object({
        label: z.string().trim().min(1, 'Say what the link leads to').max(120, 'At most 120 characters'),
        url: z.string().trim().max(2000),
      }),
    )
    .max(12, 'At most twelve links stand beside what is pinned'),
});

export const PUT = endpointWith(schema, ({ links }, { db, session, id }) =>
  placeLinks(db, session.actor, id(), links),
);
