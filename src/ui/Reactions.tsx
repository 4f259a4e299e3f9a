import { useState } from 'react';
import { REACTIONS, REACTION_WORDS, type Reaction, type ReactionCounts } from '../core/boards/reaction.ts';
import { request } from './api.ts';
import { ReactionMark } from './ReactionMark.tsx';
import { useAwake } from './useAwake.ts';

/** How something was reacted to, and the few ways to do it. What is pressed shows at once, and is taken back where the server refuses. */
export function Reactions({
  subject,
  id,
  counts,
  may,
  onError,
}: {
  subject: 'post' | 'reply' | 'occurrence';
  id: number;
  counts: ReactionCounts;
  may: boolean;
  onError: (problem: unknown) => void;
}) {
  const awake = useAwake();
  const [open, setOpen] = useState(false);
  // What was pressed here and is not in the counts yet.
  const [pressed, setPressed] = useState<{ base: ReactionCounts; mine: Partial<Record<Reaction, boolean>> }>({
    base: counts,
    mine: {},
  });
  const own = pressed.base === counts ? pressed.mine : {};
  const shown = (kind: Reaction): { n: number; mine: boolean } => {
    const now = counts[kind] ?? { n: 0, mine: false };
    const mine = own[kind] ?? now.mine;
    return { mine, n: now.n + (mine === now.mine ? 0 : mine ? 1 : -1) };
  };
  const press = async (kind: Reaction): Promise<void> => {
    const given = !shown(kind).mine;
    // Beside others that are on their way.
    setPressed((now) => ({
      base: counts,
      mine: { ...(now.base === counts ? now.mine : {}), [kind]: given },
    }));
    setOpen(false);
    try {
      await request('PUT', '/api/reactions', { subject, id, kind, given });
    } catch (problem) {
      // Of counts that came meanwhile nothing is taken back: they are as the server has them.
      setPressed((now) =>
        now.base === counts ? { base: counts, mine: { ...now.mine, [kind]: !given } } : now,
      );
      onError(problem);
    }
  };
  const given = REACTIONS.filter((kind) => shown(kind).n > 0);
  if (!may && given.length === 0) return null;
  return (
    <div className="flex flex-wrap items-center gap-1.5" role="group" aria-label="Reactions">
      {given.map((kind) => {
        const { n, mine } = shown(kind);
        return (
          <button
            key={kind}
            type="button"
            className={`flex min-h-9 items-center gap-1.5 rounded border px-2 text-sm ${mine ? 'border-success font-semibold text-success' : 'border-base-300 text-quiet'}`}
            aria-pressed={mine}
            aria-label={`${REACTION_WORDS[kind]}: ${n}`}
            title={REACTION_WORDS[kind]}
            disabled={!may || !awake}
            onClick={() => void press(kind)}
          >
            <ReactionMark kind={kind} />
            <span className="figure">{n}</span>
          </button>
        );
      })}
      {may ? (
        <>
          <button
            type="button"
            className={`btn btn-ghost btn-sm ${given.length === 0 ? '-ml-3' : ''}`}
            aria-expanded={open}
            disabled={!awake}
            onClick={() => setOpen(!open)}
          >
            React
          </button>
          {open
            ? REACTIONS.filter((kind) => !given.includes(kind)).map((kind) => (
                <button
                  key={kind}
                  type="button"
                  className="flex min-h-9 items-center gap-1.5 rounded border border-base-300 px-2 text-sm hover:bg-base-200"
                  onClick={() => void press(kind)}
                >
                  <ReactionMark kind={kind} />
                  {REACTION_WORDS[kind]}
                </button>
              ))
            : null}
        </>
      ) : null}
    </div>
  );
}
