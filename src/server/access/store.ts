import type { Access, LetterKind } from '../../core/access/letter.ts';
import type { Sql } from '../audience/sql.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { claimLetterRows } from '../database/letterClaims.ts';

/** Whoever can be invited: here, not a linked contact, with an address, and not in yet. */
const INVITABLE = `p.standing <> 'left' AND p.linked_to IS NULL AND p.mail IS NOT NULL AND p.first_in_at IS NULL`;

/** Counts, of those for whom a condition over `people p` holds, who can be invited and who cannot. */
export async function countInvitable(
  db: Database,
  who: Sql,
): Promise<{ invitable: number; withoutAddress: number; inAlready: number }> {
  const [row] = await rows<{ invitable: number; withoutAddress: number; inAlready: number }>(
    db,
    `SELECT COUNT(CASE WHEN p.first_in_at IS NULL AND p.mail IS NOT NULL THEN 1 END) AS invitable,
       COUNT(CASE WHEN p.first_in_at IS NULL AND p.mail IS NULL THEN 1 END) AS withoutAddress,
       COUNT(p.first_in_at) AS inAlready
     FROM people p WHERE p.standing <> 'left' AND p.linked_to IS NULL AND (${who.sql})`,
    who.bindings,
  );
  return row ?? { invitable: 0, withoutAddress: 0, inAlready: 0 };
}

/** Withdraws what of a kind can still be used by those for whom a condition over `people p` holds. */
export function withdrawLetters(db: Database, kind: LetterKind, who: Sql): Promise<number> {
  return change(
    db,
    `UPDATE access_letters l JOIN people p ON p.id = l.person_id
     SET l.withdrawn_at = NOW(3), l.state = IF(l.state IN ('waiting', 'sending'), 'called off', l.state)
     WHERE l.kind = ? AND l.used_at IS NULL AND l.withdrawn_at IS NULL AND (${who.sql})`,
    [kind, ...who.bindings],
  );
}

/** Withdraws every letter of somebody that could still be used. */
export async function withdrawAll(db: Database, personId: number): Promise<void> {
  await change(
    db,
    `UPDATE access_letters SET withdrawn_at = NOW(3), state = IF(state IN ('waiting', 'sending'), 'called off', state)
     WHERE person_id = ? AND kind <> 'told' AND used_at IS NULL AND withdrawn_at IS NULL`,
    [personId],
  );
}

/** Writes an invitation to each of those for whom a condition over `people p` holds and who can be invited. */
export function insertInvitations(
  db: Database,
  who: Sql,
  made: { words: string; madeBy: number; hours: number },
): Promise<number> {
  return change(
    db,
    `INSERT INTO access_letters (person_id, kind, words, made_by, expires_at)
     SELECT p.id, 'invitation', ?, ?, NOW(3) + INTERVAL ? HOUR FROM people p WHERE ${INVITABLE} AND (${who.sql})`,
    [made.words, made.madeBy, made.hours, ...who.bindings],
  );
}

export async function insertLetter(
  db: Database,
  made: { personId: number; kind: LetterKind; words: string; hours: number },
): Promise<void> {
  await change(
    db,
    'INSERT INTO access_letters (person_id, kind, words, expires_at) VALUES (?, ?, ?, NOW(3) + INTERVAL ? HOUR)',
    [made.personId, made.kind, made.words, made.hours],
  );
}

export interface Letter {
  id: number;
  personId: number;
  kind: LetterKind;
  words: string;
  name: string;
  mail: string | null;
  by: string | null;
  expiresMs: number;
  usedMs: number | null;
  withdrawnMs: number | null;
  left: boolean;
}

type LetterRow = Omit<Letter, 'left'> & { standing: string };

const LETTER = `SELECT l.id, l.person_id AS personId, l.kind, l.words, p.name, p.mail, b.name AS \`by\`, p.standing,
    ${ms('l.expires_at')} AS expiresMs, ${ms('l.used_at')} AS usedMs, ${ms('l.withdrawn_at')} AS withdrawnMs
  FROM access_letters l JOIN people p ON p.id = l.person_id LEFT JOIN people b ON b.id = l.made_by`;

const readLetter = ({ standing, ...row }: LetterRow): Letter => ({ ...row, left: standing === 'left' });

export async function letterById(db: Database, id: number): Promise<Letter | undefined> {
  const [row] = await rows<LetterRow>(db, `${LETTER} WHERE l.id = ?`, [id]);
  return row && readLetter(row);
}

/** Uses a letter up; false where it was used, withdrawn or too old by then. */
export async function useLetter(db: Database, id: number): Promise<boolean> {
  return (
    (await change(
      db,
      `UPDATE access_letters SET used_at = NOW(3)
       WHERE id = ? AND used_at IS NULL AND withdrawn_at IS NULL AND expires_at > NOW(3)`,
      [id],
    )) === 1
  );
}

export async function noteFirstIn(db: Database, personId: number): Promise<void> {
  await change(db, 'UPDATE people SET first_in_at = NOW(3) WHERE id = ? AND first_in_at IS NULL', [personId]);
}

/** Where some people stand with getting in. */
export async function accessOf(db: Database, personIds: readonly number[]): Promise<Map<number, Access>> {
  if (personIds.length === 0) return new Map();
  const found = await rows<{
    id: number;
    mail: string | null;
    inMs: number | null;
    madeMs: number | null;
    sentMs: number | null;
    expired: number | null;
    withdrawnMs: number | null;
    state: string | null;
    reason: string | null;
  }>(
    db,
    `SELECT p.id, p.mail, ${ms('p.first_in_at')} AS inMs, ${ms('l.made_at')} AS madeMs, ${ms('l.sent_at')} AS sentMs,
       l.expires_at <= NOW(3) AS expired, ${ms('l.withdrawn_at')} AS withdrawnMs, l.state, l.reason
     FROM people p LEFT JOIN access_letters l ON l.id =
       (SELECT MAX(k.id) FROM access_letters k WHERE k.person_id = p.id AND k.kind = 'invitation')
     WHERE p.id IN (${personIds.map(() => '?').join(', ')})`,
    personIds,
  );
  return new Map(
    found.map((row): [number, Access] => {
      if (row.inMs !== null) return [row.id, { state: 'in', atMs: row.inMs }];
      if (row.mail === null) return [row.id, { state: 'no address' }];
      if (row.madeMs === null) return [row.id, { state: 'not invited' }];
      if (row.withdrawnMs !== null) return [row.id, { state: 'withdrawn', atMs: row.withdrawnMs }];
      if (row.expired === 1) return [row.id, { state: 'expired', atMs: row.madeMs }];
      const failed = row.state === 'failed' ? (row.reason ?? 'The mail server refused it') : null;
      return [row.id, { state: 'invited', atMs: row.madeMs, sentMs: row.sentMs, failed }];
    }),
  );
}

/** Who has an address, in its one form, be it the one mail goes to or a further one; those who have left have none here. */
export async function personByMail(db: Database, mail: string): Promise<number | undefined> {
  const [row] = await rows<{ id: number }>(
    db,
    `SELECT id FROM people WHERE (mail = ? OR id IN (SELECT a.person_id FROM person_addresses a WHERE a.mail = ?))
       AND standing <> 'left' AND linked_to IS NULL`,
    [mail, mail],
  );
  return row?.id;
}

export interface ClaimedLetter extends Letter {
  attempts: number;
  madeMs: number;
}

/** Claims letters that are to go, or whose engine died; rows another engine is claiming are skipped. */
export async function claimLetters(
  db: Database,
  claim: string,
  seconds: number,
  most: number,
): Promise<ClaimedLetter[]> {
  const ids = await claimLetterRows(db, 'access_letters', { claim, seconds, most });
  if (ids.length === 0) return [];
  const found = await rows<LetterRow & { attempts: number; madeMs: number }>(
    db,
    `${LETTER.replace('SELECT l.id', `SELECT l.attempts, ${ms('l.made_at')} AS madeMs, l.id`)}
     WHERE l.id IN (${ids.map(() => '?').join(', ')}) ORDER BY l.id`,
    ids,
  );
  return found.map((row) => ({ ...readLetter(row), attempts: row.attempts, madeMs: row.madeMs }));
}

/** Letters somebody asked for themselves in the last so many minutes. */
export async function askedLately(db: Database, personId: number, minutes: number): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    `SELECT COUNT(*) AS n FROM access_letters WHERE person_id = ? AND kind IN ('reset', 'sign-in')
       AND made_at > NOW(3) - INTERVAL ? MINUTE`,
    [personId, minutes],
  );
  return row?.n ?? 0;
}
