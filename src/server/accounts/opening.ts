import { createHash, randomBytes } from 'node:crypto';
import type { Role } from '../../core/audience/expression.ts';
import { noteFirstIn } from '../access/store.ts';
import type { Database } from '../database/connection.ts';
import { insertStep, standingOf } from '../second-factor/store.ts';
import { insertSession } from './store.ts';

export const SESSION_DAYS = 30;

/** What is kept of a token that only a cookie holds: its SHA-256. */
export const hashToken = (token: string): Buffer => createHash('sha256').update(token).digest();

export const newToken = (): string => randomBytes(32).toString('base64url');

/**
 * Opens a session for somebody and gives its token, which is kept nowhere but in their cookie.
 *
 * @param agent what the browser says it is (the User-Agent header), for the list of sessions
 */
export async function openSession(db: Database, personId: number, agent = ''): Promise<string> {
  const token = newToken();
  await insertSession(db, hashToken(token), personId, SESSION_DAYS, agent);
  await noteFirstIn(db, personId);
  return token;
}

/** How somebody comes in: what their browser says it is, and of which roles the operator demands a second step. */
export interface Coming {
  agent?: string;
  demanded?: readonly Role[];
}

/** What coming in led to: a session, or a second step that is still to be taken. */
export type CameIn = { session: string } | { step: string };

/**
 * Lets somebody in whose first step was right: at once, or, where they have a second step or the operator demands one of
 * their role, up to that.
 */
export async function comeIn(db: Database, personId: number, coming: Coming): Promise<CameIn> {
  const standing = await standingOf(db, personId);
  const { agent = '', demanded = [] } = coming;
  if (!standing || (!standing.second && !demanded.includes(standing.role)))
    return { session: await openSession(db, personId, agent) };
  const token = newToken();
  await insertStep(db, hashToken(token), { kind: 'second', personId, data: {} });
  return { step: token };
}
