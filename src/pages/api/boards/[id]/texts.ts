import { formSchema } from '../../../../core/content/formSchema.ts';
import { attachment } from '../../../../server/http/attachment.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';
import { textsOfBoard } from '../../../../server/texts/service.ts';

/** What stands on a board with its replies, as a ZIP of files: `?as=md` or `?as=eml`. */
export const GET = endpoint(async ({ db, session, settings, id, context }) => {
  const { as } = formSchema.parse(Object.fromEntries(context.url.searchParams));
  const { name, body } = await textsOfBoard(db, session.actor, id(), as, settings);
  return attachment(name, 'application/zip', body);
});
