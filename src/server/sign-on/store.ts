import {
  providerSchema,
  type Provider,
  type ProviderLine,
  type SignOnLine,
} from '../../core/access/provider.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export interface ProviderRow extends Provider {
  id: number;
  on: boolean;
  sealed: Buffer | null;
}

interface Stored {
  id: number;
  provider: string;
  sealed: Buffer | null;
  isOn: number;
}

const PROVIDER = 'v.id, v.provider, v.secret AS sealed, v.is_on AS isOn';

const read = ({ id, provider, sealed, isOn }: Stored): ProviderRow => ({
  ...providerSchema.parse(JSON.parse(provider)),
  id,
  sealed,
  on: isOn === 1,
});

export async function providerById(db: Database, id: number): Promise<ProviderRow | undefined> {
  const [row] = await rows<Stored>(db, `SELECT ${PROVIDER} FROM providers v WHERE v.id = ?`, [id]);
  return row && read(row);
}

export async function providerLines(db: Database): Promise<ProviderLine[]> {
  const found = await rows<Stored & { people: number }>(
    db,
    `SELECT ${PROVIDER}, (SELECT COUNT(*) FROM provider_subjects s WHERE s.provider_id = v.id) AS people
     FROM providers v ORDER BY v.name`,
  );
  return found.map((row) => {
    const { sealed, ...provider } = read(row);
    return { ...provider, hasSecret: sealed !== null, people: row.people };
  });
}

/** The providers one can sign in with, by name. */
export function providersOn(db: Database): Promise<{ id: number; name: string }[]> {
  return rows(db, 'SELECT id, name FROM providers WHERE is_on ORDER BY name');
}

/** @throws the database's duplicate-key error where there is a provider of this name */
export async function insertProvider(
  db: Database,
  provider: Provider,
  sealed: Buffer | null,
): Promise<number> {
  const [id] = await db('providers').insert({
    name: provider.name,
    provider: JSON.stringify(provider),
    secret: sealed,
  });
  return id ?? 0;
}

/** @throws the database's duplicate-key error where there is another provider of this name */
export async function changeProvider(
  db: Database,
  id: number,
  { provider, on, sealed }: { provider: Provider; on: boolean; sealed: Buffer | null | undefined },
): Promise<void> {
  await db('providers')
    .where({ id })
    .update({
      name: provider.name,
      provider: JSON.stringify(provider),
      is_on: on,
      ...(sealed === undefined ? {} : { secret: sealed }),
    });
}

export const deleteProvider = async (db: Database, id: number): Promise<boolean> =>
  (await change(db, 'DELETE FROM providers WHERE id = ?', [id])) === 1;

/**
 * Whom an account at a provider signs in.
 *
 * @param latest whether to read what others have written since the transaction began
 */
export async function personBySubject(
  db: Database,
  providerId: number,
  subject: string,
  latest = false,
): Promise<number | undefined> {
  const [row] = await rows<{ personId: number }>(
    db,
    `SELECT person_id AS personId FROM provider_subjects WHERE provider_id = ? AND subject = ?${latest ? ' LOCK IN SHARE MODE' : ''}`,
    [providerId, subject],
  );
  return row?.personId;
}

/** @throws the database's duplicate-key error where the account, or the person, has another at this provider */
export async function insertSubject(
  db: Database,
  providerId: number,
  subject: string,
  personId: number,
): Promise<void> {
  await db('provider_subjects').insert({ provider_id: providerId, subject, person_id: personId });
}

export function signOnsOf(db: Database, personId: number): Promise<SignOnLine[]> {
  return rows(
    db,
    `SELECT s.provider_id AS providerId, v.name AS provider, ${ms('s.since')} AS sinceMs FROM provider_subjects s
     JOIN providers v ON v.id = s.provider_id WHERE s.person_id = ? ORDER BY v.name`,
    [personId],
  );
}

export const deleteSubject = async (db: Database, personId: number, providerId: number): Promise<boolean> =>
  (await change(db, 'DELETE FROM provider_subjects WHERE person_id = ? AND provider_id = ?', [
    personId,
    providerId,
  ])) === 1;

/** Notes at which provider a session was signed in, and by which token. */
export async function noteSignedInAt(
  db: Database,
  sessionHash: Buffer,
  providerId: number,
  sealedToken: Buffer | null,
): Promise<void> {
  await change(db, 'UPDATE sessions SET provider_id = ?, id_token = ? WHERE token_hash = ?', [
    providerId,
    sealedToken,
    sessionHash,
  ]);
}

/** At which provider a session was signed in, and by which token. */
export interface SignedInAt {
  providerId: number;
  sealedToken: Buffer | null;
}

/** At which provider a session was signed in; nothing where at none. */
export async function signedInAt(db: Database, sessionHash: Buffer): Promise<SignedInAt | undefined> {
  const [row] = await rows<SignedInAt>(
    db,
    'SELECT provider_id AS providerId, id_token AS sealedToken FROM sessions WHERE token_hash = ? AND provider_id IS NOT NULL',
    [sessionHash],
  );
  return row;
}
