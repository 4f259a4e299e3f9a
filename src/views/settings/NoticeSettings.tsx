import { useState } from 'react';
import type { Device, NoticeChoice, NoticeChoices, NoticeKind } from '../../core/notices/notice.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { TimeField } from '../../ui/DateField.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { Choices, Devices } from './noticeParts.tsx';

const PATH = '/api/me/notices';

interface Told {
  digestAt: string;
  choices: NoticeChoices;
  devices: Device[];
}

/** What a person is told of, by which ways and when; and the devices that take push messages. */
export function NoticeSettings({
  first,
  pushKey,
  practice,
  zone,
}: {
  first: Told;
  /** The public key by which push services know this organisation. */
  pushKey: string;
  /** Whether there is a stand-in push service to practise with. */
  practice: boolean;
  zone: string;
}) {
  const query = useServer(PATH, { first });
  const [failed, setError] = useState<string>();
  /** As it was just chosen, until the server has it. */
  const [chosen, setChosen] = useState<Told>();
  const told = chosen ?? query.data ?? first;
  const error = failed ?? (query.error ? wordsOf(query.error) : undefined);
  const act = async (work: () => Promise<unknown>, words: string): Promise<void> => {
    setError(undefined);
    try {
      await work();
      void done(words);
    } catch (problem) {
      setError(wordsOf(problem));
    }
    await refetch(PATH);
    setChosen(undefined);
  };
  const save = (part: { digestAt?: string; choices?: Partial<NoticeChoices> }): void => {
    const next = { ...told, ...part, choices: { ...told.choices, ...part.choices } };
    setChosen(next);
    void act(() => request('PUT', PATH, { digestAt: next.digestAt, choices: part.choices ?? {} }), 'Saved.');
  };
  const set = (kind: NoticeKind, part: Partial<NoticeChoice>): void =>
    save({ choices: { [kind]: { ...told.choices[kind], ...part } } });
  return (
    <Awake>
      <section id="notices" aria-labelledby="notices-heading" className="mt-8 border-t border-base-300 pt-6">
        <h2 id="notices-heading" className="mb-1">
          What I am told of
        </h2>
        <p className="mb-4 max-w-2xl text-quiet">
          In the inbox it waits for you. By mail and push it comes at once, after your quiet hours, or
          gathered once a day. What is urgent always comes at once.
        </p>
        <div aria-live="polite">{error === undefined ? null : <Notice tone="error">{error}</Notice>}</div>
        <Choices choices={told.choices} onSet={set} />
        <TimeField
          label="What is gathered comes at, on my clock"
          className="mt-4 max-w-60"
          value={told.digestAt}
          onChange={(digestAt) => {
            if (digestAt !== '') save({ digestAt });
          }}
        />
        <Devices
          devices={told.devices}
          pushKey={pushKey}
          practice={practice}
          zone={zone}
          onAct={(work, words) => void act(work, words)}
        />
      </section>
    </Awake>
  );
}
