import { spawnSync } from 'node:child_process';
import mysql from 'mysql2/promise';
import { find } from '../../scripts/house/debian.ts';

/** A database as statements that lay it out and fill it again. */
export function statementsOf(url: string): string {
  const address = new URL(url);
  const dumped = spawnSync(
    find('mariadb-dump') ?? 'mariadb-dump',
    [
      '--no-defaults',
      `--host=${address.hostname}`,
      `--port=${address.port}`,
      `--user=${decodeURIComponent(address.username)}`,
      '--protocol=TCP',
      '--default-character-set=utf8mb4',
      '--hex-blob',
      '--skip-comments',
      decodeURIComponent(address.pathname.slice(1)),
    ],
    {
      env: { ...process.env, MYSQL_PWD: decodeURIComponent(address.password) },
      encoding: 'utf8',
      maxBuffer: 256 * 1024 * 1024,
    },
  );
  if (dumped.status !== 0) throw new Error(`The database could not be copied: ${dumped.stderr}`);
  return dumped.stdout;
}

/** Lays out an empty database, and fills it, by the statements of another. */
export async function layOutFrom(url: string, statements: string): Promise<void> {
  const connection = await mysql.createConnection({ uri: url, charset: 'utf8mb4', multipleStatements: true });
  try {
    await connection.query(statements);
  } finally {
    await connection.end();
  }
}
