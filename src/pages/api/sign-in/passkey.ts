import { z } from 'zod';
import { dropStep, keepSession, keepStep, stepToken } from '../../../server/http/cookie.ts';
import { openEndpointWith } from '../../../server/http/endpoint.ts';
import { appContext } from '../../../server/http/appContext.ts';
import { siteForPasskeys } from '../../../server/http/secondSettings.ts';
import { credentialSchema } from '../../../server/second-factor/passkeys.ts';
import { answerByPasskey, beginByPasskey } from '../../../server/second-factor/signing.ts';

/** Begins to sign in with a passkey alone: what the browser needs for it. */
export const POST = openEndpointWith(z.object({}), async (_, { cookies, clientAddress }) => {
  const { db, attempts } = appContext();
  await attempts.begun(clientAddress);
  const { token, options } = await beginByPasskey(db, siteForPasskeys());
  keepStep(cookies, token);
  return options;
});

/** Signs in with what the passkey has signed. */
export const PUT = openEndpointWith(
  z.object({ response: credentialSchema }),
  async ({ response }, { cookies, request }) => {
    const agent = request.headers.get('user-agent') ?? '';
    const given = { token: stepToken(cookies) ?? '', response, agent };
    keepSession(cookies, await answerByPasskey(appContext().db, siteForPasskeys(), 'passkey', given));
    dropStep(cookies);
  },
);
