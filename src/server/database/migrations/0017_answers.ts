import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';
const KINDS = `ENUM('mention', 'reply', 'post', 'held', 'decision', 'report', 'thanks', 'shelf', 'announcement', 'outcome')`;

export async function up(db: Knex): Promise<void> {
  // A chase is an occurrence of the same send, for those who had not answered when it came due.
  await db.raw(`ALTER TABLE occurrences
    ADD COLUMN chases BIGINT UNSIGNED NULL COMMENT 'of a chase: the occurrence whose roll it follows up',
    ADD FOREIGN KEY (chases) REFERENCES occurrences (id)`);
  await db.raw(`ALTER TABLE sends
    ADD COLUMN chase_version_id BIGINT UNSIGNED NULL COMMENT 'the text of its chases',
    ADD FOREIGN KEY (chase_version_id) REFERENCES announcement_versions (id)`);
  await db.raw(`ALTER TABLE announcement_versions
    MODIFY COLUMN kind ENUM('sent', 'overwritten', 'saved', 'for review', 'cleared', 'chase') NOT NULL`);
  // Called off: of a chase, because they answered before it went.
  await db.raw(`ALTER TABLE deliveries
    MODIFY COLUMN state ENUM('waiting', 'sending', 'delivered', 'failed', 'resting', 'called off') NOT NULL`);
  await db.raw(`ALTER TABLE roll MODIFY COLUMN via ENUM('page', 'mail', 'push') NULL`);
  await db.raw(`CREATE TABLE asks (
    occurrence_id BIGINT UNSIGNED PRIMARY KEY,
    kind ENUM('acknowledgement', 'poll', 'check-in') NOT NULL,
    closes_at DATETIME(3) NULL COMMENT 'takes no answers from then on',
    closes_when_all BOOLEAN NOT NULL DEFAULT FALSE,
    joiners BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'whoever joins its audience later is asked too',
    joiners_at DATETIME(3) NULL COMMENT 'when they are looked for next',
    list_at DATETIME(3) NULL COMMENT 'when the owners of groups are told who is still missing',
    closed_at DATETIME(3) NULL,
    closed_by BIGINT UNSIGNED NULL,
    closed_why ENUM('hand', 'time', 'all') NULL,
    shown LONGTEXT NULL COMMENT 'of an open anonymous poll: its ballots as far as they are shown',
    shown_n INT UNSIGNED NOT NULL DEFAULT 0,
    settled_at DATETIME(3) NULL COMMENT 'when its outcome or digest had been posted',
    INDEX asks_to_close (closed_at, closes_at),
    INDEX asks_to_settle (settled_at, closed_at),
    INDEX asks_to_list (list_at),
    INDEX asks_for_joiners (joiners_at),
    FOREIGN KEY (occurrence_id) REFERENCES occurrences (id),
    FOREIGN KEY (closed_by) REFERENCES people (id)
  ) COMMENT 'what was asked and how far it is, from the moment it began to go out'`);
  await db.raw(`INSERT INTO asks (occurrence_id, kind)
    SELECT o.id, 'acknowledgement' FROM occurrences o JOIN sends s ON s.id = o.send_id
    WHERE o.state IN ('going out', 'sent') AND JSON_VALUE(s.plan, '$.ask.kind') = 'acknowledgement'`);
  await db.raw(`CREATE TABLE ask_options (
    occurrence_id BIGINT UNSIGNED NOT NULL,
    id SMALLINT UNSIGNED NOT NULL,
    label VARCHAR(160) NOT NULL,
    wall CHAR(16) CHARACTER SET ascii NULL COMMENT 'of a date: its wall-clock time',
    zone VARCHAR(64) CHARACTER SET ascii NULL,
    added_by BIGINT UNSIGNED NOT NULL,
    added_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    PRIMARY KEY (occurrence_id, id),
    FOREIGN KEY (occurrence_id) REFERENCES occurrences (id),
    FOREIGN KEY (added_by) REFERENCES people (id)
  ) ${UNICODE} COMMENT 'options added after a poll had gone out'`);
  // A named ballot's key is its voter's number. An anonymous one's is made from the voter and the installation's secret,
  // which the database does not hold; it carries neither a person nor a time, and lies in no order of casting.
  await db.raw(`CREATE TABLE ballots (
    occurrence_id BIGINT UNSIGNED NOT NULL,
    ballot_key BINARY(16) NOT NULL,
    person_id BIGINT UNSIGNED NULL COMMENT 'of a named poll',
    station_id BIGINT UNSIGNED NULL COMMENT 'of an anonymous poll, where enough were asked there',
    choice VARCHAR(1200) COLLATE utf8mb4_bin NOT NULL,
    PRIMARY KEY (occurrence_id, ballot_key),
    INDEX ballots_of_person (person_id, occurrence_id)
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin`);
  await db.raw(`CREATE TABLE earlier_answers (
    occurrence_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    version_id BIGINT UNSIGNED NOT NULL COMMENT 'the text they had acknowledged',
    answered_at DATETIME(3) NOT NULL,
    via ENUM('page', 'mail', 'push') NULL,
    PRIMARY KEY (occurrence_id, person_id, version_id)
  ) COMMENT 'kept when a text changed in substance and was asked again'`);
  await db.raw(`CREATE TABLE check_ins (
    occurrence_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    answered_at DATETIME(3) NOT NULL,
    blocked BOOLEAN NOT NULL DEFAULT FALSE,
    unblocked_at DATETIME(3) NULL,
    unblocked_by BIGINT UNSIGNED NULL,
    PRIMARY KEY (occurrence_id, person_id),
    INDEX check_ins_of_person (person_id, answered_at)
  )`);
  await db.raw(`CREATE TABLE check_in_answers (
    occurrence_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    question SMALLINT UNSIGNED NOT NULL COMMENT 'its place, from 0',
    text VARCHAR(1000) NOT NULL,
    PRIMARY KEY (occurrence_id, person_id, question)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE check_in_replies (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    occurrence_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL COMMENT 'whose check-in it replies to',
    author_id BIGINT UNSIGNED NOT NULL,
    text VARCHAR(1000) NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT NOW(3),
    idempotency_key VARCHAR(80) CHARACTER SET ascii NOT NULL,
    UNIQUE KEY said_once (author_id, idempotency_key),
    INDEX replies_to (occurrence_id, person_id, id),
    FOREIGN KEY (author_id) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(
    "ALTER TABLE people ADD COLUMN work_days TINYINT UNSIGNED NOT NULL DEFAULT 31 COMMENT 'a bit a day, Monday the lowest'",
  );
  await db.raw(`CREATE TABLE absences (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    person_id BIGINT UNSIGNED NOT NULL,
    from_on DATE NOT NULL,
    to_on DATE NOT NULL COMMENT 'the last day away',
    INDEX absences_of (person_id, to_on),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  )`);
  await db.raw(`CREATE TABLE holidays (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    on_date DATE NOT NULL,
    name VARCHAR(120) NOT NULL,
    station_id BIGINT UNSIGNED NULL COMMENT 'null: at every station',
    INDEX holidays_by_date (on_date),
    FOREIGN KEY (station_id) REFERENCES stations (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw(`ALTER TABLE \`groups\`
    ADD COLUMN owner_id BIGINT UNSIGNED NULL COMMENT 'sees the rolls of this group, and is told who is missing',
    ADD INDEX groups_by_owner (owner_id),
    ADD FOREIGN KEY (owner_id) REFERENCES people (id)`);
  await db.raw(`ALTER TABLE notices MODIFY COLUMN kind ${KINDS} NOT NULL`);
  await db.raw(`ALTER TABLE notice_choices MODIFY COLUMN kind ${KINDS} NOT NULL`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE `groups` DROP FOREIGN KEY groups_ibfk_1, DROP COLUMN owner_id');
  await db.raw(
    'DROP TABLE holidays, absences, check_in_replies, check_in_answers, check_ins, earlier_answers, ballots, ask_options, asks',
  );
}
