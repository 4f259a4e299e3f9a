import { rows, type Database } from '../database/connection.ts';

/** A row of what is kept of somebody, by the names it stands under in their file; instants as ISO 8601 in UTC. */
export type OwnRow = Record<string, unknown> & { place: number };

const at = (column: string): string => `DATE_FORMAT(${column}, '%Y-%m-%dT%H:%i:%s.%fZ')`;
const titleOf = (versionId: string): string =>
  `(SELECT v.title FROM announcement_versions v WHERE v.id = ${versionId})`;
const announced = (occurrenceId: string): string =>
  `(SELECT v.title FROM occurrences o JOIN announcement_versions v ON v.id = o.version_id WHERE o.id = ${occurrenceId})`;
const boardOf = (boardId: string): string => `(SELECT b.name FROM boards b WHERE b.id = ${boardId})`;

/**
 * What is kept of somebody, file by file. Each reads rows after a place: `?` is the person, then the place. What is kept to
 * prove who they are (sums of passwords, keys of devices) is named and not given.
 */
export const OWN: Record<string, string> = {
  person: `SELECT p.id AS place, p.name, p.sort_name AS sortName, p.greeting, p.mail, p.role, p.standing,
      (SELECT s.name FROM stations s WHERE s.id = p.station_id) AS station, p.occupation, p.zone, DATE_FORMAT(p.joined_on, '%Y-%m-%d') AS joined,
      ${at('p.left_at')} AS \`left\`, ${at('p.first_in_at')} AS firstIn, DATE_FORMAT(p.guest_until, '%Y-%m-%d') AS guestUntil, DATE_FORMAT(p.leave_from, '%Y-%m-%d') AS leaveFrom,
      DATE_FORMAT(p.leave_until, '%Y-%m-%d') AS leaveUntil, p.quiet_from AS quietFrom, p.quiet_to AS quietTo, p.digest_at AS digestAt, p.work_days AS workDays,
      ${at('p.mail_stopped_at')} AS mailStopped, ${at('p.mail_failing_at')} AS mailFailing, p.mail_failing_reason AS mailFailingReason
    FROM people p WHERE p.id = ? AND p.id > ?`,
  addresses: 'SELECT id AS place, mail FROM person_addresses WHERE person_id = ? AND id > ?',
  identities:
    'SELECT id AS place, in_system AS `system`, value FROM identities WHERE person_id = ? AND id > ?',
  attributes:
    'SELECT ROW_NUMBER() OVER (ORDER BY name) AS place, name, value FROM person_attributes WHERE person_id = ? AND 0 <= ?',
  groups: `SELECT g.id AS place, g.name FROM group_members m JOIN \`groups\` g ON g.id = m.group_id WHERE m.person_id = ? AND g.id > ?`,
  'groups looked after': `SELECT g.id AS place, g.name FROM group_owners m JOIN \`groups\` g ON g.id = m.group_id
    WHERE m.person_id = ? AND g.id > ?`,
  'boards moderated':
    'SELECT b.id AS place, b.name FROM board_moderators m JOIN boards b ON b.id = m.board_id WHERE m.person_id = ? AND b.id > ?',
  'may write to': `SELECT g.id AS place, g.name FROM editor_reach m JOIN \`groups\` g ON g.id = m.group_id WHERE m.person_id = ? AND g.id > ?`,
  'asked to come into': `SELECT g.id AS place, g.name FROM group_requests m JOIN \`groups\` g ON g.id = m.group_id
    WHERE m.person_id = ? AND g.id > ?`,
  'linked contacts': 'SELECT id AS place, name, mail, relation FROM people WHERE linked_to = ? AND id > ?',
  absences:
    "SELECT id AS place, DATE_FORMAT(from_on, '%Y-%m-%d') AS `from`, DATE_FORMAT(to_on, '%Y-%m-%d') AS `to` FROM absences WHERE person_id = ? AND id > ?",
  'chosen notices':
    'SELECT ROW_NUMBER() OVER (ORDER BY kind) AS place, kind, inbox, mail, push FROM notice_choices WHERE person_id = ? AND 0 <= ?',
  follows: `SELECT ROW_NUMBER() OVER (ORDER BY subject, subject_id) AS place, subject, subject_id AS id, choice FROM follows
    WHERE person_id = ? AND 0 <= ?`,
  devices: `SELECT id AS place, label, ${at('made_at')} AS connected, ${at('last_at')} AS lastTold FROM devices WHERE person_id = ? AND id > ?`,
  passkeys: `SELECT id AS place, name, ${at('added_at')} AS added, ${at('used_at')} AS used FROM passkeys WHERE person_id = ? AND id > ?`,
  'signed in': `SELECT id AS place, agent, ${at('created_at')} AS since, ${at('seen_at')} AS seen FROM sessions WHERE person_id = ? AND id > ?`,
  received: `SELECT d.occurrence_id AS place, ${announced('d.occurrence_id')} AS title, ${at('d.due_at')} AS due, d.state,
      ${at('d.went_at')} AS came, ${at('d.read_at')} AS \`read\`,
      (SELECT m.state FROM deliveries m WHERE m.occurrence_id = d.occurrence_id AND m.person_id = d.person_id AND m.method = 'mail') AS byMail
    FROM deliveries d WHERE d.person_id = ? AND d.method = 'inbox' AND d.occurrence_id > ?`,
  notices: `SELECT id AS place, kind, ${at('at')} AS at, title, text, why, ${at('read_at')} AS \`read\` FROM notices WHERE person_id = ? AND id > ?`,
  answers: `SELECT r.occurrence_id AS place, ${announced('r.occurrence_id')} AS title, ${at('r.answered_at')} AS answered, r.via
    FROM roll r WHERE r.person_id = ? AND r.occurrence_id > ?`,
  votes: `SELECT b.occurrence_id AS place, ${announced('b.occurrence_id')} AS title, b.choice FROM ballots b
    WHERE b.person_id = ? AND b.occurrence_id > ?`,
  'check-ins': `SELECT c.id AS place, ${announced('c.occurrence_id')} AS title, ${at('c.answered_at')} AS answered, c.blocked,
      (SELECT JSON_ARRAYAGG(a.text ORDER BY a.question) FROM check_in_answers a
       WHERE a.occurrence_id = c.occurrence_id AND a.person_id = c.person_id) AS said
    FROM check_ins c WHERE c.person_id = ? AND c.id > ?`,
  'replies to check-ins': `SELECT id AS place, ${announced('occurrence_id')} AS title, text, ${at('at')} AS at FROM check_in_replies
    WHERE author_id = ? AND id > ?`,
  calendar: `SELECT a.date_id AS place, s.title, ${at('d.starts_at')} AS starts, a.stands, ${at('a.said_at')} AS saidAt
    FROM session_answers a JOIN session_dates d ON d.id = a.date_id JOIN calendar_sessions s ON s.id = d.session_id
    WHERE a.person_id = ? AND a.date_id > ?`,
  posts: `SELECT o.id AS place, ${boardOf('o.board_id')} AS board, ${titleOf('o.version_id')} AS title, o.state, ${at('o.posted_at')} AS posted,
      o.word AS moderatorsNote, (SELECT v.body FROM announcement_versions v WHERE v.id = o.version_id) AS body
    FROM posts o WHERE o.author_id = ? AND o.id > ?`,
  replies: `SELECT r.id AS place, ${titleOf('(SELECT o.version_id FROM posts o WHERE o.id = r.post_id)')} AS post, r.state,
      ${at('r.written_at')} AS written, r.word AS moderatorsNote, r.document, r.files FROM replies r WHERE r.author_id = ? AND r.id > ?`,
  'posts read': `SELECT post_id AS place, ${titleOf('(SELECT o.version_id FROM posts o WHERE o.id = post_id)')} AS title, ${at('read_at')} AS \`read\`
    FROM post_reads WHERE person_id = ? AND post_id > ?`,
  'answers before a correction': `SELECT ROW_NUMBER() OVER (ORDER BY answered_at, version_id) AS place, ${titleOf('version_id')} AS title,
      ${at('answered_at')} AS answered, via FROM earlier_answers WHERE person_id = ? AND 0 <= ?`,
  reactions: `SELECT ROW_NUMBER() OVER (ORDER BY at, subject, subject_id) AS place, subject, subject_id AS id, kind, ${at('at')} AS at
    FROM reactions WHERE person_id = ? AND 0 <= ?`,
  'thanks given': `SELECT t.id AS place, (SELECT r.name FROM ribbons r WHERE r.id = t.ribbon_id) AS ribbon, t.sentence, ${at('t.at')} AS at
    FROM thanks t WHERE t.from_id = ? AND t.id > ?`,
  'thanks received': `SELECT t.id AS place, (SELECT r.name FROM ribbons r WHERE r.id = t.ribbon_id) AS ribbon, t.sentence, ${at('t.at')} AS at
    FROM thanked w JOIN thanks t ON t.id = w.thanks_id WHERE w.person_id = ? AND t.id > ?`,
  announcements: `SELECT id AS place, state, content, ${at('created_at')} AS begun, ${at('saved_at')} AS saved FROM announcements
    WHERE author_id = ? AND id > ?`,
  comments: `SELECT id AS place, text, ${at('written_at')} AS written FROM comments WHERE author_id = ? AND id > ?`,
  'asked of the shelf': `SELECT id AS place, text, state, word AS note FROM shelf_questions WHERE person_id = ? AND id > ?`,
  reports: `SELECT id AS place, ${boardOf('board_id')} AS board, reason, ${at('at')} AS at FROM reports WHERE reporter_id = ? AND id > ?`,
  'signed up by them': `SELECT id AS place, name, mail, ${at('signed_up_at')} AS at FROM sign_ups WHERE shared_by = ? AND id > ?`,
  done: `SELECT id AS place, ${at('at')} AS at, action, subject FROM audit WHERE actor_id = ? AND id > ?`,
  'done with them': `SELECT id AS place, ${at('at')} AS at, action FROM audit WHERE subject = 'person' AND subject_id = ? AND id > ?`,
  uploads: `SELECT ROW_NUMBER() OVER (ORDER BY uploaded_at, upload_key) AS place, upload_key AS \`key\`, name, mime,
      ${at('uploaded_at')} AS uploaded FROM uploads WHERE uploaded_by = ? AND 0 <= ?`,
};

/** A page of what is kept of somebody in one file, in the order of their places, after one. */
export const ownRows = (
  db: Database,
  sql: string,
  personId: number,
  after: number,
  most: number,
): Promise<OwnRow[]> =>
  rows(db, `SELECT w.* FROM (${sql}) w WHERE w.place > ? ORDER BY w.place LIMIT ?`, [
    personId,
    after,
    after,
    most,
  ]);
