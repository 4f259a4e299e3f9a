import type { Knex } from 'knex';

/** What a chase is sent with, from what it follows up: its methods and its ask, to those who have not answered. */
const PLAN = `JSON_SET(s.plan, '$.audience', NULL, '$.boards', JSON_ARRAY(), '$.outside', JSON_ARRAY(),
  '$.contacts', JSON_EXTRACT('false', '$'), '$.timing', JSON_OBJECT('kind', 'now'))`;

/**
 * Chases are a kind of send of their own, with the text of the chase, beside the send they follow up; they were occurrences of that
 * send before. A column that only grows takes a further value, which nothing of before reads (0011). A chase that a process of before
 * writes while this version is started stays with what it follows up.
 */
export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE sends
    MODIFY COLUMN kind ENUM('send', 'test', 'correction', 'chase') NOT NULL DEFAULT 'send' COMMENT 'test: a copy to its author alone; chase: to those who have not answered',
    ADD COLUMN chases BIGINT UNSIGNED NULL COMMENT 'of a chase: the send it follows up',
    ADD COLUMN chase_send_id BIGINT UNSIGNED NULL COMMENT 'the send that its chases belong to from now on',
    ADD CONSTRAINT sends_chases FOREIGN KEY (chases) REFERENCES sends (id),
    ADD CONSTRAINT sends_chase_send FOREIGN KEY (chase_send_id) REFERENCES sends (id)`);
  await db.raw(`INSERT INTO sends (announcement_id, version_id, created_by, plan, idempotency_key, kind, run_id, hook_id, to_one, chases)
    SELECT s.announcement_id, t.version_id, s.created_by, ${PLAN}, CONCAT('chases.', s.id, '.', t.version_id), 'chase', s.run_id, s.hook_id,
      s.to_one, s.id
    FROM (SELECT send_id, version_id FROM occurrences WHERE chases IS NOT NULL
          UNION SELECT id, chase_version_id FROM sends WHERE chase_version_id IS NOT NULL) t JOIN sends s ON s.id = t.send_id`);
  await db.raw(`UPDATE occurrences o JOIN sends c ON c.chases = o.send_id AND c.version_id = o.version_id
    SET o.send_id = c.id WHERE o.chases IS NOT NULL`);
  await db.raw(`UPDATE sends s JOIN sends c ON c.chases = s.id AND c.version_id = s.chase_version_id
    SET s.chase_send_id = c.id`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`UPDATE sends s JOIN sends c ON c.id = s.chase_send_id SET s.chase_version_id = c.version_id`);
  await db.raw(
    `UPDATE occurrences o JOIN sends c ON c.id = o.send_id AND c.kind = 'chase' SET o.send_id = c.chases`,
  );
  await db.raw(`UPDATE sends SET chase_send_id = NULL`);
  await db.raw(`DELETE FROM sends WHERE kind = 'chase'`);
  await db.raw(`ALTER TABLE sends
    DROP FOREIGN KEY sends_chases,
    DROP FOREIGN KEY sends_chase_send,
    DROP COLUMN chases,
    DROP COLUMN chase_send_id,
    MODIFY COLUMN kind ENUM('send', 'test', 'correction') NOT NULL DEFAULT 'send' COMMENT 'test: a copy to its author alone'`);
}
