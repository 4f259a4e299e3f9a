import { z } from 'zod';
import { signOut, signOutEverywhere } from '../../server/accounts/service.ts';
import { FORGET_KEPT } from '../../server/http/conditional.ts';
import { dropSession, sessionToken } from '../../server/http/cookie.ts';
import { endpointWith } from '../../server/http/endpoint.ts';
import { signOnSettings } from '../../server/http/signOnSettings.ts';
import { signedInAt, whereToSignOut } from '../../server/sign-on/signing.ts';

/**
 * Ends this session, or every session of this person on every device. Gives where to go on: to the provider they signed in
 * with, to be signed out there too, or to the sign-in page.
 */
export const POST = endpointWith(z.object({ everywhere: z.boolean() }), async ({ everywhere }, call) => {
  const token = sessionToken(call.context.cookies);
  const at = await signedInAt(call.db, call.session.hash);
  if (everywhere) await signOutEverywhere(call.db, call.session.actor);
  else if (token !== undefined) await signOut(call.db, token);
  dropSession(call.context.cookies);
  return Response.json(
    { to: (await whereToSignOut(call.db, signOnSettings(), at)) ?? '/sign-in' },
    { headers: [[...FORGET_KEPT]] },
  );
});
