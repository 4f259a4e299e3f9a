import { formSchema } from '../../../../core/content/formSchema.ts';
import { attachment } from '../../../../server/http/attachment.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';
import { textsOfSeries } from '../../../../server/texts/service.ts';

/** The issues of a series that have gone, as a ZIP of files: `?as=md` or `?as=eml`. */
export const GET = endpoint(async ({ db, session, settings, id, context }) => {
  const { as } = formSchema.parse(Object.fromEntries(context.url.searchParams));
  const { name, body } = await textsOfSeries(db, session.actor, id(), as, settings);
  return attachment(name, 'application/zip', body);
});
