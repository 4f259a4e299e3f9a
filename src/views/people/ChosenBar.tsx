import { useState } from 'react';
import type { Together, TogetherOutcome } from '../../core/people/together.ts';
import { people } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';

type Act = Together['act'];

const NO_STATION = { id: 0, name: 'no station' };

/** One of some, taken as it is chosen. */
function ChooseOne({
  label,
  words,
  options,
  disabled,
  onChoose,
}: {
  label: string;
  words: string;
  options: readonly { id: number; name: string }[];
  disabled: boolean;
  onChoose: (option: { id: number; name: string }) => void;
}) {
  if (options.length === 0) return null;
  return (
    <select
      className="select w-44"
      aria-label={label}
      value=""
      disabled={disabled}
      onChange={(event) => {
        const chosen = options.find(({ id }) => String(id) === event.target.value);
        if (chosen) onChoose(chosen);
      }}
    >
      <option value="">{words}</option>
      {options.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** What can be done to those who are chosen, all at once, and taken back. */
export function ChosenBar({
  ids,
  groups,
  stations,
  onNone,
  onProblem,
}: {
  ids: readonly number[];
  /** The groups that are picked by hand. */
  groups: readonly { id: number; name: string }[];
  stations: readonly { id: number; name: string }[];
  onNone: () => void;
  onProblem: (problem: unknown) => void;
}) {
  const [leaving, setLeaving] = useState(false);
  const [busy, setBusy] = useState(false);
  const run = async (act: Act, some: readonly number[] = ids): Promise<TogetherOutcome> => {
    const outcome = await request('POST', '/api/people/together', { ids: some, act });
    await refetch('/api/people');
    return outcome;
  };
  /** Does it, says to how many, and offers what takes it back. */
  const act = async (
    wished: Act,
    words: (n: number) => string,
    back: (outcome: TogetherOutcome) => Act,
  ): Promise<void> => {
    setBusy(true);
    onProblem(undefined);
    try {
      const outcome = await run(wished);
      const { changed } = outcome;
      void done(
        changed.length === 0 ? 'That is how it was with all of them already.' : words(changed.length),
        changed.length === 0 ? undefined : () => run(back(outcome), changed),
      );
      onNone();
    } catch (problem) {
      onProblem(problem);
    }
    setBusy(false);
  };
  const invite = async (): Promise<void> => {
    setBusy(true);
    onProblem(undefined);
    try {
      const { invited } = await request('POST', '/api/invitations', {
        to: { kind: 'people', ids },
        words: '',
      });
      await refetch('/api/people');
      void done(
        invited === 0
          ? 'None of them can be invited: they are in already, or have no mail address.'
          : `Invitations go out to ${people(invited)} now.`,
        invited === 0
          ? undefined
          : async () => {
              await request('POST', '/api/invitations/withdrawn', { ids });
              await refetch('/api/people');
            },
      );
      onNone();
    } catch (problem) {
      onProblem(problem);
    }
    setBusy(false);
  };
  return (
    <div
      role="group"
      aria-label="Those who are chosen"
      className="floating sticky bottom-16 z-30 mt-4 flex flex-wrap items-center gap-3 border border-base-300 bg-base-100 px-4 py-3 sm:bottom-4"
    >
      <strong className="mr-auto" aria-live="polite">
        {people(ids.length)} chosen
      </strong>
      <ChooseOne
        label="Put them into a group"
        words="Put into a group"
        options={groups}
        disabled={busy}
        onChoose={({ id: groupId, name }) =>
          void act(
            { kind: 'into group', groupId },
            (n) => `${people(n)} put into ${name}.`,
            () => ({ kind: 'out of group', groupId }),
          )
        }
      />
      <ChooseOne
        label="Move them to a station"
        words="Move to a station"
        options={stations.length === 0 ? [] : [...stations, NO_STATION]}
        disabled={busy}
        onChoose={({ id, name }) =>
          void act(
            { kind: 'to station', stationId: id === NO_STATION.id ? null : id },
            (n) => `${people(n)} moved to ${name}. They go on reading by their own clocks.`,
            (outcome) => ({ kind: 'back to stations', stations: outcome.before }),
          )
        }
      />
      <button type="button" className="btn btn-outline" disabled={busy} onClick={() => void invite()}>
        Invite
      </button>
      <button type="button" className="btn btn-outline" disabled={busy} onClick={() => setLeaving(true)}>
        Mark as left
      </button>
      <button type="button" className="btn btn-ghost" onClick={onNone}>
        Choose nobody
      </button>
      {leaving ? (
        <Confirm
          title={`Have ${people(ids.length)} left?`}
          detail="They are signed out at once and get nothing that has not gone yet. What they received and answered stays. They can be brought back."
          button="Mark as left"
          onClose={() => setLeaving(false)}
          onConfirm={() =>
            act(
              { kind: 'leave' },
              (n) => `${people(n)} marked as left.`,
              () => ({ kind: 'return' }),
            )
          }
        />
      ) : null}
    </div>
  );
}
