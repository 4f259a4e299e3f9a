import { sendForm, sentFormSchema } from '../../../server/sheets/forms.ts';
import { openEndpointWith } from '../../../server/http/endpoint.ts';
import { appContext } from '../../../server/http/appContext.ts';

/** Sends in a form: open to anybody with its address, or to those who are signed in, as its sheet says. */
export const POST = openEndpointWith(sentFormSchema, (input, context) => {
  const { db, attempts } = appContext();
  return sendForm(db, attempts, {
    key: context.params.key ?? '',
    by: context.locals.session?.actor.id ?? null,
    from: context.clientAddress,
    input,
  });
});
