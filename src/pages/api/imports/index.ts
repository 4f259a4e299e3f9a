import { newImportSchema } from '../../../core/imports/import.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { beginImport, listImports, rememberedColumns } from '../../../server/imports/service.ts';

export const GET = endpoint(async ({ db, session }) => ({
  imports: await listImports(db, session.actor),
  columns: await rememberedColumns(db, session.actor),
}));

export const POST = endpointWith(newImportSchema, async (made, { db, session }) => ({
  id: await beginImport(db, session.actor, made),
}));
