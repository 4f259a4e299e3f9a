import { z } from 'zod';
import { signOut, signOutEverywhere } from '../../server/accounts/service.ts';
import { dropSession, sessionToken } from '../../server/http/cookie.ts';
import { endpointWith } from '../../server/http/endpoint.ts';

/** Ends this session, or every session of this person on every device. */
export const POST = endpointWith(z.object({ everywhere: z.boolean() }), async ({ everywhere }, call) => {
  const token = sessionToken(call.context.cookies);
  if (everywhere) await signOutEverywhere(call.db, call.session.actor);
  else if (token !== undefined) await signOut(call.db, token);
  dropSession(call.context.cookies);
});
