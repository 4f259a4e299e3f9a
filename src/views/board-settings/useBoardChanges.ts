import { useState } from 'react';
import type { BoardChange } from '../../core/boards/boardSchemas.ts';
import { request } from '../../ui/api.ts';
import type { Gives } from '../../ui/client.ts';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';

/** A board's settings as they stand, for whoever reads them. */
export type Settings = Gives<'GET', `/api/boards/${number}/settings`>;

/** Changes settings; gives whether it was done. What can be undone is offered to be. */
export type ChangeSettings = (change: BoardChange, words?: string, canBeUndone?: boolean) => Promise<boolean>;

/** What is done with a board's settings: each change at once, with a way to undo it. */
export function useBoardChanges(settings: Settings) {
  const path = `/api/boards/${settings.id}/settings` as const;
  const [problem, setProblem] = useState<unknown>();
  const { id, switches } = settings;
  const act = async (
    work: () => Promise<unknown>,
    words: string,
    undo?: () => Promise<unknown>,
  ): Promise<boolean> => {
    setProblem(undefined);
    try {
      await work();
      await refetch(path);
      void done(words, undo);
      return true;
    } catch (error) {
      setProblem(error);
      return false;
    }
  };
  /** What stands now where something is changed, so that the change can be undone. */
  const asItIs = (change: BoardChange): BoardChange => {
    const now: Record<string, unknown> = { ...switches, ...settings, ownerId: settings.owner?.id ?? null };
    return Object.fromEntries(Object.keys(change).map((name) => [name, now[name]]));
  };
  const changeSettings: ChangeSettings = (
    change,
    words = 'Saved; everybody here sees it at once.',
    canBeUndone = true,
  ) => {
    const back = asItIs(change);
    const put = (to: BoardChange): Promise<unknown> => request('PUT', path, to);
    const undo = (): Promise<boolean> => act(() => put(back), 'It is as it was.');
    return act(() => put(change), words, canBeUndone ? undo : undefined);
  };
  const appoint = (person: { id: number; name: string }, moderates: boolean): Promise<boolean> =>
    act(
      () => request('PUT', `/api/boards/${id}/moderators`, { personId: person.id, moderates }),
      moderates ? `${person.name} moderates from now on.` : `${person.name} does not moderate any more.`,
      () => appoint(person, !moderates),
    );
  return { problem, setProblem, changeSettings, appoint };
}
