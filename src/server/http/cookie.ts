import type { AstroCookies } from 'astro';
import { SESSION_DAYS } from '../accounts/service.ts';
import { house } from './house.ts';

const NAME = 'clear-bell-session';

export const sessionToken = (cookies: AstroCookies): string | undefined => cookies.get(NAME)?.value;

/** Keeps a session in a cookie no script can read and no other site can use for a change. */
export function keepSession(cookies: AstroCookies, token: string): void {
  cookies.set(NAME, token, {
    httpOnly: true,
    sameSite: 'lax',
    secure: house().settings.CLEAR_BELL_URL.startsWith('https:'),
    path: '/',
    maxAge: SESSION_DAYS * 86_400,
  });
}

export const dropSession = (cookies: AstroCookies): void => cookies.delete(NAME, { path: '/' });
