import type { Knex } from 'knex';

/**
 * A chase has a key of its own, unique among those of what it follows up, and no time of a recurrence: what it had in that
 * column has been read by nothing since there are chases (0017), but for being unique, which the new key is. A chase that a process
 * of before writes while this version is started has no key; it is followed up and called off as any other is.
 */
export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE occurrences
    MODIFY COLUMN recurs_at CHAR(16) CHARACTER SET ascii NULL DEFAULT '' COMMENT 'the wall-clock time the rule gave, RECURRENCE-ID; empty where nothing recurs, null of a chase',
    ADD COLUMN chase_key VARCHAR(16) CHARACTER SET ascii NULL COMMENT 'of a chase: which one of what it follows up',
    ADD UNIQUE KEY chased_once (chases, chase_key)`);
  await db.raw(`UPDATE occurrences SET chase_key = SUBSTRING_INDEX(recurs_at, '.', -1), recurs_at = NULL
    WHERE chases IS NOT NULL AND recurs_at LIKE 'c%.%'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`UPDATE occurrences SET recurs_at = CONCAT('c', CONVERT(LOWER(CONV(chases, 10, 36)) USING ascii), '.', chase_key)
    WHERE chases IS NOT NULL AND chase_key IS NOT NULL`);
  await db.raw(`ALTER TABLE occurrences
    ADD INDEX chases (chases),
    DROP INDEX chased_once,
    DROP COLUMN chase_key,
    MODIFY COLUMN recurs_at CHAR(16) CHARACTER SET ascii NOT NULL DEFAULT '' COMMENT 'the wall-clock time the rule gave, RECURRENCE-ID'`);
}
