import { change, type Database } from '../database/connection.ts';

/** What somebody who was erased is called. */
export const ERASED = 'Erased person';

/** What is known of a person or done for them, and counts nowhere: it is deleted with them. */
const THEIRS = [
  'absences',
  'access_letters',
  'api_tokens',
  'automation_people',
  'board_moderators',
  'board_marks',
  'code_secrets',
  'devices',
  'draft_openings',
  'draft_readers',
  'sheet_people',
  'editor_reach',
  'follows',
  'group_members',
  'group_owners',
  'group_requests',
  'idempotency_keys',
  'identities',
  'notices',
  'notice_choices',
  'passkeys',
  'passwords',
  'person_addresses',
  'person_attributes',
  'provider_subjects',
  'recovery_codes',
  'scim_users',
  'sessions',
  'sign_in_steps',
] as const;

/** Forgets what is known of some people. What they wrote, answered and received stays, under no name. */
export async function erase(db: Database, ids: readonly number[]): Promise<void> {
  const marks = ids.map(() => '?').join(', ');
  for (const table of THEIRS) await change(db, `DELETE FROM ${table} WHERE person_id IN (${marks})`, ids);
  await change(
    db,
    `UPDATE people SET name = ?, mail = NULL, mail_failing = NULL, mail_failing_at = NULL, mail_failing_reason = NULL, role = 'member', standing = 'left', left_at = COALESCE(left_at, NOW(3)), station_id = NULL,
       sort_name = '', greeting = '', occupation = '', relation = '', quiet_from = NULL, quiet_to = NULL, calendar_key = NULL, sessions_key = NULL, news_key = NULL, leave_from = NULL,
       leave_until = NULL, guest_until = NULL, bundling = NULL, erased_at = NOW(3)
     WHERE id IN (${marks})`,
    [ERASED, ...ids],
  );
  // What the audit trail holds of what was noted of them, such as an address; that it was noted stays.
  await change(
    db,
    `UPDATE audit SET detail = NULL WHERE subject = 'person' AND subject_id IN (${marks})`,
    ids,
  );
}
