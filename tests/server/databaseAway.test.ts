import { createServer, connect as dial, type AddressInfo, type Server, type Socket } from 'node:net';
import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { until } from '../../scripts/house/processes.ts';
import { connect, rows, transact, type Database } from '../../src/server/database/connection.ts';
import { notifyPeople } from '../../src/server/notices/notify.ts';
import { untilRecorded } from '../../src/server/database/untilRecorded.ts';
import {
  addPeople,
  countOf,
  freshDatabase,
  mailHouse,
  sendNow,
  startEngine,
  type MailHouse,
} from './world.ts';

let db: Database;
let url: string;
let mail: MailHouse;
beforeAll(async () => {
  ({ db, url } = await freshDatabase('database_away'));
  mail = await mailHouse();
});
afterAll(async () => {
  await mail.stop();
  await db.destroy();
});

interface Way {
  url: string;
  cut: () => void;
  /** Cuts it once the database has committed a transaction in which a statement had these words, before it says that it has. */
  cutAtCommitOf: (words: string) => Promise<void>;
  mend: () => void;
  end: () => void;
}

/** A way to the database that can be cut: whoever is on it loses their connection, and nobody gets another. */
async function wayTo(databaseUrl: string): Promise<Way> {
  const to = new URL(databaseUrl);
  const port = Number(to.port);
  const open = new Set<Socket>();
  let whole = true;
  let watched: { words: string; met: () => void } | null = null;
  const server: Server = createServer((socket) => {
    if (!whole) {
      socket.destroy();
      return;
    }
    const on = dial(port, to.hostname);
    for (const each of [socket, on]) {
      open.add(each);
      each.on('error', () => undefined);
      each.on('close', () => {
        open.delete(each);
        socket.destroy();
        on.destroy();
      });
    }
    let said = false;
    let committed = false;
    socket.on('data', (part: Buffer) => {
      if (watched && part.includes(watched.words)) said = true;
      if (said && part.includes('COMMIT')) committed = true;
      on.write(part);
    });
    on.on('data', (part: Buffer) => {
      if (!watched || !committed) {
        socket.write(part);
        return;
      }
      const { met } = watched;
      watched = null;
      cut();
      met();
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  to.port = String((server.address() as AddressInfo).port);
  function cut(): void {
    whole = false;
    for (const each of open) each.destroy();
  }
  return {
    url: to.href,
    cut,
    cutAtCommitOf: (words) =>
      new Promise((met) => {
        watched = { words, met };
      }),
    mend: () => {
      whole = true;
    },
    end: () => {
      cut();
      server.close();
    },
  };
}

describe('while the database is away', () => {
  it('an engine holds what the mail server has taken, and nobody gets a mail twice or waits for the end of its claim', async () => {
    const people = 900;
    await addPeople(db, people);
    const way = await wayTo(url);
    const behind = connect(way.url, 10);
    const engine = await startEngine(behind, mail.url, { mailLeaseS: 600 });
    try {
      const occurrence = await sendNow(db, { audience: { kind: 'everyone' }, mail: true });
      const taken = async (): Promise<string[]> => (await mail.receipts()).map(({ to }) => to);
      expect(await until(async () => (await taken()).length > 60, 30_000)).toBe(true);
      way.cut();
      await wait(1_500);
      way.mend();
      const waiting = (): Promise<number> =>
        countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'mail' AND state <> 'delivered'", [
          occurrence,
        ]);
      expect(await until(async () => (await waiting()) === 0, 60_000)).toBe(true);
      const all = await taken();
      expect(all.length).toBe(new Set(all).size);
      expect(all.length).toBe(
        await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'mail'", [occurrence]),
      );
    } finally {
      await engine.stop();
      await behind.destroy();
      way.end();
    }
  });

  it('an engine that did not hear that its claim was committed gives it back, and it does not wait for the end of it', async () => {
    const way = await wayTo(url);
    const behind = connect(way.url, 10);
    const engine = await startEngine(behind, mail.url, { mailLeaseS: 3_600 });
    try {
      const unheard = way.cutAtCommitOf("SET state = 'sending'");
      const occurrence = await sendNow(db, { audience: { kind: 'everyone' }, mail: true });
      await unheard;
      const left = (state: string): Promise<number> =>
        countOf(db, `FROM deliveries WHERE occurrence_id = ? AND method = 'mail' AND ${state}`, [occurrence]);
      expect(await left("state = 'sending'")).toBeGreaterThan(0);
      way.mend();
      expect(await until(async () => (await left("state <> 'delivered'")) === 0, 60_000)).toBe(true);
      const taken = (await mail.receipts()).filter(({ messageId }) =>
        messageId.startsWith(`<${occurrence}.`),
      );
      expect(taken.length).toBe(new Set(taken.map(({ to }) => to)).size);
      expect(taken.length).toBe(await left('TRUE'));
    } finally {
      await engine.stop();
      await behind.destroy();
      way.end();
    }
  });

  it('so is a send whose claim was not heard to be committed: it goes out as soon as the database is there again', async () => {
    const way = await wayTo(url);
    const behind = connect(way.url, 10);
    const engine = await startEngine(behind, mail.url, { bucketLeaseS: 3_600 });
    try {
      const unheard = way.cutAtCommitOf("SET b.state = 'expanding'");
      const occurrence = await sendNow(db, { audience: { kind: 'everyone' }, mail: false });
      await unheard;
      const left = (): Promise<number> =>
        countOf(db, "FROM buckets WHERE occurrence_id = ? AND state <> 'expanded'", [occurrence]);
      expect(await left()).toBe(1);
      // Others look at it at the instant at which its own loop does: a claim passes over what another has locked.
      await transact(db, async (trx) => {
        await rows(trx, 'SELECT id FROM buckets WHERE occurrence_id = ? FOR UPDATE', [occurrence]);
        way.mend();
        await wait(600);
      });
      expect(await until(async () => (await left()) === 0, 30_000)).toBe(true);
      expect(await countOf(db, 'FROM deliveries WHERE occurrence_id = ?', [occurrence])).toBe(
        await countOf(db, "FROM people WHERE standing = 'active'"),
      );
    } finally {
      await engine.stop();
      await behind.destroy();
      way.end();
    }
  });

  it('and so is a notice whose claim was not heard to be committed, told once', async () => {
    const way = await wayTo(url);
    const behind = connect(way.url, 10);
    const engine = await startEngine(behind, mail.url, { mailLeaseS: 3_600 });
    try {
      const unheard = way.cutAtCommitOf("SET mail_state = 'sending'");
      const [person] = await rows<{ id: number; mail: string }>(
        db,
        "SELECT id, mail FROM people WHERE standing = 'active' AND mail IS NOT NULL ORDER BY id DESC LIMIT 1",
      );
      const mailTo = async (): Promise<number> =>
        (await mail.receipts()).filter(({ to }) => to === person!.mail).length;
      const before = await mailTo();
      await notifyPeople(db, [person!.id], {
        kind: 'decision',
        title: 'The pump stands',
        text: '',
        path: '/for-me',
        why: 'You look after it.',
        dedupeKey: 'of a test',
      });
      await unheard;
      const sending = (): Promise<number> =>
        countOf(db, "FROM notices WHERE person_id = ? AND mail_state = 'sending'", [person!.id]);
      expect(await sending()).toBe(1);
      way.mend();
      expect(await until(async () => (await mailTo()) > before, 60_000)).toBe(true);
      expect(await until(async () => (await sending()) === 0, 60_000)).toBe(true);
      expect(await mailTo()).toBe(before + 1);
    } finally {
      await engine.stop();
      await behind.destroy();
      way.end();
    }
  });

  it('what is wrong with a statement is told at once, and what asks to be asked again is', async () => {
    let asked = 0;
    const wrong = untilRecorded(() => {
      asked++;
      return rows(db, 'SELECT nothing_of_that_name');
    });
    await expect(wrong).rejects.toThrow('nothing_of_that_name');
    expect(asked).toBe(1);
    let waited = 0;
    const deadlock = Object.assign(new Error('Deadlock found'), { errno: 1213 });
    expect(
      await untilRecorded(() => (++asked < 4 ? Promise.reject(deadlock) : Promise.resolve('written')), {
        waiting: () => waited++,
      }),
    ).toBe('written');
    expect(waited).toBe(2);
  });
});
