import { SCOPE_NAMES, type Scope } from '../../core/api/token.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

interface Stored {
  id: number;
  personId: number;
  name: string;
  scopes: string;
  expiresMs: number;
}

export interface Token extends Omit<Stored, 'scopes'> {
  scopes: ReadonlySet<Scope>;
}

const scopesOf = (stored: string): Scope[] => {
  const named = new Set(stored.split(' '));
  return SCOPE_NAMES.filter((scope) => named.has(scope));
};

/** Keeps a token's hash; gives its id. */
export async function insertToken(
  db: Database,
  token: { personId: number; name: string; hash: Buffer; scopes: readonly Scope[]; days: number },
): Promise<number> {
  const [id] = await db('api_tokens').insert({
    person_id: token.personId,
    name: token.name,
    token_hash: token.hash,
    scopes: token.scopes.join(' '),
    expires_at: db.raw('NOW(3) + INTERVAL ? DAY', [token.days]),
  });
  return id ?? 0;
}

/** The token of a hash, while it holds. */
export async function tokenByHash(db: Database, hash: Buffer): Promise<Token | undefined> {
  const [row] = await rows<Stored>(
    db,
    `SELECT id, person_id AS personId, name, scopes, ${ms('expires_at')} AS expiresMs FROM api_tokens
     WHERE token_hash = ? AND expires_at > NOW(3)`,
    [hash],
  );
  return row && { ...row, scopes: new Set(scopesOf(row.scopes)) };
}

/** Notes that a token is used. */
export async function noteCall(db: Database, id: number): Promise<void> {
  await change(
    db,
    `INSERT INTO api_calls (token_id, day, calls) SELECT id, UTC_DATE(), 1 FROM api_tokens WHERE id = ?
     ON DUPLICATE KEY UPDATE calls = calls + 1`,
    [id],
  );
}

/** Tokens that hold, one person's or everybody's, the newest first. */
export async function tokensOf(
  db: Database,
  personId: number | null,
): Promise<
  {
    id: number;
    personId: number;
    name: string;
    owner: string;
    scopes: Scope[];
    madeMs: number;
    expiresMs: number;
    usedMs: number | null;
    calls: number;
  }[]
> {
  const found = await rows<{
    id: number;
    personId: number;
    name: string;
    owner: string;
    scopes: string;
    madeMs: number;
    expiresMs: number;
    usedMs: number | null;
    calls: number;
  }>(
    db,
    `SELECT t.id, t.person_id AS personId, t.name, p.name AS owner, t.scopes, ${ms('t.made_at')} AS madeMs,
       ${ms('t.expires_at')} AS expiresMs, (SELECT ${ms('MAX(c.last_at)')} FROM api_calls c WHERE c.token_id = t.id) AS usedMs,
       COALESCE((SELECT CAST(SUM(c.calls) AS SIGNED) FROM api_calls c WHERE c.token_id = t.id AND c.day > UTC_DATE() - INTERVAL 7 DAY), 0) AS calls
     FROM api_tokens t JOIN people p ON p.id = t.person_id
     WHERE t.expires_at > NOW(3) AND (? IS NULL OR t.person_id = ?) ORDER BY t.id DESC LIMIT 500`,
    [personId, personId],
  );
  return found.map((row) => ({ ...row, scopes: scopesOf(row.scopes) }));
}

/** Deletes a token; of one person's where that is given. */
export async function deleteToken(
  db: Database,
  id: number,
  personId: number | null,
): Promise<{ name: string } | undefined> {
  const [row] = await rows<{ name: string }>(
    db,
    'SELECT name FROM api_tokens WHERE id = ? AND (? IS NULL OR person_id = ?) FOR UPDATE',
    [id, personId, personId],
  );
  if (row) await change(db, 'DELETE FROM api_tokens WHERE id = ?', [id]);
  return row;
}

/** Forgets tokens that have expired for so many days, with what they were used for. */
export const forgetTokens = (db: Database, days: number): Promise<number> =>
  change(db, 'DELETE FROM api_tokens WHERE expires_at < NOW(3) - INTERVAL ? DAY LIMIT 1000', [days]);
