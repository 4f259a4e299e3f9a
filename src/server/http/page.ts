import type { AstroGlobal } from 'astro';
import type { OpenSession } from '../accounts/service.ts';
import { decide } from '../../core/rights/decide.ts';

/**
 * Who is signed in, for a page; members who come to a page of the desk, and whoever comes to one of coordinators, are led to
 * what is theirs.
 */
export function sessionOrRedirect(
  astro: AstroGlobal,
  place: 'anywhere' | 'desk' | 'coordinators',
): OpenSession | Response {
  const { session } = astro.locals;
  if (!session) return astro.redirect('/sign-in');
  if (place !== 'anywhere' && decide(session.actor, { kind: 'see the desk' }).outcome === 'denied')
    return astro.redirect('/for-me');
  if (place === 'coordinators' && decide(session.actor, { kind: 'look after people' }).outcome === 'denied')
    return astro.redirect('/run-sheet');
  return session;
}

/** The id in a page's path, or 0, which nothing has. */
export function pageId(astro: AstroGlobal): number {
  const { id } = astro.params;
  return id !== undefined && /^[1-9]\d{0,14}$/.test(id) ? Number(id) : 0;
}

export { orNone as orNothing } from '../problem.ts';
