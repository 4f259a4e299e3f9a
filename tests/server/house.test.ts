import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, describe, expect, inject, it } from 'vitest';
import { ensureCommands, find } from '../../scripts/house/debian.ts';
import { createDatabase, startMariaDb } from '../../scripts/house/mariadb.ts';
import { freePort, isFree } from '../../scripts/house/ports.ts';
import { endLeftOver, Running, runs, until } from '../../scripts/house/processes.ts';
import { Stop } from '../../scripts/house/stop.ts';
import { connect, rows } from '../../src/server/database/connection.ts';

const folder = join(tmpdir(), `clear-bell-house-${process.pid}`);
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const stopped = async (work: () => unknown): Promise<string> => {
  try {
    await work();
  } catch (error) {
    if (error instanceof Stop) return error.message;
    throw error;
  }
  throw new Error('It was not stopped');
};

describe('what an operator can mend is one line with the remedy', () => {
  it('data of a newer database', async () => {
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, 'version'), '99.1');
    const said = await stopped(() => startMariaDb(folder, { durable: false, say: () => undefined }));
    expect(said).toContain('written by MariaDB 99.1');
    expect(said).toContain('--fresh');
  });

  it('a database that does not let us in, or has no proper name', async () => {
    const server = new URL(inject('databaseServer'));
    server.password = 'wrong';
    server.pathname = '/clear_bell_x';
    expect(await stopped(() => createDatabase(server.href, false))).toContain('Check DATABASE_URL');
    server.pathname = '/x`;drop';
    expect(await stopped(() => createDatabase(server.href, false))).toContain(
      'letters, digits and underscores',
    );
  });
});

describe('a database', () => {
  it('that starts leaves the temporary tables of another alone', async () => {
    const server = new URL(inject('databaseServer'));
    server.pathname = '/information_schema';
    const running = connect(server.href, 1);
    const [found] = await rows<{ at: string }>(running, 'SELECT @@tmpdir AS at');
    await running.destroy();
    // As the server names them; one that starts takes any of these for what a dead one left.
    const table = join(found!.at, '#sql-temptable-ffffff-1-1.MAD');
    writeFileSync(table, '');
    try {
      const other = await startMariaDb(folder, { durable: false, say: () => undefined });
      await other.running.stop();
      expect(existsSync(table)).toBe(true);
    } finally {
      rmSync(table, { force: true });
    }
  });
});

describe('commands', () => {
  it('that are there are not installed again', () => {
    const said: string[] = [];
    ensureCommands({ mariadbd: 'mariadb-server-core' }, (line) => said.push(line));
    expect(said).toEqual([]);
    expect(find('mariadbd')).toMatch(/mariadbd$/);
    expect(find('no-such-command-anywhere')).toBeUndefined();
  });
});

describe('ports', () => {
  it('are looked at before they are used', async () => {
    const port = await freePort();
    expect(await isFree(port)).toBe(true);
    const taken = createServer();
    await new Promise<void>((resolve) => taken.listen(port, '127.0.0.1', resolve));
    try {
      expect(await isFree(port)).toBe(false);
      expect(await freePort(port)).not.toBe(port);
    } finally {
      taken.close();
    }
  });
});

describe('processes', () => {
  it('left over by a killed start are ended, and others with the same number are not', async () => {
    const child = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)', 'left-over-mark'], {
      stdio: 'ignore',
    });
    const pid = child.pid ?? 0;
    await until(() => runs(pid, 'left-over-mark'), 5_000);
    await endLeftOver(pid, 'another application');
    expect(runs(pid, 'left-over-mark')).toBe(true);
    await endLeftOver(pid, 'left-over-mark');
    expect(runs(pid, 'left-over-mark')).toBe(false);
  });

  it('that do not stop when asked are made to', async () => {
    mkdirSync(folder, { recursive: true });
    const stubborn = new Running(
      'stubborn',
      [process.execPath, '-e', "process.on('SIGTERM', () => {}); setInterval(() => {}, 1000)"],
      {
        env: process.env,
        cwd: folder,
        log: join(folder, 'log'),
      },
    );
    await until(() => runs(stubborn.pid, 'SIGTERM'), 5_000);
    await stubborn.stop(300);
    expect(stubborn.alive).toBe(false);
  });

  it('that died are started again, with growing waits and a word, until they are stopped', async () => {
    mkdirSync(folder, { recursive: true });
    const said: string[] = [];
    let starts = 0;
    const mortal = new Running('engine', [process.execPath, '-e', 'process.exit(7)'], {
      env: process.env,
      cwd: folder,
      log: join(folder, 'log'),
    });
    const kept = mortal.keepUp(
      (line) => said.push(line),
      () => starts++,
    );
    await until(() => starts >= 2, 20_000);
    await mortal.stop();
    await kept;
    expect(said[0]).toContain('The engine process ended by itself (code 7)');
    const waits = said.map((line) => Number(/again in ([\d.]+) s/.exec(line)?.[1]));
    expect(waits[1]).toBeGreaterThan(waits[0] ?? Infinity);
    const after = starts;
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(starts).toBe(after);
  });
});
