import { cleanup, configure } from '@testing-library/react';
import { afterEach, beforeEach, vi } from 'vitest';
import { letGo } from '../../src/ui/server.ts';

/** A stream of live updates that says what `tellLive` is given. */
class Stream {
  static open = new Set<Stream>();
  readonly address: string;
  readonly #heard = new Map<string, (event: MessageEvent) => void>();
  constructor(address: string) {
    this.address = address;
    Stream.open.add(this);
  }
  addEventListener(kind: string, heard: (event: MessageEvent) => void): void {
    this.#heard.set(kind, heard);
  }
  close(): void {
    Stream.open.delete(this);
  }
  tell(topic: string): boolean {
    const topics = new URL(this.address, 'http://page.test').searchParams.getAll('topic');
    if (topics.includes(topic)) this.#heard.get('changed')?.(new MessageEvent('changed', { data: topic }));
    return topics.includes(topic);
  }
}

/** What is listened to, and since when it is to be told: the addresses of the streams that are open. */
export const liveAddresses = (): string[] => [...Stream.open].map(({ address }) => address);

/** Something of a topic changed; gives whether anybody listens to it. */
export const tellLive = (topic: string): boolean => [...Stream.open].some((stream) => stream.tell(topic));

// The page of the tests does not know the size of a list of choices, by which the form package tells whether one was
// chosen before it was there.
Object.defineProperty(HTMLSelectElement.prototype, 'size', {
  get(this: HTMLSelectElement) {
    return Number(this.getAttribute('size') ?? 0);
  },
});

// What is fetched when it is first shown takes its time on a busy machine.
configure({ asyncUtilTimeout: 20_000 });

beforeEach(() => {
  vi.stubGlobal('EventSource', Stream);
  vi.stubGlobal('fetch', network);
  sent.length = 0;
  answers.length = 0;
});
afterEach(() => {
  cleanup();
  letGo();
  vi.unstubAllGlobals();
});

export interface Sent {
  method: string;
  path: string;
  body: unknown;
}
/** What was asked of the network, in order. */
export const sent: Sent[] = [];

type Answer = (
  request: Sent,
) => { status?: number; body?: unknown } | Promise<{ status?: number; body?: unknown }> | undefined;
const answers: Answer[] = [];

/** Answers requests from now on; the first that gives something answers. Nothing given is a network that is down. */
export const answerWith = (answer: Answer): void => {
  answers.unshift(answer);
};

async function network(path: string, options: RequestInit = {}): Promise<Response> {
  const request: Sent = {
    method: options.method ?? 'GET',
    path,
    body: typeof options.body === 'string' ? (JSON.parse(options.body) as unknown) : undefined,
  };
  sent.push(request);
  for (const answer of answers) {
    const given = await answer(request);
    if (options.signal?.aborted) throw new DOMException('aborted', 'AbortError');
    if (given)
      return new Response(JSON.stringify(given.body ?? null), {
        status: given.status ?? 200,
        headers: {
          'content-type': (given.status ?? 200) < 400 ? 'application/json' : 'application/problem+json',
        },
      });
  }
  throw new TypeError('the network is down');
}
