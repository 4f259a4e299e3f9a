import { replaceInAudiences } from '../audience/renaming.ts';
import { change, rows, type Database } from '../database/connection.ts';

/**
 * Where people are named and the other's entry becomes that of whoever stays. Where that one has the like already, such as the same
 * announcement in both inboxes, the other's stands as it was: what was counted stays counted.
 */
export const MOVED: readonly (readonly [table: string, column: string])[] = [
  ['absences', 'person_id'],
  ['access_letters', 'made_by'],
  ['announcements', 'author_id'],
  ['announcements', 'review_by'],
  ['announcements', 'saved_by'],
  ['announcement_versions', 'author_id'],
  ['archived_files', 'archived_by'],
  ['ask_options', 'added_by'],
  ['asks', 'closed_by'],
  ['automation_versions', 'published_by'],
  ['automation_people', 'person_id'],
  ['automations', 'owner_id'],
  ['automations', 'saved_by'],
  ['board_marks', 'person_id'],
  ['board_moderators', 'person_id'],
  ['boards', 'owner_id'],
  ['calendar_sessions', 'made_by'],
  ['followed_calendars', 'made_by'],
  ['check_in_replies', 'author_id'],
  ['check_ins', 'unblocked_by'],
  ['comments', 'author_id'],
  ['comments', 'settled_by'],
  ['draft_openings', 'person_id'],
  ['draft_readers', 'person_id'],
  ['draft_readers', 'shared_by'],
  ['earlier_answers', 'person_id'],
  ['editor_reach', 'person_id'],
  ['findables', 'author_id'],
  ['follows', 'person_id'],
  ['group_members', 'person_id'],
  ['group_owners', 'person_id'],
  ['group_requests', 'person_id'],
  ['hooks_in', 'owner_id'],
  ['hooks_out', 'owner_id'],
  ['sheet_people', 'person_id'],
  ['sheet_sources', 'made_by'],
  ['identities', 'person_id'],
  ['imports', 'made_by'],
  ['notices', 'person_id'],
  ['people', 'linked_to'],
  ['people', 'merged_into'],
  ['person_addresses', 'person_id'],
  ['person_attributes', 'person_id'],
  ['post_reads', 'person_id'],
  ['postings', 'author_id'],
  ['posts', 'author_id'],
  ['posts', 'decided_by'],
  ['posts', 'pinned_by'],
  ['reactions', 'person_id'],
  ['record_changes', 'changed_by'],
  ['records', 'changed_by'],
  ['replies', 'author_id'],
  ['replies', 'decided_by'],
  ['reports', 'reporter_id'],
  ['reports', 'settled_by'],
  ['retention', 'changed_by'],
  ['roll', 'person_id'],
  ['saved_audiences', 'saved_by'],
  ['scim_clients', 'made_by'],
  ['sends', 'created_by'],
  ['session_answers', 'person_id'],
  ['sheet_views', 'made_by'],
  ['pattern_places', 'made_by'],
  ['pattern_versions', 'made_by'],
  ['sheets', 'made_by'],
  ['takeouts', 'made_by'],
  ['shelf_answers', 'written_by'],
  ['shelf_questions', 'person_id'],
  ['shelf_questions', 'settled_by'],
  ['sign_ups', 'shared_by'],
  ['sources', 'made_by'],
  ['thanked', 'person_id'],
  ['thanks', 'from_id'],
  ['uploads', 'uploaded_by'],
];

/** What the other signed in with, or chose for themselves: it ends with them. */
export const ENDED = [
  'access_letters',
  'api_tokens',
  'code_secrets',
  'devices',
  'idempotency_keys',
  'notice_choices',
  'passkeys',
  'passwords',
  'provider_subjects',
  'recovery_codes',
  'sessions',
  'sign_in_steps',
] as const;

/** Where people are named in a way of its own, or as it was at the time: seen to apart, or left. */
export const APART: readonly string[] = [
  'audit.actor_id',
  'ballots.person_id',
  'check_in_answers.person_id',
  'check_in_replies.person_id',
  'check_ins.person_id',
  'deliveries.person_id',
  'group_comings.person_id',
  'import_effects.person_id',
  'import_rows.person_id',
  'scim_users.person_id',
];

/** How many rows of what counts somebody has: announcements received, posts and replies, answers. */
export async function countTheirs(
  db: Database,
  id: number,
): Promise<{ received: number; written: number; answered: number; groups: number }> {
  const [found] = await rows<{ received: number; written: number; answered: number; groups: number }>(
    db,
    `SELECT (SELECT COUNT(*) FROM deliveries WHERE person_id = ? AND method = 'inbox') AS received,
       (SELECT COUNT(*) FROM posts WHERE author_id = ?) + (SELECT COUNT(*) FROM replies WHERE author_id = ?) AS written,
       (SELECT COUNT(*) FROM roll WHERE person_id = ? AND answered_at IS NOT NULL) AS answered,
       (SELECT COUNT(*) FROM group_members WHERE person_id = ?) AS \`groups\``,
    [id, id, id, id, id],
  );
  return found ?? { received: 0, written: 0, answered: 0, groups: 0 };
}

/** Whether a system outside keeps somebody up to date. */
export async function isKept(db: Database, id: number): Promise<boolean> {
  return (
    (await rows(db, 'SELECT 1 FROM scim_users WHERE person_id = ? AND deleted_at IS NULL', [id])).length > 0
  );
}

/** Gives to `keep` what is `other`'s. Call it in a transaction that holds both. */
export async function moveTheirs(trx: Database, keep: number, other: number): Promise<void> {
  for (const [table, column] of MOVED)
    await change(trx, `UPDATE IGNORE \`${table}\` SET ${column} = ? WHERE ${column} = ?`, [keep, other]);
  // A check-in is moved as a whole or not at all.
  const mine = 'SELECT occurrence_id FROM (SELECT occurrence_id FROM check_ins WHERE person_id = ?) AS mine';
  for (const table of ['check_in_answers', 'check_in_replies', 'check_ins'])
    await change(
      trx,
      `UPDATE ${table} SET person_id = ? WHERE person_id = ? AND occurrence_id NOT IN (${mine})`,
      [keep, other, keep],
    );
  // Of a named poll the key of a ballot is the voter's number, so that whoever stays can change the vote and not add one.
  await change(
    trx,
    `UPDATE IGNORE ballots SET person_id = ?, ballot_key = UNHEX(LPAD(HEX(?), 32, '0')) WHERE person_id = ?`,
    [keep, keep, other],
  );
  // What is on its way goes no more to somebody who is not there; what has arrived is whoever stays'.
  await change(
    trx,
    "UPDATE IGNORE deliveries SET person_id = ? WHERE person_id = ? AND state IN ('delivered', 'failed', 'called off')",
    [keep, other],
  );
  // Whoever stays does not come into a group anew in which the other was, and nobody goes out of it.
  await change(trx, 'UPDATE IGNORE group_comings SET person_id = ? WHERE person_id = ? AND is_in = 1', [
    keep,
    other,
  ]);
  await change(trx, 'DELETE FROM group_comings WHERE person_id = ? AND is_in = 1', [other]);
  for (const table of ENDED) await change(trx, `DELETE FROM ${table} WHERE person_id = ?`, [other]);
  for (const table of [
    'group_members',
    'group_owners',
    'group_requests',
    'board_moderators',
    'editor_reach',
    'follows',
  ])
    await change(trx, `DELETE FROM ${table} WHERE person_id = ?`, [other]);
  await replaceInAudiences(
    trx,
    JSON.stringify({ kind: 'person', id: other }),
    JSON.stringify({ kind: 'person', id: keep }),
  );
}

/** Marks an entry as a second one of somebody. Its name stays, for what stands under it. */
export async function markMerged(trx: Database, keep: number, other: number): Promise<void> {
  await change(
    trx,
    `UPDATE people SET mail = NULL, role = 'member', calendar_key = NULL, sessions_key = NULL, news_key = NULL, merged_into = ?,
       erased_at = NOW(3) WHERE id = ?`,
    [keep, other],
  );
}

/** Whose second entry somebody was; undefined where they were none. */
export async function mergedInto(db: Database, id: number): Promise<number | undefined> {
  const [found] = await rows<{ id: number }>(
    db,
    'SELECT merged_into AS id FROM people WHERE id = ? AND merged_into IS NOT NULL',
    [id],
  );
  return found?.id;
}
