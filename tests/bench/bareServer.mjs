import { Buffer } from 'node:buffer';
import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import process from 'node:process';
import mysql from 'mysql2';

/**
 * The least an answer takes: a bare server that, at each path, asks the database what a page asks, the session first and then the rest
 * at once, and sends as many bytes. BARE names a file of `{ [path]: { statements: [{ sql, values }], bytes } }`.
 */
const pages = new Map(
  Object.entries(JSON.parse(readFileSync(process.env.BARE, 'utf8'))).map(([path, { statements, bytes }]) => [
    path,
    {
      body: Buffer.alloc(bytes, 'x'),
      statements: statements.map(({ sql, values }) => ({
        sql,
        values: values.map((value) => (value?.type === 'Buffer' ? Buffer.from(value.data) : value)),
      })),
    },
  ]),
);
const pool = mysql.createPool({ uri: process.env.DATABASE_URL, connectionLimit: 12 }).promise();

createServer((request, response) => {
  const page = pages.get(request.url);
  const [first, ...rest] = page?.statements ?? [];
  const asked = async () => {
    if (first) await pool.query(first.sql, first.values);
    await Promise.all(rest.map(({ sql, values }) => pool.query(sql, values)));
  };
  asked().then(
    () => response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(page?.body ?? 'ok'),
    (error) => response.writeHead(500).end(String(error)),
  );
}).listen(Number(process.env.PORT), process.env.HOST);
