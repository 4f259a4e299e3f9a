import { useEffect, useState } from 'react';
import { ApiProblem, ask } from './api.ts';

const PLACE = 'answers-kept';
const TRY_AGAIN_MS = 5_000;

/** Answers given while there was no connection, by what they answer; of whoever is signed in on this device. */
function kept(): number[] {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(PLACE) ?? '[]');
    return Array.isArray(found) ? found.filter((each): each is number => Number.isInteger(each)) : [];
  } catch {
    return [];
  }
}

const keep = (ids: readonly number[]): void => {
  localStorage.setItem(PLACE, JSON.stringify([...new Set(ids)]));
  dispatchEvent(new Event('answers-kept'));
};

/**
 * Acknowledges, or keeps the answer until there is a connection again. An answer is taken once, so that one that is sent
 * twice counts once.
 *
 * @throws ApiProblem where the server refuses it
 */
export async function acknowledge(occurrenceId: number): Promise<{ answeredMs: number } | 'kept'> {
  try {
    return await ask<{ answeredMs: number }>('POST', `/api/for-me/${occurrenceId}/acknowledge`);
  } catch (problem) {
    if (!(problem instanceof ApiProblem) || problem.status !== 0) throw problem;
    keep([...kept(), occurrenceId]);
    return 'kept';
  }
}

/** Sends what was kept; what cannot be sent for good is let go, since the page then says why. */
async function sendKept(): Promise<number[]> {
  const sent: number[] = [];
  for (const id of kept()) {
    try {
      await ask('POST', `/api/for-me/${id}/acknowledge`);
    } catch (problem) {
      if (problem instanceof ApiProblem && (problem.status === 0 || problem.status >= 500)) break;
    }
    sent.push(id);
  }
  if (sent.length > 0) keep(kept().filter((id) => !sent.includes(id)));
  return sent;
}

/** What is kept until there is a connection; sends it then, and calls back after something was sent. */
export function useKeptAnswers(onSent: () => void): readonly number[] {
  const [ids, setIds] = useState<readonly number[]>([]);
  useEffect(() => {
    const look = (): void => setIds(kept());
    const send = (): void => {
      void sendKept().then((sent) => {
        if (sent.length > 0) onSent();
      });
    };
    look();
    send();
    addEventListener('answers-kept', look);
    addEventListener('online', send);
    addEventListener('focus', send);
    const timer = setInterval(() => {
      if (kept().length > 0) send();
    }, TRY_AGAIN_MS);
    return () => {
      removeEventListener('answers-kept', look);
      removeEventListener('online', send);
      removeEventListener('focus', send);
      clearInterval(timer);
    };
  }, []);
  return ids;
}
