import { beginFromFile, fromFileSchema } from '../../../server/announcements/fromFile.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

/** Begins a draft from a file of CommonMark with front matter. */
export const POST = endpointWith(fromFileSchema, (input, { db, session }) =>
  beginFromFile(db, session.actor, input),
);
