import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE set_aside (
    kind ENUM('closing', 'list', 'joiners', 'planning', 'sending', 'notice') NOT NULL,
    subject_id BIGINT UNSIGNED NOT NULL,
    occurrence_id BIGINT UNSIGNED NULL COMMENT 'the send it belongs to, where it belongs to one',
    reason VARCHAR(300) NOT NULL,
    attempts SMALLINT UNSIGNED NOT NULL DEFAULT 1,
    try_at DATETIME(3) NOT NULL,
    given_up_at DATETIME(3) NULL,
    PRIMARY KEY (kind, subject_id)
  ) ${UNICODE} COMMENT 'work of the engine that failed by an error of its own, with when it is tried again'`);
  await db.raw(`CREATE TABLE idempotency_keys (
    person_id BIGINT UNSIGNED NOT NULL,
    key_hash BINARY(32) NOT NULL,
    request_hash BINARY(32) NOT NULL COMMENT 'method, path and body it was first used with',
    used_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    PRIMARY KEY (person_id, key_hash),
    INDEX idempotency_keys_by_age (used_at),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  )`);
  // What is pushed to a device ends with the session it was connected in.
  await db.raw(`ALTER TABLE devices
    ADD COLUMN session_hash BINARY(32) NULL,
    ADD FOREIGN KEY (session_hash) REFERENCES sessions (token_hash) ON DELETE CASCADE`);
  await db.raw(`CREATE TABLE upload_cuts (
    upload_key CHAR(22) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    cut VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    mime VARCHAR(40) CHARACTER SET ascii NOT NULL,
    bytes MEDIUMBLOB NOT NULL,
    PRIMARY KEY (upload_key, cut),
    FOREIGN KEY (upload_key) REFERENCES uploads (upload_key) ON DELETE CASCADE
  ) COMMENT 'images as they are shown, each cut once'`);
  await db.raw(`ALTER TABLE boards
    ADD COLUMN passing BOOLEAN NOT NULL DEFAULT TRUE COMMENT 'whether its posts may be passed on to other boards'`);
  await db.raw("UPDATE boards SET passing = (posting <> 'held')");
  await db.raw(`UPDATE boards b JOIN \`groups\` g ON g.id = b.group_id SET b.passing = FALSE
    WHERE g.kind = 'fixed' AND (SELECT COUNT(*) FROM group_members m WHERE m.group_id = g.id) < 20`);
  await partFromOriginals(db);
  await db.raw(`ALTER TABLE occurrences
    ADD COLUMN taken_back_at DATETIME(3) NULL COMMENT 'since when nothing more of it goes out'`);
  await db.raw(`ALTER TABLE asks
    ADD COLUMN shown_next LONGTEXT NULL COMMENT 'of an open anonymous poll: the stand that is shown once five more have voted',
    ADD COLUMN shown_next_n INT UNSIGNED NOT NULL DEFAULT 0`);
  // Words are cut and folded anew; the engine writes the index again.
  await db.raw("DELETE FROM postings WHERE kind IN ('announcement', 'post')");
  await db.raw("DELETE FROM findables WHERE kind IN ('announcement', 'post')");
  // Its table was made by the package in a character set that does not hold every address; it is made again.
  await db.raw('DROP TABLE IF EXISTS rate_limits');
}

/** What was passed on shared the text of its original, and its history. It gets words of its own: none, the original is quoted. */
async function partFromOriginals(db: Knex): Promise<void> {
  const [passed] = (await db.raw(
    `SELECT o.id, o.author_id AS authorId, p.name FROM posts o JOIN people p ON p.id = o.author_id WHERE o.origin_id IS NOT NULL`,
  )) as [{ id: number; authorId: number; name: string }[], unknown];
  const sections = [
    {
      id: 's1',
      heading: '',
      accent: 'none',
      document: { type: 'doc', content: [{ type: 'paragraph' }] },
      image: null,
      files: [],
    },
  ];
  for (const { id, authorId, name } of passed) {
    const title = `Passed on by ${name}`.slice(0, 150);
    const [announcementId] = await db('announcements').insert({
      author_id: authorId,
      saved_by: authorId,
      state: 'committed',
      content: JSON.stringify({ title, byline: '', importance: 'routine', sections, button: null }),
      plan: JSON.stringify({
        audience: null,
        mail: true,
        boards: [],
        timing: { kind: 'now' },
        ask: { kind: 'nothing' },
      }),
    });
    const [versionId] = await db('announcement_versions').insert({
      announcement_id: announcementId,
      author_id: authorId,
      kind: 'sent',
      title,
      byline: '',
      importance: 'routine',
      body: JSON.stringify({ sections, button: null, event: null }),
      excerpt: '',
    });
    await db('posts').where({ id }).update({ version_id: versionId });
  }
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE upload_cuts, idempotency_keys, set_aside');
}
