import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE shelf_questions
    ADD COLUMN note VARCHAR(600) NOT NULL DEFAULT '' COMMENT 'what the answers that were offered lack',
    ADD COLUMN offered VARCHAR(200) CHARACTER SET ascii NOT NULL DEFAULT '[]' COMMENT 'the answers that were offered, by their numbers, as JSON',
    ADD COLUMN named BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'whether whoever asked may be named where it is answered for all',
    ADD COLUMN again_of BIGINT UNSIGNED NULL COMMENT 'the question of theirs that this asks again'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(
    'ALTER TABLE shelf_questions DROP COLUMN again_of, DROP COLUMN named, DROP COLUMN offered, DROP COLUMN note',
  );
}
