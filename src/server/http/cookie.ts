import type { AstroCookies } from 'astro';
import type { Role } from '../../core/audience/expression.ts';
import { SESSION_DAYS, type CameIn } from '../accounts/opening.ts';
import { appContext } from './appContext.ts';

const NAME = 'clear-bell-session';

export const sessionToken = (cookies: AstroCookies): string | undefined => cookies.get(NAME)?.value;

/** Keeps a session in a cookie no script can read and no other site can use for a change. */
export function keepSession(cookies: AstroCookies, token: string): void {
  cookies.set(NAME, token, {
    httpOnly: true,
    sameSite: 'lax',
    secure: appContext().settings.CLEAR_BELL_URL.startsWith('https:'),
    path: '/',
    maxAge: SESSION_DAYS * 86_400,
  });
}

export const dropSession = (cookies: AstroCookies): void => cookies.delete(NAME, { path: '/' });

const STEP = 'clear-bell-step';

/** The token of the step of signing in that is still to be taken. */
export const stepToken = (cookies: AstroCookies): string | undefined => cookies.get(STEP)?.value;

/** Keeps a step of signing in for as long as it can be taken. */
export function keepStep(cookies: AstroCookies, token: string): void {
  cookies.set(STEP, token, {
    httpOnly: true,
    sameSite: 'lax',
    secure: appContext().settings.CLEAR_BELL_URL.startsWith('https:'),
    path: '/',
    maxAge: 600,
  });
}

export const dropStep = (cookies: AstroCookies): void => cookies.delete(STEP, { path: '/' });

/** Keeps what coming in led to, and gives the path to go on to: where one wanted to go, or the second step before that. */
export function keepCameIn(cookies: AstroCookies, came: CameIn, next: string): string {
  if ('session' in came) {
    keepSession(cookies, came.session);
    return next;
  }
  keepStep(cookies, came.step);
  return next === '/' ? '/sign-in/second' : `/sign-in/second?next=${encodeURIComponent(next)}`;
}

/** How somebody comes in, as their request has it. */
export const comingOf = (request: Request): { agent: string; demanded: readonly Role[] } => ({
  agent: request.headers.get('user-agent') ?? '',
  demanded: appContext().settings.SECOND_STEP_FOR,
});
