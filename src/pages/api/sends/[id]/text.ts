import { formSchema } from '../../../../core/content/formSchema.ts';
import { attachment } from '../../../../server/http/attachment.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';
import { FORMS, textOfSend } from '../../../../server/texts/service.ts';

/** What a send says, as a file: `?as=md` or `?as=eml`. */
export const GET = endpoint(async ({ db, session, settings, id, context }) => {
  const { as } = formSchema.parse(Object.fromEntries(context.url.searchParams));
  const { name, body } = await textOfSend(db, session.actor, id(), as, settings);
  return attachment(name, FORMS[as], typeof body === 'string' ? body : new Uint8Array(body));
});
