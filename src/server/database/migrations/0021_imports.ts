import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE imports (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    file_name VARCHAR(200) NOT NULL,
    columns JSON NOT NULL COMMENT 'what each heading was matched with',
    date_order ENUM('day first', 'month first') NOT NULL,
    state ENUM('open', 'compared', 'applied', 'undone') NOT NULL DEFAULT 'open',
    marks_left BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'whether those not in it are marked as left',
    missing INT UNSIGNED NOT NULL DEFAULT 0,
    new_stations JSON NOT NULL DEFAULT '[]',
    digest CHAR(32) CHARACTER SET ascii NOT NULL DEFAULT '',
    made_by BIGINT UNSIGNED NOT NULL,
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    applied_at DATETIME(3) NULL,
    undone_at DATETIME(3) NULL,
    FOREIGN KEY (made_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE import_rows (
    import_id BIGINT UNSIGNED NOT NULL,
    line INT UNSIGNED NOT NULL,
    raw JSON NOT NULL,
    outcome ENUM('new', 'changed', 'returns', 'same', 'clash', 'wrong') NULL COMMENT 'null until it was compared',
    person_id BIGINT UNSIGNED NULL,
    changes JSON NULL,
    why VARCHAR(1000) NOT NULL DEFAULT '',
    choices JSON NULL,
    decision ENUM('same person', 'new person', 'leave out') NULL,
    PRIMARY KEY (import_id, line),
    INDEX rows_by_outcome (import_id, outcome, line),
    FOREIGN KEY (import_id) REFERENCES imports (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE import_effects (
    import_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    kind ENUM('added', 'changed', 'returned', 'left') NOT NULL,
    changes JSON NOT NULL COMMENT 'what was changed, from and to, for undoing it',
    PRIMARY KEY (import_id, person_id),
    FOREIGN KEY (import_id) REFERENCES imports (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw('ALTER TABLE audit ADD INDEX audit_by_time (at), ADD INDEX audit_by_actor (actor_id, id)');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE audit DROP INDEX audit_by_time, DROP INDEX audit_by_actor');
  await db.raw('DROP TABLE import_effects, import_rows, imports');
}
