import { defineMiddleware } from 'astro:middleware';
import { decide } from './core/rights/decide.ts';
import { readSession } from './server/accounts/service.ts';
import { appContext } from './server/http/appContext.ts';
import { FORGET_KEPT, isKeptToAskAgain, tagged } from './server/http/conditional.ts';
import { sessionToken } from './server/http/cookie.ts';
import { errorResponse } from './server/http/problemDetails.ts';
import { Problem } from './server/problem.ts';

/** Pages that can be read without signing in. */
const OPEN = [
  '/sign-in',
  '/forgot',
  '/access/',
  '/setup',
  '/m/',
  '/api/',
  '/healthz',
  '/_astro/',
  '/404',
  '/files/',
  '/feeds/',
  '/hooks/',
  '/scim/',
  '/developers',
];

/** The shelf is everybody's, and guests see nothing that is. */
const isShelf = (path: string): boolean => /^\/(api\/)?shelf(\/|$)/.test(path);

/** Links in mail are signed, carry no cookie's power, and are posted to by mail programs, which send no Origin. */
const isSignedLink = (path: string): boolean => path.startsWith('/m/');

/** Outside programs prove by their secret or token who they are; a cookie counts for nothing there. */
const isWayIn = (path: string): boolean =>
  path.startsWith('/hooks/') || path.startsWith('/scim/') || path.startsWith('/api/v1/');

function fromElsewhere(request: Request): boolean {
  const origin = request.headers.get('origin');
  return origin === null || !URL.canParse(origin) || new URL(origin).host !== request.headers.get('host');
}

/** Two years, as browsers ask of houses they note down as https only. */
const HTTPS_ONLY = 'max-age=63072000; includeSubDomains';

export const onRequest = defineMiddleware(async (context, next) => {
  const { request, url, cookies } = context;
  const path = url.pathname;
  const changes = request.method !== 'GET' && request.method !== 'HEAD';
  if (changes && !isSignedLink(path) && !isWayIn(path) && fromElsewhere(request))
    return errorResponse(new Problem(403, 'Changes are taken only from pages of this application.'));

  const token = path.startsWith('/_astro/') || isWayIn(path) ? undefined : sessionToken(cookies);
  try {
    context.locals.session = token === undefined ? undefined : await readSession(appContext().db, token);
  } catch (error) {
    appContext().log.error({ err: error }, 'session could not be read');
    if (path.startsWith('/api/')) return errorResponse(error);
    return new Response('Clear Bell cannot reach its database just now. Try again in a moment.', {
      status: 503,
    });
  }
  if (!context.locals.session && !OPEN.some((open) => path.startsWith(open)))
    return context.redirect(path === '/' ? '/sign-in' : `/sign-in?next=${encodeURIComponent(path)}`);

  const { session } = context.locals;
  const shelf = session && isShelf(path) && decide(session.actor, { kind: 'see the shelf' });
  if (shelf && shelf.outcome === 'denied')
    return path.startsWith('/api/')
      ? errorResponse(new Problem(403, shelf.reason))
      : context.redirect('/for-me');

  const made = await next();
  const keeps =
    session !== undefined &&
    !path.startsWith('/access/') &&
    !isSignedLink(path) &&
    isKeptToAskAgain(request, made);
  const response = keeps ? await tagged(request, made) : made;
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'same-origin');
  if (!response.headers.has('x-frame-options')) response.headers.set('x-frame-options', 'DENY');
  response.headers.set('cross-origin-opener-policy', 'same-origin');
  if (appContext().settings.CLEAR_BELL_URL.startsWith('https:'))
    response.headers.set('strict-transport-security', HTTPS_ONLY);
  // Whose page it is, for the worker that keeps pages for reading without a connection.
  if (context.locals.session) response.headers.set('x-person', String(context.locals.session.actor.id));
  // Nothing that is somebody's is kept on the way: not what the session shows, nor what a link from a mail does. Their own browser
  // keeps the data of pages, and asks each time whether it still holds; once they are signed out it is told to let it go.
  if (!session && token !== undefined && path === '/sign-in') response.headers.set(...FORGET_KEPT);
  if (
    !keeps &&
    (context.locals.session || isSignedLink(path) || path.startsWith('/access/')) &&
    !/^\/(_astro|files|feeds)\//.test(path)
  )
    response.headers.set('cache-control', 'private, no-store');
  return response;
});
