import { useState } from 'react';
import type { RunAhead } from '../../core/automation/run.ts';
import { count, list, people } from '../../core/words.ts';
import { request, newKey, wordsOf } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';

/** What it would say now, as a sentence. */
function aheadWords({ messages, people: reached, mail, boards, outside, keptBack, why }: RunAhead): string {
  if (messages === 0)
    return keptBack === 0
      ? 'It would say nothing now: nothing meets its conditions.'
      : `It would say nothing now. ${why ?? ''}`;
  const where = [
    ...(reached > 0 ? [`to ${people(reached)} by inbox${mail ? ' and mail' : ''}`] : []),
    ...(boards.length > 0 ? [`on ${list(boards, 'and')}`] : []),
    ...(outside.length > 0 ? [`to ${list(outside, 'and')}`] : []),
  ];
  return `It says ${count(messages, 'message', 'messages')} ${list(where, 'and')}, besides what it says at its own time.${
    keptBack > 0 ? ` ${keptBack} would be kept back. ${why ?? ''}` : ''
  }`;
}

/** The last question before an automation runs by hand: what it would say now, and to how many. */
export function RunNow({
  path,
  name,
  onClose,
}: {
  path: `/api/automations/${number}`;
  name: string;
  onClose: () => void;
}) {
  // One for the dialog: pressed again after an answer that was lost, it does not run a second time.
  const [key] = useState(newKey);
  const { data, error } = useServer(`${path}/run`);
  return (
    <Confirm
      title={`Run “${name}” now?`}
      detail={error ? wordsOf(error) : data ? aheadWords(data) : 'One moment …'}
      button={data && data.people > 0 ? `Tell ${people(data.people)} now` : 'Run it'}
      ready={data !== undefined}
      onConfirm={() => request('POST', `${path}/run`, undefined, key).then(() => done('It runs now.'))}
      onClose={onClose}
    />
  );
}
