import type { Knex } from 'knex';

/** Who may change an automation beside whoever looks after it. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE automation_people (
    automation_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    PRIMARY KEY (automation_id, person_id),
    INDEX automations_of_person (person_id),
    FOREIGN KEY (automation_id) REFERENCES automations (id) ON DELETE CASCADE,
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  ) COMMENT 'who may change an automation beside its owner and coordinators'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE automation_people');
}
