import type { Knex } from 'knex';

const BUNDLING = "ENUM('as it comes', 'hourly', 'three times', 'twice', 'daily')";

export async function up(db: Knex): Promise<void> {
  await db.raw(
    `ALTER TABLE organisation ADD COLUMN bundling ${BUNDLING} NOT NULL DEFAULT 'as it comes' COMMENT 'when routine mail and push messages come'`,
  );
  await db.raw(
    `ALTER TABLE \`groups\` ADD COLUMN bundling ${BUNDLING} NULL COMMENT 'null is as the organisation has it'`,
  );
  await db.raw(
    `ALTER TABLE people ADD COLUMN bundling ${BUNDLING} NULL COMMENT 'their own choice; null is as their groups or the organisation have it', ADD INDEX people_by_bundling (bundling)`,
  );
  await db.raw(
    "ALTER TABLE deliveries ADD COLUMN bundle_at DATETIME(3) NULL COMMENT 'of mail that waits to go together with other mail of the same person: when'",
  );
  await db.raw(
    "ALTER TABLE notices MODIFY COLUMN push_state ENUM('no', 'waiting', 'daily', 'bundled', 'sending', 'sent', 'failed') NOT NULL DEFAULT 'no'",
  );
}

export async function down(db: Knex): Promise<void> {
  await db.raw("UPDATE notices SET push_state = 'waiting' WHERE push_state = 'bundled'");
  await db.raw(
    "ALTER TABLE notices MODIFY COLUMN push_state ENUM('no', 'waiting', 'daily', 'sending', 'sent', 'failed') NOT NULL DEFAULT 'no'",
  );
  await db.raw('ALTER TABLE deliveries DROP COLUMN bundle_at');
  await db.raw('ALTER TABLE people DROP COLUMN bundling');
  await db.raw('ALTER TABLE `groups` DROP COLUMN bundling');
  await db.raw('ALTER TABLE organisation DROP COLUMN bundling');
}
