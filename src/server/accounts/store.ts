import { change, idsIn, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export async function passwordByMail(
  db: Database,
  mail: string,
): Promise<{ personId: number; hash: string } | undefined> {
  const [row] = await rows<{ personId: number; hash: string }>(
    db,
    `SELECT p.id AS personId, w.hash FROM people p JOIN passwords w ON w.person_id = p.id
     WHERE (p.mail = ? OR p.id IN (SELECT a.person_id FROM person_addresses a WHERE a.mail = ?)) AND p.standing <> 'left'`,
    [mail, mail],
  );
  return row;
}

export async function setPassword(db: Database, personId: number, hash: string): Promise<void> {
  await db('passwords')
    .insert({ person_id: personId, hash, set_at: db.raw('NOW(3)') })
    .onConflict('person_id')
    .merge();
}

/** The hash of somebody's password; nothing where they have none. */
export async function passwordOf(db: Database, personId: number): Promise<string | undefined> {
  const [row] = await rows<{ hash: string }>(db, 'SELECT hash FROM passwords WHERE person_id = ?', [
    personId,
  ]);
  return row?.hash;
}

export async function insertSession(
  db: Database,
  tokenHash: Buffer,
  personId: number,
  days: number,
  agent = '',
): Promise<void> {
  await change(
    db,
    'INSERT INTO sessions (token_hash, person_id, expires_at, agent) VALUES (?, ?, NOW(3) + INTERVAL ? DAY, ?)',
    [tokenHash, personId, days, agent.slice(0, 300)],
  );
}

/** Notes that a session is in use; its row is written once in some minutes only. */
export async function noteSeen(db: Database, tokenHash: Buffer): Promise<void> {
  await change(db, 'UPDATE sessions SET seen_at = NOW(3) WHERE token_hash = ?', [tokenHash]);
}

export interface StoredSession {
  id: number;
  hash: Buffer;
  agent: string;
  createdMs: number;
  seenMs: number;
}

/** Where somebody is signed in, the one in use last first. */
export function sessionsOf(db: Database, personId: number): Promise<StoredSession[]> {
  return rows(
    db,
    `SELECT id, token_hash AS hash, agent, ${ms('created_at')} AS createdMs, ${ms('seen_at')} AS seenMs FROM sessions
     WHERE person_id = ? AND expires_at > NOW(3) ORDER BY seen_at DESC, id DESC LIMIT 200`,
    [personId],
  );
}

/** Ends one session of somebody, and what was connected in it; false where there is none. */
export async function endSession(db: Database, personId: number, id: number): Promise<boolean> {
  await change(
    db,
    `DELETE d FROM devices d JOIN sessions s ON s.token_hash = d.session_hash WHERE s.id = ? AND s.person_id = ?`,
    [id, personId],
  );
  return (await change(db, 'DELETE FROM sessions WHERE id = ? AND person_id = ?', [id, personId])) === 1;
}

/** In how many browsers somebody is signed in. */
export async function countSessions(db: Database, personId: number): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    'SELECT COUNT(*) AS n FROM sessions WHERE person_id = ? AND expires_at > NOW(3)',
    [personId],
  );
  return row?.n ?? 0;
}

export interface SessionRow {
  personId: number;
  name: string;
  role: 'coordinator' | 'editor' | 'member';
  zone: string;
  guest: boolean;
  /** The boards they moderate, by being asked to or as their owner. */
  moderates: number[];
  /** The groups an editor may address. */
  reach: number[];
  /** Whether they look after a group. */
  owns: boolean;
  /** Whether it was last noted as in use some minutes ago. */
  unseen: boolean;
  /** The database's clock, in milliseconds since 1970. */
  nowMs: number;
}

export async function sessionOf(db: Database, tokenHash: Buffer): Promise<SessionRow | undefined> {
  type Flag = 'unseen' | 'guest' | 'owns';
  type List = 'moderates' | 'owned' | 'reach';
  const [row] = await rows<
    Omit<SessionRow, Flag | List> & Record<Flag, number> & Record<List, string | null>
  >(
    db,
    // One statement, since every request asks for it.
    `SELECT p.id AS personId, p.name, p.role, p.zone, p.guest_until IS NOT NULL AS guest,
       (SELECT JSON_ARRAYAGG(m.board_id) FROM board_moderators m WHERE m.person_id = p.id) AS moderates,
       (SELECT JSON_ARRAYAGG(b.id) FROM boards b WHERE b.owner_id = p.id) AS owned,
       IF(p.role = 'editor', (SELECT JSON_ARRAYAGG(e.group_id) FROM editor_reach e WHERE e.person_id = p.id), NULL) AS reach,
       p.role = 'member' AND EXISTS (SELECT 1 FROM group_owners g WHERE g.person_id = p.id) AS owns,
       s.seen_at < NOW(3) - INTERVAL 5 MINUTE AS unseen, ${ms('NOW(3)')} AS nowMs FROM sessions s JOIN people p ON p.id = s.person_id
     WHERE s.token_hash = ? AND s.expires_at > NOW(3) AND p.standing <> 'left'`,
    [tokenHash],
  );
  if (!row) return undefined;
  const { owned, ...rest } = row;
  return {
    ...rest,
    guest: row.guest === 1,
    owns: row.owns === 1,
    unseen: row.unseen === 1,
    moderates: [...new Set([...idsIn(row.moderates), ...idsIn(owned)])],
    reach: idsIn(row.reach),
  };
}

/** Which of some sessions still hold, by the hash of their token in hexadecimal digits. */
export async function sessionsAlive(db: Database, hashes: readonly Buffer[]): Promise<Set<string>> {
  if (hashes.length === 0) return new Set();
  const found = await rows<{ hash: string }>(
    db,
    `SELECT LOWER(HEX(s.token_hash)) AS hash FROM sessions s JOIN people p ON p.id = s.person_id
     WHERE s.token_hash IN (${hashes.map(() => '?').join(', ')}) AND s.expires_at > NOW(3) AND p.standing <> 'left'`,
    hashes,
  );
  return new Set(found.map((row) => row.hash));
}

export async function deleteSession(db: Database, tokenHash: Buffer): Promise<void> {
  await db('sessions').where({ token_hash: tokenHash }).delete();
}

/** Ends every session of somebody; devices connected before sessions were noted with them go too. */
export async function endSessionsOf(db: Database, personId: number): Promise<void> {
  await change(db, 'DELETE FROM devices WHERE person_id = ?', [personId]);
  await change(db, 'DELETE FROM sessions WHERE person_id = ?', [personId]);
}

/** Ends every session of somebody but one, and what was connected in them. */
export async function endOtherSessions(db: Database, personId: number, kept: Buffer): Promise<void> {
  await change(
    db,
    'DELETE FROM devices WHERE person_id = ? AND (session_hash IS NULL OR session_hash <> ?)',
    [personId, kept],
  );
  await change(db, 'DELETE FROM sessions WHERE person_id = ? AND token_hash <> ?', [personId, kept]);
}

export async function deleteExpiredSessions(db: Database): Promise<void> {
  await change(db, 'DELETE FROM sessions WHERE expires_at < NOW(3) LIMIT 1000');
}

export interface DemoPerson {
  id: number;
  name: string;
  role: string;
  moderates: string | null;
  station: string | null;
}

/** People to try the demo as: every coordinator and editor, some moderators, and a few members. */
export function demoPeople(db: Database): Promise<DemoPerson[]> {
  return rows<DemoPerson>(
    db,
    `SELECT p.id, p.name, p.role, s.name AS station,
       (SELECT GROUP_CONCAT(b.name ORDER BY b.position SEPARATOR ', ') FROM board_moderators m
        JOIN boards b ON b.id = m.board_id WHERE m.person_id = p.id) AS moderates
     FROM people p LEFT JOIN stations s ON s.id = p.station_id
     WHERE p.standing <> 'left' AND p.mail IS NOT NULL
     ORDER BY FIELD(p.role, 'coordinator', 'editor', 'member'), moderates IS NULL, p.id LIMIT 16`,
  );
}

export async function hasAnybody(db: Database): Promise<boolean> {
  return (await rows(db, 'SELECT 1 FROM people LIMIT 1')).length > 0;
}
