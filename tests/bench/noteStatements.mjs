import { appendFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import process from 'node:process';

/**
 * Loaded into a web that is measured against a bare server: notes each statement it sends, with what is bound to it, as a line of
 * JSON in the file that NOTE_STATEMENTS names.
 */
const require = createRequire(import.meta.url);
const Connection = require(join(dirname(require.resolve('mysql2/package.json')), 'lib/base/connection.js'));
const { query } = Connection.prototype;
Connection.prototype.query = function noted(sql, values, ...more) {
  appendFileSync(
    process.env.NOTE_STATEMENTS,
    `${JSON.stringify({ sql: typeof sql === 'string' ? sql : sql.sql, values: Array.isArray(values) ? values : [] })}\n`,
  );
  return query.call(this, sql, values, ...more);
};
