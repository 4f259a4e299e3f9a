import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE roll (
    occurrence_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    answered_at DATETIME(3) NULL,
    via ENUM('page', 'mail') NULL,
    PRIMARY KEY (occurrence_id, person_id),
    INDEX waiting_for_person (person_id, answered_at),
    INDEX roll_by_answer (occurrence_id, answered_at, person_id)
  ) COMMENT 'who was asked, and whether they have answered'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE roll');
}
