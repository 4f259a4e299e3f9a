import { useCallback, useEffect, useRef, useState } from 'react';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { forget, keep, kept } from '../../ui/kept.ts';
import type { Draft } from './draft.ts';

type Text = Pick<Draft, 'content' | 'plan'>;

/** Somebody else's save that stands between this text and the server. */
export interface Conflict {
  revision: number;
  savedBy: string;
  savedMs: number;
}

export type Saving =
  | { state: 'saved'; savedMs: number }
  | { state: 'unsaved' }
  | { state: 'saving' }
  | { state: 'refused'; problem: ApiProblem }
  | { state: 'failed'; words: string }
  | { state: 'conflict'; conflict: Conflict };

export interface Autosave {
  saving: Saving;
  /** Tells of a change. */
  changed: (text: Text) => void;
  /** Saves what is not saved yet; gives the revision, or null where it could not be saved. */
  flush: () => Promise<number | null>;
  /** Settles a conflict: saves over the other text, which is kept as a version. */
  saveOver: (conflict: Conflict) => Promise<void>;
  /** Saves a text over the one the server has, which is kept as a version. */
  bringBack: (text: Text) => Promise<void>;
}

const SOON_MS = 700;
const AGAIN_MS = 4_000;
const keptUnder = (id: number): string => `draft:${id}`;

/**
 * A text that was written in this browser and did not reach the server, however the page ended; null where there is none. It is
 * offered also where somebody saved another text since: brought back, it is saved over that, which is kept as a version.
 */
export function useUnsavedText(id: number, saved: Text): Text | null {
  const [found, setFound] = useState<Text | null>(null);
  const first = useRef(saved);
  useEffect(() => {
    const text = kept(keptUnder(id)) as Partial<Text> | undefined;
    if (!text?.content || !text.plan) return;
    const { content, plan } = text;
    // What the server has already is not offered.
    if (
      JSON.stringify({ content, plan }) ===
      JSON.stringify({ content: first.current.content, plan: first.current.plan })
    )
      forgetUnsavedText(id);
    else queueMicrotask(() => setFound({ content, plan }));
  }, [id]);
  return found;
}

export const forgetUnsavedText = (id: number): void => forget(keptUnder(id));

/** Why a text is not saved: somebody else saved another, it is refused as it is, or it could not be for the moment. */
function unsavedFor(error: unknown): Saving {
  if (!(error instanceof ApiProblem)) return { state: 'failed', words: wordsOf(error) };
  const { revision, savedBy, savedMs } = error.document;
  if (error.status === 409 && typeof revision === 'number')
    return {
      state: 'conflict',
      conflict: {
        revision,
        savedBy: typeof savedBy === 'string' ? savedBy : 'Somebody',
        savedMs: typeof savedMs === 'number' ? savedMs : 0,
      },
    };
  return error.status === 422
    ? { state: 'refused', problem: error }
    : { state: 'failed', words: wordsOf(error) };
}

/** Has the browser ask before the page is left while something is not saved. */
function useWarning(isUnsaved: () => boolean): void {
  const unsaved = useRef(isUnsaved);
  useEffect(() => {
    const warn = (event: BeforeUnloadEvent): void => {
      if (unsaved.current()) event.preventDefault();
    };
    addEventListener('beforeunload', warn);
    return () => removeEventListener('beforeunload', warn);
  }, []);
}

/**
 * Saves a draft soon after it changes, one save at a time. What cannot be saved is kept in this browser and tried
 * again; somebody else's text is never saved over unasked.
 */
export function useAutosave(draft: Draft): Autosave {
  const [saving, setSaving] = useState<Saving>({ state: 'saved', savedMs: draft.savedMs });
  const revision = useRef(draft.revision);
  const pending = useRef<Text | null>(null);
  const hasPending = (): boolean => pending.current !== null;
  const running = useRef<Promise<void> | null>(null);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const blocked = useRef(false);
  const { id } = draft;

  const save = useCallback(
    async (saveOver: boolean): Promise<void> => {
      const text = pending.current;
      if (!text || (blocked.current && !saveOver)) return;
      pending.current = null;
      setSaving({ state: 'saving' });
      try {
        const saved = await request('PUT', `/api/announcements/${id}`, {
          ...text,
          revision: revision.current,
          saveOver,
        });
        revision.current = saved.revision;
        blocked.current = false;
        // Written on meanwhile: that is kept until it is saved in its turn.
        if (!hasPending()) forgetUnsavedText(id);
        setSaving({ state: 'saved', savedMs: saved.savedMs });
      } catch (error) {
        pending.current ??= text;
        keep(keptUnder(id), pending.current);
        const unsaved = unsavedFor(error);
        setSaving(unsaved);
        if (unsaved.state === 'conflict') blocked.current = true;
        if (unsaved.state === 'failed') {
          clearTimeout(timer.current);
          timer.current = setTimeout(() => void runRef.current(), AGAIN_MS);
        }
      }
    },
    [id],
  );

  const run = useCallback(
    async (saveOver = false): Promise<void> => {
      clearTimeout(timer.current);
      while (running.current) await running.current;
      running.current = save(saveOver).finally(() => {
        running.current = null;
      });
      await running.current;
    },
    [save],
  );
  const runRef = useRef(run);
  useEffect(() => {
    // eslint-disable-next-line react-hooks/immutability -- the latest way to save, for a timer that was set before
    runRef.current = run;
  }, [run]);

  const changed = useCallback(
    (text: Text): void => {
      pending.current = text;
      // From the first key on, so that no ending of the page loses it.
      keep(keptUnder(id), text);
      if (blocked.current) return;
      setSaving((before) => (before.state === 'saving' ? before : { state: 'unsaved' }));
      clearTimeout(timer.current);
      timer.current = setTimeout(() => void runRef.current(), SOON_MS);
    },
    [id],
  );

  const flush = useCallback(async (): Promise<number | null> => {
    await runRef.current();
    return pending.current ? null : revision.current;
  }, []);

  const saveOver = useCallback(async (conflict: Conflict): Promise<void> => {
    revision.current = conflict.revision;
    await runRef.current(true);
  }, []);

  const bringBack = useCallback(async (text: Text): Promise<void> => {
    pending.current = text;
    await runRef.current(true);
  }, []);

  useWarning(hasPending);
  return { saving, changed, flush, saveOver, bringBack };
}
