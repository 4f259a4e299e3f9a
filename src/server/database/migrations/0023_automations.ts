import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';
const ASIDE = "'closing', 'list', 'joiners', 'planning', 'sending', 'notice', 'finding', 'telling'";

async function makeSheets(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE sheets (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL UNIQUE,
    purpose VARCHAR(300) NOT NULL DEFAULT '',
    columns JSON NOT NULL,
    form JSON NULL,
    form_key CHAR(22) CHARACTER SET ascii COLLATE ascii_bin NULL UNIQUE COMMENT 'the unguessable part of the address of its form',
    revision INT UNSIGNED NOT NULL DEFAULT 1,
    made_by BIGINT UNSIGNED NOT NULL,
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    FOREIGN KEY (made_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE records (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    sheet_id BIGINT UNSIGNED NOT NULL,
    cells JSON NOT NULL COMMENT 'by the ids of its columns',
    from_form BOOLEAN NOT NULL DEFAULT FALSE,
    intent VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL COMMENT 'of a form: sent twice it is one record',
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    changed_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    changed_by BIGINT UNSIGNED NULL COMMENT 'null where somebody outside filled in a form',
    INDEX records_of_sheet (sheet_id, id),
    UNIQUE KEY sent_once (sheet_id, intent),
    FOREIGN KEY (sheet_id) REFERENCES sheets (id) ON DELETE CASCADE,
    FOREIGN KEY (changed_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE record_changes (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    record_id BIGINT UNSIGNED NOT NULL,
    before_cells JSON NOT NULL,
    after_cells JSON NOT NULL,
    changed_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    changed_by BIGINT UNSIGNED NULL,
    INDEX changes_of_record (record_id, id),
    FOREIGN KEY (record_id) REFERENCES records (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE identities (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    person_id BIGINT UNSIGNED NOT NULL,
    in_system VARCHAR(40) NOT NULL,
    value VARCHAR(200) NOT NULL,
    folded VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL COMMENT 'as it is matched: by stated rules, never by guess',
    UNIQUE KEY identity_once (in_system, folded),
    INDEX identities_of (person_id),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  ) ${UNICODE}`);
}

async function makeAutomations(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE senders (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL UNIQUE COMMENT 'whom what is said by itself comes from'
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE sources (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL UNIQUE,
    source JSON NOT NULL COMMENT 'its address, and what of its answer is used',
    secret VARBINARY(1000) NULL COMMENT 'sealed',
    made_by BIGINT UNSIGNED NOT NULL,
    FOREIGN KEY (made_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE source_answers (
    source_id BIGINT UNSIGNED NOT NULL,
    asked BINARY(32) NOT NULL COMMENT 'hash of the address that was asked',
    answer JSON NOT NULL,
    answered_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    PRIMARY KEY (source_id, asked),
    INDEX answers_by_age (answered_at),
    FOREIGN KEY (source_id) REFERENCES sources (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE automations (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    owner_id BIGINT UNSIGNED NOT NULL,
    state ENUM('off', 'on', 'paused') NOT NULL DEFAULT 'off',
    why_paused VARCHAR(300) NULL,
    draft JSON NOT NULL,
    revision INT UNSIGNED NOT NULL DEFAULT 1,
    saved_by BIGINT UNSIGNED NOT NULL,
    saved_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    live_version_id BIGINT UNSIGNED NULL,
    failures INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'runs that failed one after another',
    INDEX automations_by_state (state),
    FOREIGN KEY (owner_id) REFERENCES people (id),
    FOREIGN KEY (saved_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE automation_versions (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    automation_id BIGINT UNSIGNED NOT NULL,
    number INT UNSIGNED NOT NULL,
    automation JSON NOT NULL,
    published_by BIGINT UNSIGNED NOT NULL,
    published_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    UNIQUE KEY version_once (automation_id, number),
    FOREIGN KEY (automation_id) REFERENCES automations (id) ON DELETE CASCADE,
    FOREIGN KEY (published_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(
    'ALTER TABLE automations ADD FOREIGN KEY (live_version_id) REFERENCES automation_versions (id)',
  );
  // The unique key is the promise that a cause is handled once, however many engines run and whenever one is killed.
  await db.raw(`CREATE TABLE automation_runs (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    automation_id BIGINT UNSIGNED NOT NULL,
    version_id BIGINT UNSIGNED NOT NULL,
    cause_key VARCHAR(80) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    cause JSON NOT NULL,
    due_at DATETIME(3) NOT NULL,
    state ENUM('waiting', 'running', 'said', 'nothing', 'held', 'lapsed', 'failed') NOT NULL DEFAULT 'waiting',
    lease_owner VARCHAR(64) CHARACTER SET ascii NULL,
    try_at DATETIME(3) NOT NULL COMMENT 'waiting: when it may be taken; running: when the claim ends',
    attempts SMALLINT UNSIGNED NOT NULL DEFAULT 0,
    matched INT UNSIGNED NOT NULL DEFAULT 0,
    said INT UNSIGNED NOT NULL DEFAULT 0,
    kept_back INT UNSIGNED NOT NULL DEFAULT 0,
    reason VARCHAR(300) NULL,
    ended_at DATETIME(3) NULL,
    UNIQUE KEY cause_once (automation_id, cause_key),
    INDEX runs_to_do (state, try_at),
    INDEX runs_by_end (automation_id, ended_at),
    INDEX runs_by_time (ended_at),
    FOREIGN KEY (automation_id) REFERENCES automations (id) ON DELETE CASCADE,
    FOREIGN KEY (version_id) REFERENCES automation_versions (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE automation_sayings (
    run_id BIGINT UNSIGNED NOT NULL,
    item VARCHAR(160) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL COMMENT 'which of what was spoken of',
    about VARCHAR(160) NOT NULL COMMENT 'what of, in words',
    occurrence_id BIGINT UNSIGNED NULL COMMENT 'what went out; null where it was kept back',
    otherwise BOOLEAN NOT NULL DEFAULT FALSE,
    reason VARCHAR(300) NULL COMMENT 'why it was kept back, or went the other way',
    missing_system VARCHAR(40) NULL,
    missing_value VARCHAR(200) NULL COMMENT 'who was not found in the directory',
    PRIMARY KEY (run_id, item),
    INDEX sayings_of_occurrence (occurrence_id),
    INDEX sayings_missing (missing_system, missing_value),
    FOREIGN KEY (run_id) REFERENCES automation_runs (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE record_matches (
    automation_id BIGINT UNSIGNED NOT NULL,
    record_id BIGINT UNSIGNED NOT NULL,
    holds BOOLEAN NOT NULL,
    PRIMARY KEY (automation_id, record_id),
    FOREIGN KEY (automation_id) REFERENCES automations (id) ON DELETE CASCADE,
    FOREIGN KEY (record_id) REFERENCES records (id) ON DELETE CASCADE
  ) COMMENT 'for which records an automation has seen its condition hold'`);
  await db.raw(`CREATE TABLE watched_groups (
    group_id BIGINT UNSIGNED PRIMARY KEY,
    since DATETIME(3) NOT NULL DEFAULT NOW(3)
  ) COMMENT 'groups whose comings and goings are noted'`);
  await db.raw(`CREATE TABLE group_comings (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    group_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    came_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    went_at DATETIME(3) NULL,
    first_look BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'was in it already when it was first looked at',
    is_in TINYINT AS (IF(went_at IS NULL, 1, NULL)) PERSISTENT,
    UNIQUE KEY in_once (group_id, person_id, is_in),
    INDEX comings_by_time (group_id, came_at)
  ) COMMENT 'who came into a group that automations watch, and went out of it'`);
}

export async function up(db: Knex): Promise<void> {
  await makeSheets(db);
  await makeAutomations(db);
  await db.raw(`ALTER TABLE sends
    ADD COLUMN run_id BIGINT UNSIGNED NULL COMMENT 'the run of an automation that said it',
    ADD COLUMN to_one BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'said by an automation to one person',
    ADD INDEX sends_of_run (run_id)`);
  await db.raw(
    "INSERT INTO event_positions (name, position) SELECT 'acting', position FROM event_positions WHERE name = 'last'",
  );
  await db.raw(`ALTER TABLE set_aside MODIFY kind ENUM(${ASIDE}, 'acting') NOT NULL`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("DELETE FROM set_aside WHERE kind = 'acting'");
  await db.raw(`ALTER TABLE set_aside MODIFY kind ENUM(${ASIDE}) NOT NULL`);
  await db.raw("DELETE FROM event_positions WHERE name = 'acting'");
  await db.raw('ALTER TABLE sends DROP INDEX sends_of_run, DROP COLUMN run_id, DROP COLUMN to_one');
  await db.raw('ALTER TABLE automations DROP FOREIGN KEY automations_ibfk_3');
  await db.raw(
    'DROP TABLE group_comings, watched_groups, record_matches, automation_sayings, automation_runs, automation_versions, automations, source_answers, sources, senders, identities, record_changes, records, sheets',
  );
}
