import type { Knex } from 'knex';
import { stemmer } from 'stemmer';

const AT_ONCE = 1_000;

/** The stem of each word of the index, by which other forms of it are found. Of words in other languages it has none. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE search_words
    ADD COLUMN stem VARCHAR(40) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL COMMENT 'by Porter’s rules; null of what is no English word',
    ADD INDEX words_by_stem (stem)`);
  for (let after = 0; ;) {
    const [found] = (await db.raw('SELECT id, word FROM search_words WHERE id > ? ORDER BY id LIMIT ?', [
      after,
      AT_ONCE,
    ])) as [{ id: number; word: string }[]];
    const stemmed = found
      .filter(({ word }) => /^[a-z]{3,}$/.test(word) && word !== 'news')
      .map(({ id, word }) => ({ id, stem: stemmer(word) }));
    if (stemmed.length > 0)
      await db.raw(
        `UPDATE search_words SET stem = CASE id ${stemmed.map(() => 'WHEN ? THEN ?').join(' ')} END
         WHERE id IN (${stemmed.map(() => '?').join(', ')})`,
        [...stemmed.flatMap(({ id, stem }) => [id, stem]), ...stemmed.map(({ id }) => id)],
      );
    const last = found.at(-1);
    if (!last || found.length < AT_ONCE) return;
    after = last.id;
  }
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE search_words DROP INDEX words_by_stem, DROP COLUMN stem');
}
