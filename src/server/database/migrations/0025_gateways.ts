import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';
const ASIDE = "'closing', 'list', 'joiners', 'planning', 'sending', 'notice', 'finding', 'telling', 'acting'";

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE hooks_in (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL,
    address_key CHAR(22) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    secret VARBINARY(300) NOT NULL COMMENT 'sealed',
    hook JSON NOT NULL,
    is_on BOOLEAN NOT NULL DEFAULT TRUE,
    revision INT UNSIGNED NOT NULL DEFAULT 1,
    owner_id BIGINT UNSIGNED NOT NULL COMMENT 'whose rights count for what comes in',
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    UNIQUE KEY hook_by_name (name),
    UNIQUE KEY hook_by_address (address_key),
    FOREIGN KEY (owner_id) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE hook_calls (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    hook_id BIGINT UNSIGNED NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT NOW(3),
    message_id VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL DEFAULT '' COMMENT 'as it came: letters of another size are another id',
    outcome ENUM('taken', 'repeated', 'refused') NOT NULL,
    status SMALLINT UNSIGNED NOT NULL,
    reason VARCHAR(300) NULL,
    post_id BIGINT UNSIGNED NULL,
    occurrence_id BIGINT UNSIGNED NULL,
    body VARCHAR(2000) NOT NULL DEFAULT '' COMMENT 'what came, cut short',
    INDEX calls_of_hook (hook_id, id),
    INDEX calls_by_message (hook_id, message_id),
    FOREIGN KEY (hook_id) REFERENCES hooks_in (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE hooks_out (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL,
    secret VARBINARY(300) NOT NULL COMMENT 'sealed',
    secret_before VARBINARY(300) NULL COMMENT 'sealed; signs too until its time is over',
    before_until DATETIME(3) NULL,
    hook JSON NOT NULL,
    state ENUM('off', 'on', 'paused') NOT NULL DEFAULT 'on',
    why_paused VARCHAR(300) NULL,
    failures INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'events that were given up one after another',
    revision INT UNSIGNED NOT NULL DEFAULT 1,
    owner_id BIGINT UNSIGNED NOT NULL,
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    UNIQUE KEY hook_by_name (name),
    INDEX hooks_by_state (state),
    FOREIGN KEY (owner_id) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE hook_deliveries (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    hook_id BIGINT UNSIGNED NOT NULL,
    event_key VARCHAR(80) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    kind VARCHAR(60) CHARACTER SET ascii NOT NULL,
    subject VARCHAR(80) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    body JSON NOT NULL COMMENT 'a CloudEvent',
    state ENUM('waiting', 'sending', 'delivered', 'failed') NOT NULL DEFAULT 'waiting',
    lease_owner VARCHAR(64) CHARACTER SET ascii NULL,
    try_at DATETIME(3) NOT NULL DEFAULT NOW(3) COMMENT 'waiting: when it may be tried; sending: when the claim ends',
    attempts SMALLINT UNSIGNED NOT NULL DEFAULT 0,
    status SMALLINT UNSIGNED NULL,
    reason VARCHAR(300) NULL,
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    ended_at DATETIME(3) NULL,
    UNIQUE KEY event_once (hook_id, event_key),
    INDEX deliveries_to_do (hook_id, state, try_at),
    INDEX deliveries_in_order (hook_id, subject, state, id),
    INDEX deliveries_by_end (ended_at),
    FOREIGN KEY (hook_id) REFERENCES hooks_out (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw(`ALTER TABLE sends
    ADD COLUMN hook_id BIGINT UNSIGNED NULL COMMENT 'the way in it came by',
    ADD INDEX sends_of_hook (hook_id)`);
  await db.raw("ALTER TABLE posts ADD COLUMN hook_id BIGINT UNSIGNED NULL COMMENT 'the way in it came by'");
  await db.raw(
    "INSERT INTO event_positions (name, position) SELECT 'passing', position FROM event_positions WHERE name = 'last'",
  );
  await db.raw(`ALTER TABLE set_aside MODIFY kind ENUM(${ASIDE}, 'passing') NOT NULL`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("DELETE FROM set_aside WHERE kind = 'passing'");
  await db.raw(`ALTER TABLE set_aside MODIFY kind ENUM(${ASIDE}) NOT NULL`);
  await db.raw("DELETE FROM event_positions WHERE name = 'passing'");
  await db.raw('ALTER TABLE posts DROP COLUMN hook_id');
  await db.raw('ALTER TABLE sends DROP INDEX sends_of_hook, DROP COLUMN hook_id');
  await db.raw('DROP TABLE hook_deliveries, hooks_out, hook_calls, hooks_in');
}
