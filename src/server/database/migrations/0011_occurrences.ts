import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE sends
    ADD COLUMN state ENUM('active', 'paused', 'ended') NOT NULL DEFAULT 'active',
    ADD COLUMN kind ENUM('send', 'test', 'correction') NOT NULL DEFAULT 'send' COMMENT 'test: a copy to its author alone',
    ADD COLUMN recurring BOOLEAN AS (JSON_VALUE(plan, '$.timing.kind') = 'recurring') PERSISTENT,
    ADD COLUMN planned_until DATETIME(3) NULL COMMENT 'of what recurs: up to here occurrences are written',
    ADD INDEX to_be_planned (recurring, state, planned_until)`);
  await db.raw(`ALTER TABLE occurrences
    ADD COLUMN version_id BIGINT UNSIGNED NULL COMMENT 'the text it goes out with, or was corrected to',
    ADD COLUMN recurs_at CHAR(16) CHARACTER SET ascii NOT NULL DEFAULT '' COMMENT 'the wall-clock time the rule gave, RECURRENCE-ID',
    ADD COLUMN ends_at DATETIME(3) NULL COMMENT 'when the last of it is due',
    ADD COLUMN moved_to CHAR(16) CHARACTER SET ascii NULL COMMENT 'the wall-clock time it was set to instead of its rule''s',
    ADD COLUMN corrected_at DATETIME(3) NULL,
    ADD COLUMN correction VARCHAR(300) NULL COMMENT 'what was corrected, for its readers',
    ADD UNIQUE KEY recurs_once (send_id, recurs_at),
    DROP KEY planned_once,
    DROP COLUMN sequence,
    ADD FOREIGN KEY (version_id) REFERENCES announcement_versions (id)`);
  await db.raw(
    'UPDATE occurrences o JOIN sends s ON s.id = o.send_id SET o.version_id = s.version_id, o.ends_at = o.due_at',
  );
  await db.raw(
    'ALTER TABLE occurrences MODIFY COLUMN version_id BIGINT UNSIGNED NOT NULL, MODIFY COLUMN ends_at DATETIME(3) NOT NULL',
  );
  // Held: its send is paused. Skipped: the hour had passed in that zone, and its readers do not get it.
  await db.raw(`ALTER TABLE buckets
    MODIFY COLUMN state ENUM('planned', 'held', 'expanding', 'expanded', 'skipped', 'recalled', 'failed') NOT NULL DEFAULT 'planned',
    ADD COLUMN fate ENUM('as planned', 'at once', 'next day', 'not') NOT NULL DEFAULT 'as planned',
    ADD COLUMN sweeps BOOLEAN NOT NULL DEFAULT TRUE COMMENT 'the last of its occurrence: takes along whoever changed zone and was missed'`);
  // Resting: of the inbox, until the end of the reader's quiet hours.
  await db.raw(`ALTER TABLE deliveries
    MODIFY COLUMN state ENUM('waiting', 'sending', 'delivered', 'failed', 'resting') NOT NULL,
    DROP COLUMN late_ms,
    ADD COLUMN read_at DATETIME(3) NULL COMMENT 'of the inbox: when it was first opened'`);
  // Wider than an INT: after an outage of 25 days what goes late must still go.
  await db.raw(
    'ALTER TABLE deliveries ADD COLUMN late_ms BIGINT AS (TIMESTAMPDIFF(MICROSECOND, due_at, went_at) DIV 1000) PERSISTENT',
  );
  await db.raw(`ALTER TABLE announcements
    ADD COLUMN revises BIGINT UNSIGNED NULL COMMENT 'a draft that changes a recurring send: which',
    ADD COLUMN corrects BIGINT UNSIGNED NULL COMMENT 'a draft that corrects what has gone: which occurrence',
    ADD FOREIGN KEY (revises) REFERENCES sends (id),
    ADD FOREIGN KEY (corrects) REFERENCES occurrences (id)`);
  await db.raw(`CREATE TABLE sign_ups (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    occurrence_id BIGINT UNSIGNED NOT NULL,
    shared_by BIGINT UNSIGNED NOT NULL COMMENT 'whose link it came through',
    name VARCHAR(160) NOT NULL,
    mail VARCHAR(254) NOT NULL,
    signed_up_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    UNIQUE KEY signed_up_once (occurrence_id, mail),
    INDEX sign_ups_by_sharer (occurrence_id, shared_by),
    FOREIGN KEY (occurrence_id) REFERENCES occurrences (id),
    FOREIGN KEY (shared_by) REFERENCES people (id)
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE sign_ups');
}
