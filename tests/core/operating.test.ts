import { describe, expect, it } from 'vitest';
import { runningTroubles, type ProcessLine, type Running } from '../../src/core/operating/running.ts';

const NOW = Date.parse('2026-11-30T09:00Z');
const process = (part: Partial<ProcessLine> = {}): ProcessLine => ({
  name: 'coast-1',
  kind: 'engine',
  host: 'coast',
  pid: 1,
  startedMs: NOW - 3_600_000,
  beatMs: NOW - 2_000,
  skewMs: 3,
  rssBytes: 1e8,
  heldUpMs: 2,
  otherVersion: false,
  mailPaused: null,
  ...part,
});
const well: Running = {
  nowMs: NOW,
  processes: [process(), process({ name: 'coast-2', kind: 'web' })],
  queues: [
    { kind: 'mail', now: 3_000, sinceMs: NOW - 59_000, later: 12 },
    { kind: 'events', now: 0, sinceMs: null, later: 0 },
  ],
  lateness: [{ method: 'mail', n: 1_000, withinSecond: 10, withinMinute: 980, worstMs: 300_000 }],
  mail: { delivered: 980, failed: 20, reasons: [], returning: 4 },
  aside: 0,
  backups: [{ atMs: NOW - 47 * 3_600_000, host: 'coast', file: 'b.sql.gz', bytes: 1, tookMs: 1 }],
  database: {
    version: '10.11',
    damaged: [],
    bytes: 1,
    tables: [],
    connections: 90,
    mostConnections: 100,
    upSinceMs: 0,
  },
};
const told = (part: Partial<Running>): string[] => runningTroubles({ ...well, ...part });

describe('how it runs', () => {
  it('has nobody look while all is at its limit and not over it', () => {
    expect(told({})).toEqual([]);
  });

  it.each<[string, Partial<Running>, RegExp]>([
    ['no engine runs', { processes: [process({ kind: 'web' })] }, /^No engine runs/],
    [
      'an engine went silent',
      { processes: [process(), process({ name: 'b', beatMs: NOW - 16_000 })] },
      /^1 process ended without saying so/,
    ],
    ['a clock is ahead', { processes: [process({ skewMs: 1_500 })] }, /coast-1 is 1\.5 s ahead of/],
    ['a clock is behind', { processes: [process({ skewMs: -61_000 })] }, /61\.0 s behind/],
    ['versions differ', { processes: [process({ otherVersion: true })] }, /another version/],
    ['a process is held up', { processes: [process({ heldUpMs: 501 })] }, /held up by 501 ms/],
    ['mail is paused', { processes: [process({ mailPaused: 'refused' })] }, /handed over just now: refused/],
    [
      'a database server is damaged',
      { database: { ...well.database, damaged: [{ node: 'node3', atMs: NOW, words: 'Index is corrupt' }] } },
      /^The database server node3 said .* damaged \(Index is corrupt\)/,
    ],
    [
      'what is due waits',
      { queues: [{ kind: 'going out', now: 2, sinceMs: NOW - 185_000, later: 0 }] },
      /^Sends to go out.*waited 3 minutes, with 2 in all/,
    ],
    [
      'much is late',
      { lateness: [{ method: 'inbox', n: 100, withinSecond: 90, withinMinute: 97, worstMs: 90_000 }] },
      /^3 of 100 by inbox were over a minute late/,
    ],
    ['much mail fails', { mail: { ...well.mail, failed: 21 } }, /^21 of 1,001 mails/],
    ['work is set aside', { aside: 2 }, /^2 pieces of work are set aside/],
    ['there is no backup', { backups: [] }, /^No backup has been written/],
    [
      'the last backup is old',
      { backups: [{ ...well.backups[0]!, atMs: NOW - 73 * 3_600_000 }] },
      /^The last backup is 3 days old/,
    ],
    ['connections run out', { database: { ...well.database, connections: 91 } }, /91 of 100 connections/],
  ])('says where %s', (_, part, words) => {
    const troubles = told(part);
    expect(troubles).toHaveLength(1);
    expect(troubles[0]).toMatch(words);
  });

  it('lets one that was started instead make good for one that went silent', () => {
    const gone = process({ name: 'b', beatMs: NOW - 60_000 });
    const instead = process({ startedMs: NOW - 58_000 });
    expect(told({ processes: [gone, instead] })).toEqual([]);
    expect(told({ processes: [gone, { ...instead, host: 'elsewhere' }] })).toHaveLength(1);
  });

  it('takes little that is late, or fails, for no trouble', () => {
    expect(
      told({
        lateness: [{ method: 'mail', n: 49, withinSecond: 0, withinMinute: 0, worstMs: 1e7 }],
        mail: { ...well.mail, delivered: 0, failed: 49 },
      }),
    ).toEqual([]);
  });
});
