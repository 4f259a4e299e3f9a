import type { Knex } from 'knex';

/**
 * MariaDB's errors that say that a table or an index of the server that answers is damaged: ER_NOT_KEYFILE, ER_CRASHED_ON_USAGE,
 * ER_CRASHED_ON_REPAIR, ER_INDEX_CORRUPT, ER_TABLE_CORRUPT.
 */
export const DAMAGE: ReadonlySet<number> = new Set([1034, 1194, 1195, 1712, 1877]);
/** What the server names a table that it makes for one statement alone: it is damaged where the disk is full, and then gone. */
const PASSING_TABLE = /#sql/i;
/** What is found again and again is written down so seldom, in milliseconds. */
const SELDOM_MS = 5_000;
const MOST_WORDS = 300;

/** By which start of which node it is known: a node that is emptied and started again is another. */
const NOTE = `INSERT INTO damaged_nodes (instance, node, found_at, words)
  SELECT COALESCE((SELECT VARIABLE_VALUE FROM information_schema.GLOBAL_STATUS WHERE VARIABLE_NAME = 'WSREP_GCOMM_UUID'), ''),
    COALESCE(NULLIF(@@wsrep_node_name, ''), @@hostname), NOW(3), ?
  ON DUPLICATE KEY UPDATE found_at = VALUES(found_at), words = VALUES(words)`;

interface DatabaseError {
  errno?: number;
  sqlMessage?: string;
}

/**
 * Notes of the server that answers that it is damaged, whenever a statement fails for that. It goes on answering otherwise, and a
 * proxy that sends it statements would do so for ever: its check reads what is noted here (`deploy/galera-check`), and so does the
 * operator's page.
 */
export function noteDamage(db: Knex): void {
  let notedMs = -Infinity;
  db.on('query-error', ({ errno, sqlMessage = '' }: DatabaseError) => {
    if (errno === undefined || !DAMAGE.has(errno) || PASSING_TABLE.test(sqlMessage)) return;
    if (performance.now() - notedMs < SELDOM_MS) return;
    notedMs = performance.now();
    // Where it cannot be written, the next statement that fails says so again.
    db.raw(NOTE, [sqlMessage.slice(0, MOST_WORDS)]).catch(() => {
      notedMs = -Infinity;
    });
  });
}
