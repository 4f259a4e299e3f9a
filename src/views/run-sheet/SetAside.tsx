import { useState } from 'react';
import { ASIDE_WORDS, type Aside } from '../../core/desk/desk.ts';
import { nearWords } from '../../core/timing/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { useAwake } from '../../ui/useAwake.ts';

/** Work of the engine that failed and was set aside, with why, when it is tried again, and having it tried at once. */
export function SetAside({ aside, zone, nowMs }: { aside: Aside; zone: string; nowMs: number }) {
  const awake = useAwake();
  const [said, setSaid] = useState<string>();
  const { kind, subjectId, occurrenceId, title, reason, attempts, tryMs } = aside;
  // What was only to be told of at its time is not told later: it is looked at, and put away.
  const isNotice = kind === 'notice';
  const tryNow = (): void =>
    void request('POST', `/api/set-aside/${kind as string}/${subjectId}/again`).then(
      () => setSaid(isNotice ? 'Put away.' : 'It is tried again now.'),
      (problem: unknown) => setSaid(wordsOf(problem)),
    );
  return (
    <li className="border-t border-base-300 py-2">
      {occurrenceId === null ? (
        <span>Clear Bell itself</span>
      ) : (
        <a href={`/sends/${occurrenceId}`} className="link-quiet" dir="auto">
          {title ?? 'A send'}
        </a>
      )}
      <p className="text-error">
        Could not be {ASIDE_WORDS[kind]}: {reason}
      </p>
      <p className="text-sm text-quiet">
        {said ??
          (tryMs === null
            ? `Given up after ${attempts} attempts.`
            : `Tried ${attempts} times; again ${nearWords(tryMs, zone, nowMs)}.`)}
      </p>
      {said === undefined ? (
        <button type="button" className="btn btn-outline btn-sm mt-1" disabled={!awake} onClick={tryNow}>
          {isNotice ? 'Put it away' : 'Try again now'}
        </button>
      ) : null}
    </li>
  );
}
