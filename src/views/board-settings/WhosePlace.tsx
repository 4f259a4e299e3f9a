import { useState } from 'react';
import { list, people } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { pathWith } from '../../ui/server.ts';
import type { Settings, ChangeSettings } from './useBoardChanges.ts';

const outsideWords = (names: readonly string[]): string =>
  names.length === 0
    ? 'Those who moderate it now still do.'
    : `${list(names, 'and')} ${names.length === 1 ? 'is' : 'are'} not among them and will not moderate it any more.`;

/** Whose place a board is. Another group's is asked for first, with how many that is. */
export function WhosePlace({
  settings,
  coordinator,
  locked,
  onProblem,
  onChange,
}: {
  settings: Settings;
  coordinator: boolean;
  locked: boolean;
  onProblem: (problem: unknown) => void;
  onChange: ChangeSettings;
}) {
  const { id } = settings;
  const [asked, setAsked] = useState<{
    groupId: number | null;
    name: string;
    people: number;
    outside: string[];
  }>();
  const askGroup = async (groupId: number | null): Promise<void> => {
    onProblem(undefined);
    try {
      const place = await request('GET', pathWith(`/api/boards/${id}/place`, { groupId }));
      const name = settings.groups.find((group) => group.id === groupId)?.name ?? 'everybody';
      setAsked({ groupId, name, ...place });
    } catch (error) {
      onProblem(error);
    }
  };
  return (
    <>
      <label className="flex flex-col gap-1">
        Whose place it is
        {coordinator ? (
          <select
            className="select w-full max-w-md"
            disabled={locked}
            value={settings.groupId ?? ''}
            onChange={(event) => void askGroup(event.target.value === '' ? null : Number(event.target.value))}
          >
            <option value="">everybody</option>
            {settings.groups.map((group) => (
              <option key={group.id} value={group.id}>
                {group.name} ({group.kind === 'live' ? 'live: follows its rule' : 'fixed: hand-picked'})
              </option>
            ))}
          </select>
        ) : (
          <input className="input w-full max-w-md" disabled value={settings.whose} />
        )}
      </label>
      {asked ? (
        <Confirm
          title={`Whose place is it: ${asked.name}?`}
          detail={`${people(asked.people)} can read it then, and nobody else but those who moderate it and the coordinators. ${outsideWords(asked.outside)}`}
          button={`Make it ${asked.name === 'everybody' ? 'everybody’s' : `the place of ${asked.name}`}`}
          onConfirm={() =>
            // Whoever is no moderator any more is appointed again by hand.
            onChange({ groupId: asked.groupId }, undefined, asked.outside.length === 0)
          }
          onClose={() => setAsked(undefined)}
        />
      ) : null}
    </>
  );
}
