import type { Knex } from 'knex';

/** An announcement on its way to an outside place is a handover too: retried, kept in order and logged like an event. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE hook_deliveries
    MODIFY COLUMN state ENUM('waiting', 'sending', 'delivered', 'failed', 'called off') NOT NULL DEFAULT 'waiting',
    ADD COLUMN occurrence_id BIGINT UNSIGNED NULL COMMENT 'the going-out it carries',
    ADD COLUMN due_at DATETIME(3) NULL COMMENT 'when the going-out was due there',
    ADD COLUMN sent_body MEDIUMTEXT NULL COMMENT 'the body as it was last handed over',
    ADD COLUMN late_ms BIGINT AS (TIMESTAMPDIFF(MICROSECOND, due_at, ended_at) DIV 1000) PERSISTENT,
    ADD INDEX deliveries_of_occurrence (occurrence_id, state)`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("UPDATE hook_deliveries SET state = 'failed' WHERE state = 'called off'");
  await db.raw(`ALTER TABLE hook_deliveries DROP INDEX deliveries_of_occurrence, DROP COLUMN late_ms, DROP COLUMN sent_body,
    DROP COLUMN due_at, DROP COLUMN occurrence_id,
    MODIFY COLUMN state ENUM('waiting', 'sending', 'delivered', 'failed') NOT NULL DEFAULT 'waiting'`);
}
