import { fileArchivedSchema, filesAskedSchema } from '../../../../core/boards/filesSchema.ts';
import { archiveFile, boardFiles } from '../../../../server/board-files/service.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id, context }) =>
  boardFiles(
    db,
    session.actor,
    id(),
    filesAskedSchema.parse(Object.fromEntries(context.url.searchParams)).order,
  ),
);

export const PUT = endpointWith(fileArchivedSchema, (input, { db, session, id }) =>
  archiveFile(db, session.actor, id(), input),
);
