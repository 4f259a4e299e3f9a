import type { Importance } from '../core/content/announcement.ts';

/** The word for matter that is more than routine. */
export function ImportanceWord({ importance }: { importance: Importance }) {
  if (importance === 'routine') return null;
  return (
    <span className={`font-semibold ${importance === 'urgent' ? 'text-error' : 'text-warning'}`}>
      {importance === 'urgent' ? 'Urgent' : 'Important'}
    </span>
  );
}
