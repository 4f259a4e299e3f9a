import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE outbox (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    topic VARCHAR(80) CHARACTER SET ascii NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT NOW(3),
    INDEX outbox_by_time (at)
  ) COMMENT 'what happened, written in the transaction in which it happened'`);
  await db.raw(`CREATE TABLE audit (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    at DATETIME(3) NOT NULL DEFAULT NOW(3),
    actor_id BIGINT UNSIGNED NULL,
    action VARCHAR(60) NOT NULL,
    subject VARCHAR(60) NOT NULL,
    subject_id BIGINT UNSIGNED NULL,
    detail JSON NULL,
    INDEX audit_of_subject (subject, subject_id, id)
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE audit, outbox');
}
