import { MOST_TOGETHER } from '../../core/people/together.ts';
import { people as peopleWords } from '../../core/words.ts';
import { useAwake } from '../../ui/useAwake.ts';

const PLACES = [
  ['/groups', 'Groups'],
  ['/stations', 'Stations'],
  ['/kinds', 'Occupations and attributes'],
] as const;
const COORDINATORS_PLACES = [
  ['/rights', 'Rights'],
  ['/audit', 'What was done'],
  ['/people/import', 'Import'],
  ['/accounts', 'Accounts elsewhere'],
  ['/api/people.csv', 'Export as CSV'],
  ['/api/people.vcf', 'Export as vCard'],
] as const;

/** What the directory is headed by: what can be begun, and what else there is about people. */
export function Top({ mayChange, onOpen }: { mayChange: boolean; onOpen: (what: 'add' | 'invite') => void }) {
  const awake = useAwake();
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">People</h1>
        {mayChange ? (
          <>
            <button
              type="button"
              className="btn btn-outline"
              disabled={!awake}
              onClick={() => onOpen('invite')}
            >
              Invite those not in yet
            </button>
            <button type="button" className="btn btn-primary" disabled={!awake} onClick={() => onOpen('add')}>
              Add a person
            </button>
          </>
        ) : null}
      </div>
      <nav aria-label="More about people" className="mb-4 flex flex-wrap gap-x-6">
        {[...PLACES, ...(mayChange ? COORDINATORS_PLACES : [])].map(([path, words]) => (
          <a
            key={path}
            className="link-quiet flex min-h-11 items-center"
            href={path}
            download={path.startsWith('/api/') ? '' : undefined}
          >
            {words}
          </a>
        ))}
      </nav>
    </>
  );
}

/** How many are listed, and a way to choose them all. */
export function Total({
  count,
  narrowed,
  stations,
  onChooseAll,
}: {
  count: number;
  /** Whether they are chosen by more than their name. */
  narrowed: boolean;
  stations: boolean;
  /** Null where nobody is chosen here. */
  onChooseAll: (() => void) | null;
}) {
  const awake = useAwake();
  return (
    <div className="flex min-h-11 flex-wrap items-center gap-x-4">
      <p role="status" className="text-quiet">
        {count === 0
          ? narrowed
            ? 'Nobody is listed by what was chosen above.'
            : stations
              ? 'Nobody of that name, address or station.'
              : 'Nobody of that name or address.'
          : peopleWords(count)}
      </p>
      {onChooseAll && count > 0 ? (
        <button type="button" className="btn btn-ghost btn-sm" disabled={!awake} onClick={onChooseAll}>
          {count <= MOST_TOGETHER
            ? `Choose all ${count.toLocaleString('en-GB')}`
            : `Choose the first ${MOST_TOGETHER.toLocaleString('en-GB')} by name`}
        </button>
      ) : null}
    </div>
  );
}
