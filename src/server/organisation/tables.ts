/** What proves who somebody is, or is of one installation alone. */
const PROOF = 'It proves who somebody is. People come in anew by a letter to their mail address.';
const OF_HERE = 'It is of this installation, and made anew by the other.';
const PASSING = 'It is kept for a short time, while something is under way.';

/** Tables that are not in an archive of the organisation, and why. Every other one is. */
export const LEFT_OUT: Readonly<Record<string, string>> = {
  access_letters: PROOF,
  api_calls: PROOF,
  api_tokens: PROOF,
  code_secrets: PROOF,
  devices: PROOF,
  passkeys: PROOF,
  passwords: PROOF,
  provider_subjects: PROOF,
  providers: PROOF,
  recovery_codes: PROOF,
  scim_clients: PROOF,
  scim_groups: PROOF,
  scim_users: PROOF,
  sessions: PROOF,
  sign_in_steps: PROOF,
  backups: OF_HERE,
  damaged_nodes: OF_HERE,
  processes: OF_HERE,
  event_positions: OF_HERE,
  events: OF_HERE,
  findables: OF_HERE,
  knex_migrations: OF_HERE,
  knex_migrations_lock: OF_HERE,
  postings: OF_HERE,
  search_words: OF_HERE,
  upload_cuts: OF_HERE,
  loose_uploads: OF_HERE,
  draft_openings: PASSING,
  idempotency_keys: PASSING,
  import_effects: PASSING,
  import_rows: PASSING,
  imports: PASSING,
  source_answers: PASSING,
  takeouts: PASSING,
  takeout_parts: PASSING,
  upload_parts: 'What was uploaded is in the folder uploads, each as the file it is.',
};

const SECRET =
  'It is a secret. Another is made where the archive is brought in, and shown when it is renewed there.';

const COUNTED = 'It is counted anew where the archive is brought in.';

/** Columns that are not in an archive, by table, and why. What holds a sealed secret gets another when it is brought in. */
export const LEFT_OUT_COLUMNS: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  people: { calendar_key: SECRET, sessions_key: SECRET, news_key: SECRET },
  occurrences: { settled_counts: COUNTED, settled_changes: COUNTED },
  hooks_in: { secret: SECRET },
  sheet_sources: { secret: SECRET },
  hooks_out: { secret: SECRET, secret_before: SECRET, before_until: SECRET },
  sources: { secret: SECRET },
  uploads: { bytes: 'They are the file itself.' },
};

/** Sealed secrets without which a row cannot be: table and column. */
export const SEALED: readonly (readonly [table: string, column: string])[] = [
  ['hooks_in', 'secret'],
  ['hooks_out', 'secret'],
];
