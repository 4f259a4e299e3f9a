import type { z } from 'zod';
import type { newTokenSchema, TokenLine } from '../../core/api/token.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { hashToken, newToken } from '../accounts/opening.ts';
import { requireDesk } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { notFound } from '../problem.ts';
import { deleteToken, insertToken, tokensOf } from './tokenStore.ts';

/** So that whoever finds one knows what it opens. */
const PREFIX = 'clearbell_';

const seesAll = (actor: Actor): boolean =>
  decide(actor, { kind: 'look after the organisation' }).outcome === 'allowed';

/** The tokens of whoever works at the desk; coordinators see everybody's. */
export async function listTokens(db: Database, actor: Actor): Promise<TokenLine[]> {
  requireDesk(actor);
  const found = await tokensOf(db, seesAll(actor) ? null : actor.id);
  return found.map(({ personId, ...token }) => ({ ...token, mine: personId === actor.id }));
}

/** Makes a token with which a program acts for whoever makes it. It is told this once; only its hash is kept. */
export async function makeToken(
  db: Database,
  actor: Actor,
  { name, scopes, days }: z.output<typeof newTokenSchema>,
): Promise<{ id: number; token: string }> {
  requireDesk(actor);
  const token = `${PREFIX}${newToken()}`;
  return transact(db, async (trx) => {
    const id = await insertToken(trx, { personId: actor.id, name, hash: hashToken(token), scopes, days });
    await record(trx, {
      actorId: actor.id,
      action: 'make token',
      subject: 'organisation',
      subjectId: 1,
      detail: { name, scopes, days },
    });
    return { id, token };
  });
}

/** Revokes a token, one's own or as a coordinator anybody's: it is refused from this moment. */
export async function revokeToken(db: Database, actor: Actor, id: number): Promise<void> {
  requireDesk(actor);
  await transact(db, async (trx) => {
    const revoked = await deleteToken(trx, id, seesAll(actor) ? null : actor.id);
    if (!revoked) throw notFound('token');
    await record(trx, {
      actorId: actor.id,
      action: 'revoke token',
      subject: 'organisation',
      subjectId: 1,
      detail: { name: revoked.name },
    });
  });
}
