import { request, type ClientRequest } from 'node:http';
import { readFileSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import { percentile } from '../../src/core/delivery/lateness.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { emit } from '../../src/server/events/store.ts';
import { mustCome } from './data.ts';
import { sized } from './size.ts';
import { benchBuild, openSessions, startWeb } from './web.ts';

const STREAMS = sized(5_000);
const MEASURED_MS = sized(30_000);
const OPENING_AT_ONCE = 50;
const FIRST_READER = 2;

/** Seconds of a processor that a process has used so far, and the megabytes it holds. */
const usedBy = (pid: number): { s: number; mb: number } => {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8')
    .replace(/^.*\) /, '')
    .split(' ');
  const held = /^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1];
  return { s: (Number(fields[11]) + Number(fields[12])) / 100, mb: Number(held) / 1024 };
};

class Stream {
  readonly #request: ClientRequest;
  /** When it was last told that something changed. */
  toldAt = 0;
  readonly open: Promise<void>;

  constructor(origin: string, cookie: string) {
    this.#request = request(`${origin}/api/live?topic=arrivals`, { headers: { cookie }, agent: false });
    this.open = new Promise((resolve, reject) => {
      this.#request.once('error', reject);
      this.#request.once('response', (response) => {
        if (response.statusCode !== 200) reject(new Error(`The live stream answered ${response.statusCode}`));
        response.on('error', () => undefined);
        response.on('data', (part: Buffer) => {
          if (part.includes('data: arrivals')) this.toldAt = performance.now();
        });
        resolve();
      });
    });
    this.#request.end();
  }

  close(): void {
    this.#request.on('error', () => undefined);
    this.#request.destroy();
  }
}

/** How long an answer of `/healthz` takes meanwhile, in milliseconds: 50th and 99th percentile. */
async function asking(origin: string, ms: number): Promise<string> {
  const taken: number[] = [];
  const end = performance.now() + ms;
  while (performance.now() < end) {
    const began = performance.now();
    await (await fetch(`${origin}/healthz`)).arrayBuffer();
    taken.push(performance.now() - began);
    await wait(50);
  }
  return ([0.5, 0.99] as const)
    .map((share) => (percentile(taken, share) ?? Number.NaN).toFixed(1))
    .join(' / ');
}

/** Streams of live updates that are open on one web: what it holds and does while nothing happens, and when something does for all. */
export async function streaming(db: Database, url: string): Promise<void> {
  const web = await startWeb(benchBuild(), url);
  const readers = Array.from({ length: STREAMS }, (_, i) => FIRST_READER + i);
  const streams: Stream[] = [];
  try {
    const cookies = await openSessions(db, readers);
    const without = await asking(web.origin, MEASURED_MS / 3);
    const before = usedBy(web.pid);
    for (let at = 0; at < readers.length; at += OPENING_AT_ONCE) {
      const some = readers
        .slice(at, at + OPENING_AT_ONCE)
        .map((id) => new Stream(web.origin, cookies.get(id) ?? ''));
      await Promise.all(some.map((stream) => stream.open));
      streams.push(...some);
    }
    const opened = usedBy(web.pid);
    const idle = await asking(web.origin, MEASURED_MS);
    const rested = usedBy(web.pid);
    const began = performance.now();
    await emit(db, 'post.published', { post: 1, board: 1 });
    const told = asking(web.origin, MEASURED_MS);
    await mustCome(
      'all streams told',
      () => Promise.resolve(streams.every(({ toldAt }) => toldAt >= began)),
      120_000,
    );
    const after = streams.map(({ toldAt }) => toldAt - began);
    const busy = await told;
    console.log(`${STREAMS.toLocaleString('en-GB')} open streams of live updates on one web`);
    console.log(
      `  it holds ${before.mb.toFixed(0)} MB before, ${opened.mb.toFixed(0)} with them; opening them took ${(opened.s - before.s).toFixed(1)} s of a processor`,
    );
    console.log(
      `  while nothing happens ${(((rested.s - opened.s) * 100_000) / MEASURED_MS).toFixed(1)} % of a core; /healthz ${idle} ms, without them ${without}`,
    );
    console.log(
      `  of a change that concerns all, the first is told after ${Math.min(...after).toFixed(0)} ms, the last after ${(Math.max(...after) / 1000).toFixed(1)} s; /healthz meanwhile ${busy} ms\n`,
    );
  } finally {
    for (const stream of streams) stream.close();
    web.stop();
  }
}
