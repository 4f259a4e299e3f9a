import { timeWords } from '../../core/timing/words.ts';
import type { Saving } from './useAutosave.ts';

export function SavingWords({ saving, zone }: { saving: Saving; zone: string }) {
  const words =
    saving.state === 'saved'
      ? `Saved at ${timeWords(saving.savedMs, zone)}`
      : saving.state === 'failed'
        ? `Not saved. ${saving.words} It is kept in this browser and tried again.`
        : saving.state === 'refused'
          ? `Not saved. ${saving.problem.message}`
          : saving.state === 'conflict'
            ? 'Not saved: somebody else saved meanwhile.'
            : 'Saving …';
  const wrong = saving.state === 'failed' || saving.state === 'refused' || saving.state === 'conflict';
  return (
    <p role="status" className={wrong ? 'text-error' : 'text-quiet'}>
      {words}
    </p>
  );
}
