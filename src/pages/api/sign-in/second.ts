import { z } from 'zod';
import { dropStep, keepSession, stepToken } from '../../../server/http/cookie.ts';
import { openEndpointWith } from '../../../server/http/endpoint.ts';
import { appContext } from '../../../server/http/appContext.ts';
import { siteForPasskeys } from '../../../server/http/secondSettings.ts';
import { credentialSchema } from '../../../server/second-factor/passkeys.ts';
import { answerByPasskey, passkeyForStep } from '../../../server/second-factor/signing.ts';

/** What the browser needs to take the second step with a passkey. */
export const POST = openEndpointWith(z.object({}), (_, { cookies }) =>
  passkeyForStep(appContext().db, siteForPasskeys(), stepToken(cookies) ?? ''),
);

/** Takes the second step with what the passkey has signed. */
export const PUT = openEndpointWith(
  z.object({ response: credentialSchema }),
  async ({ response }, { cookies, request }) => {
    const agent = request.headers.get('user-agent') ?? '';
    const given = { token: stepToken(cookies) ?? '', response, agent };
    keepSession(cookies, await answerByPasskey(appContext().db, siteForPasskeys(), 'second', given));
    dropStep(cookies);
  },
);
