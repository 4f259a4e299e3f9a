import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

/** One text as the first of a run of sections, in the shape of `sectionSchema`. */
const asSections = (document: string): string =>
  `JSON_ARRAY(JSON_OBJECT('id', 's1', 'heading', '', 'accent', 'none', 'document', JSON_COMPACT(${document}),
     'image', NULL, 'files', JSON_ARRAY()))`;

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE series (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(120) NOT NULL UNIQUE,
    banner JSON NULL COMMENT 'an image that stands over every issue',
    heading VARCHAR(120) NOT NULL DEFAULT '' COMMENT 'how a title begins; {number} is the number of the issue',
    byline VARCHAR(120) NOT NULL DEFAULT '',
    categories JSON NOT NULL,
    next_number INT UNSIGNED NOT NULL DEFAULT 1
  ) ${UNICODE}`);
  await db.raw(`ALTER TABLE announcements
    MODIFY COLUMN state ENUM('draft', 'committed', 'template') NOT NULL DEFAULT 'draft',
    ADD COLUMN review ENUM('none', 'for review', 'cleared') NOT NULL DEFAULT 'none',
    ADD COLUMN review_by BIGINT UNSIGNED NULL COMMENT 'who handed it on for review, or cleared it',
    ADD COLUMN review_at DATETIME(3) NULL`);
  await db.raw(
    `UPDATE announcements SET content = JSON_REMOVE(JSON_SET(content, '$.sections', ${asSections("JSON_QUERY(content, '$.document')")}), '$.document')
     WHERE JSON_EXISTS(content, '$.document')`,
  );
  await db.raw(`ALTER TABLE announcement_versions
    MODIFY COLUMN kind ENUM('sent', 'overwritten', 'saved', 'for review', 'cleared') NOT NULL,
    ADD COLUMN body JSON NULL COMMENT 'sections, button and event',
    ADD COLUMN series_id BIGINT UNSIGNED NULL,
    ADD COLUMN category VARCHAR(60) NOT NULL DEFAULT '',
    ADD COLUMN number INT UNSIGNED NULL COMMENT 'of the issue, given when it was confirmed',
    ADD INDEX issues_of (series_id, number),
    ADD FOREIGN KEY (series_id) REFERENCES series (id)`);
  await db.raw(
    `UPDATE announcement_versions SET body = JSON_OBJECT('sections', ${asSections('document')},
       'button', IF(button_label IS NULL, NULL, JSON_OBJECT('label', button_label, 'url', button_url)), 'event', NULL)`,
  );
  await db.raw(`ALTER TABLE announcement_versions MODIFY COLUMN body JSON NOT NULL,
    DROP COLUMN document, DROP COLUMN button_label, DROP COLUMN button_url`);
  await db.raw(`CREATE TABLE uploads (
    upload_key CHAR(22) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY COMMENT '128 random bits, base64url',
    uploaded_by BIGINT UNSIGNED NOT NULL,
    uploaded_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    name VARCHAR(200) NOT NULL,
    mime VARCHAR(120) CHARACTER SET ascii NOT NULL COMMENT 'as found in the bytes, never as claimed',
    width INT UNSIGNED NULL,
    height INT UNSIGNED NULL,
    bytes LONGBLOB NOT NULL,
    FOREIGN KEY (uploaded_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE comments (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    announcement_id BIGINT UNSIGNED NOT NULL,
    author_id BIGINT UNSIGNED NOT NULL,
    text VARCHAR(2000) NOT NULL,
    mentions JSON NOT NULL COMMENT 'ids of the people called',
    written_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    settled_at DATETIME(3) NULL,
    settled_by BIGINT UNSIGNED NULL,
    INDEX comments_of (announcement_id, id),
    FOREIGN KEY (announcement_id) REFERENCES announcements (id) ON DELETE CASCADE,
    FOREIGN KEY (author_id) REFERENCES people (id),
    FOREIGN KEY (settled_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw('ALTER TABLE boards ADD COLUMN section_limit TINYINT UNSIGNED NOT NULL DEFAULT 10');
  await db.raw(`ALTER TABLE posts
    ADD COLUMN part TINYINT UNSIGNED NOT NULL DEFAULT 1,
    ADD COLUMN parts TINYINT UNSIGNED NOT NULL DEFAULT 1,
    ADD COLUMN part_size TINYINT UNSIGNED NOT NULL DEFAULT 60 COMMENT 'sections in a part, as the board had it then',
    ADD UNIQUE KEY part_posted_once (occurrence_id, board_id, part),
    DROP KEY posted_once`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE comments, uploads');
}
