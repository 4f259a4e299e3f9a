import { subjectSchema } from '../../../../core/shelf/shelf.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { addSubject, listSubjects } from '../../../../server/shelf/service.ts';

export const POST = endpointWith(subjectSchema, async (input, { db, session }) => ({
  id: await addSubject(db, session.actor, input),
}));

/** The subjects with how many answers each holds. */
export const GET = endpoint(({ db }) => listSubjects(db));
