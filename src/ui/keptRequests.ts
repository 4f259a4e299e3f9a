import { useEffect, useRef, useState } from 'react';
import { ApiProblem, requestAnywhere, newKey } from './api.ts';
import type { Gives, PathTo, Takes } from './client.ts';
import { keep, kept, me } from './kept.ts';

/** Something a reader sent while it could not be taken: an answer, a vote, a check-in, a reply. */
export interface KeptRequest {
  id: string;
  /** What it is about, such as `ask:12` or `reply:7`. */
  about: string;
  path: string;
  body: unknown;
  /** Its Idempotency-Key where it has one: sent twice, it counts once. */
  key: string | null;
}

const NAME = 'requests';
const TRY_AGAIN_MS = 5_000;
const MOST = 200;

function all(): KeptRequest[] {
  const found = kept(NAME);
  return Array.isArray(found) ? (found as KeptRequest[]) : [];
}

function put(requests: readonly KeptRequest[]): boolean {
  const done = keep(NAME, requests);
  dispatchEvent(new Event('requests-kept'));
  return done;
}

/** Whether a refusal says nothing of what was sent: it can be taken later, with a connection or after signing in again. */
const mayPass = (problem: unknown): boolean =>
  problem instanceof ApiProblem &&
  (problem.status === 0 || problem.status === 401 || problem.status === 429 || problem.status >= 500);

/**
 * Sends something, or keeps it on this device under the person who is signed in until it is taken: without a connection, while
 * the server cannot take it, and when the session has ended meanwhile.
 *
 * @param about what it is about; something kept about the same takes its place, so that the last answer counts
 * @throws ApiProblem where the server refuses what was sent, or where this browser keeps nothing
 */
export async function sendOrKeep<Path extends string>(
  about: string,
  path: PathTo<'POST', Path>,
  body: Takes<'POST', Path>,
  key: string | null = null,
): Promise<Gives<'POST', Path> | 'kept'> {
  try {
    return await requestAnywhere('POST', path, body, key ?? undefined);
  } catch (problem) {
    if (!mayPass(problem) || me() === '') throw problem;
    const others = key === null ? all().filter((each) => each.about !== about) : all();
    if (others.length >= MOST || !put([...others, { id: newKey(), about, path, body, key }])) throw problem;
    return 'kept';
  }
}

let sending = false;

/** Sends what was kept, the first first; gives what was sent, and what was refused for good with why. */
async function sendKept(): Promise<{ sent: KeptRequest[]; refused: [KeptRequest, string][] }> {
  const sent: KeptRequest[] = [];
  const refused: [KeptRequest, string][] = [];
  if (sending) return { sent, refused };
  sending = true;
  try {
    for (const request of all()) {
      try {
        await requestAnywhere('POST', request.path, request.body, request.key ?? undefined);
        sent.push(request);
      } catch (problem) {
        if (mayPass(problem)) break;
        refused.push([request, problem instanceof Error ? problem.message : 'It was refused.']);
      }
      const done = new Set([...sent, ...refused.map(([each]) => each)].map((each) => each.id));
      put(all().filter((each) => !done.has(each.id)));
    }
  } finally {
    sending = false;
  }
  return { sent, refused };
}

/**
 * What is kept about something until it can be taken; it is tried again by itself.
 *
 * @param onSent called after something was sent
 * @param onRefused called with why something kept was refused for good
 */
export function useKeptRequests(
  about: string,
  onSent: () => void,
  onRefused: (words: string) => void,
): readonly KeptRequest[] {
  const [requests, setRequests] = useState<readonly KeptRequest[]>([]);
  const told = useRef({ onSent, onRefused });
  useEffect(() => {
    told.current = { onSent, onRefused };
  });
  useEffect(() => {
    const look = (): void => setRequests(all().filter((each) => each.about === about));
    const send = (): void => {
      if (all().length > 0)
        void sendKept().then(({ sent, refused }) => {
          for (const request of sent)
            dispatchEvent(new CustomEvent('request-sent', { detail: request.about }));
          for (const [request, words] of refused)
            dispatchEvent(new CustomEvent('request-refused', { detail: [request.about, words] }));
        });
    };
    const heardSent = (event: Event): void => {
      if ((event as CustomEvent<string>).detail === about) told.current.onSent();
    };
    const heardRefused = (event: Event): void => {
      const [which, words] = (event as CustomEvent<[string, string]>).detail;
      if (which === about) told.current.onRefused(`What you sent before could not be taken: ${words}`);
    };
    look();
    send();
    addEventListener('requests-kept', look);
    addEventListener('request-sent', heardSent);
    addEventListener('request-refused', heardRefused);
    addEventListener('online', send);
    addEventListener('focus', send);
    const timer = setInterval(send, TRY_AGAIN_MS);
    return () => {
      removeEventListener('requests-kept', look);
      removeEventListener('request-sent', heardSent);
      removeEventListener('request-refused', heardRefused);
      removeEventListener('online', send);
      removeEventListener('focus', send);
      clearInterval(timer);
    };
  }, [about]);
  return requests;
}
