import { useEffect, useRef, useState } from 'react';
import { useDebouncedCallback } from 'use-debounce';
import type { Automation } from '../../core/automation/automation.ts';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';

const WAIT_MS = 600;
const waits = (automation: Automation | null): boolean => automation !== null;

export type Saving =
  { state: 'saved' } | { state: 'saving' } | { state: 'refused'; words: string; conflict: boolean };

/**
 * Keeps what is written of an automation at the server, a moment after the last change. One save at a time, each over the
 * revision the one before gave.
 */
export function useSaved(
  id: number,
  first: number,
): {
  saving: Saving;
  changed: (automation: Automation) => void;
  /** Saves at once what is not saved yet; gives the revision, or null where it was refused. */
  flush: () => Promise<number | null>;
} {
  const [saving, setSaving] = useState<Saving>({ state: 'saved' });
  const revision = useRef(first);
  const latest = useRef<Automation | null>(null);
  const running = useRef<Promise<boolean>>(Promise.resolve(true));
  const save = (): Promise<boolean> => {
    running.current = running.current.then(async () => {
      const automation = latest.current;
      if (!automation) return true;
      latest.current = null;
      setSaving({ state: 'saving' });
      try {
        const saved = await request('PUT', `/api/automations/${id}`, {
          revision: revision.current,
          automation,
        });
        revision.current = saved.revision;
        // Something may have been written while this was on its way.
        if (waits(latest.current)) return true;
        setSaving({ state: 'saved' });
        return true;
      } catch (problem) {
        latest.current ??= automation;
        const errors = problem instanceof ApiProblem ? problem.errors : [];
        setSaving({
          state: 'refused',
          words: errors[0]?.detail ?? wordsOf(problem),
          conflict: problem instanceof ApiProblem && problem.status === 409,
        });
        return false;
      }
    });
    return running.current;
  };
  const soon = useDebouncedCallback(() => void save(), WAIT_MS);
  useEffect(() => {
    const warn = (event: BeforeUnloadEvent): void => {
      if (latest.current) event.preventDefault();
    };
    addEventListener('beforeunload', warn);
    return () => removeEventListener('beforeunload', warn);
  }, []);
  return {
    saving,
    changed: (automation) => {
      latest.current = automation;
      soon();
    },
    flush: async () => {
      soon.cancel();
      return (await save()) ? revision.current : null;
    },
  };
}
