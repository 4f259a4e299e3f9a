import { useState } from 'react';
import type { ReactionCounts } from '../../core/boards/reaction.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { Reactions } from '../../ui/Reactions.tsx';

/** Reacting to what came to the inbox. Others do not see it; whoever sent it sees how often. */
export default function React({ occurrenceId, first }: { occurrenceId: number; first: ReactionCounts }) {
  const [error, setError] = useState<string>();
  return (
    <div className="mt-6">
      <Reactions
        subject="occurrence"
        id={occurrenceId}
        counts={first}
        may
        onError={(problem) => setError(wordsOf(problem))}
      />
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </div>
  );
}
