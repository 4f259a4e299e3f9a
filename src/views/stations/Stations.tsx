import { useState } from 'react';
import type { StationLine } from '../../core/people/person.ts';
import { zoneWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { done } from '../../ui/toast.ts';
import { MergeStation } from './MergeStation.tsx';
import { StationDialog } from './StationDialog.tsx';

/** The stations as they stand, and what is done with them. */
function useStations(first: StationLine[]) {
  const [stations, setStations] = useState(first);
  const [error, setError] = useState<string>();
  const act = async (
    words: string,
    work: Promise<StationLine[]>,
    back?: () => Promise<void>,
  ): Promise<void> => {
    setError(undefined);
    try {
      setStations(await work);
      void done(words, back);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const remove = (station: StationLine): Promise<void> =>
    act(`${station.name} is deleted.`, request('DELETE', `/api/stations/${station.id}`));
  const retire = (station: StationLine, retired: boolean): Promise<void> =>
    act(
      retired
        ? `${station.name} is retired: those who are there stay, and nobody is put there any more.`
        : `${station.name} is in use again.`,
      request('PUT', `/api/stations/${station.id}/retired`, { retired }),
      () => retire(station, !retired),
    );
  return { stations, setStations, error, remove, retire };
}

/** The stations: places with a clock and holidays of their own. */
export default function Stations({
  first,
  zone,
  mayChange,
}: {
  first: StationLine[];
  /** The zone of whoever looks, as the first guess for a new station. */
  zone: string;
  mayChange: boolean;
}) {
  const [changing, setChanging] = useState<StationLine | 'new' | null>(null);
  const { stations, setStations, error, remove, retire } = useStations(first);
  const awake = useAwake();
  const [merging, setMerging] = useState<StationLine | null>(null);
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Stations</h1>
        <a className="btn btn-ghost" href="/people">
          People
        </a>
        {mayChange ? (
          <button
            type="button"
            className="btn btn-primary"
            disabled={!awake}
            onClick={() => setChanging('new')}
          >
            Make a station
          </button>
        ) : null}
      </div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {stations.length === 0 ? (
        <p className="text-quiet">
          There are none. A station is a place where people work, with a clock and holidays of its own; an
          organisation in one place needs none.
        </p>
      ) : (
        <ul className="ledger">
          {stations.map((station) => (
            <li key={station.id}>
              <span className="margin figure">{station.people.toLocaleString('en-GB')}</span>
              <span>
                <span className="font-semibold" dir="auto">
                  {station.name}
                </span>
                <span className="block text-sm text-quiet">
                  {people(station.people)}; {zoneWords(station.zone)}
                  {station.retired ? '; retired' : ''}
                </span>
              </span>
              <span className="state flex flex-wrap items-center gap-2">
                {mayChange ? (
                  <>
                    <button
                      type="button"
                      className="btn btn-ghost btn-sm"
                      disabled={!awake}
                      aria-label={`Change ${station.name}`}
                      onClick={() => setChanging(station)}
                    >
                      Change
                    </button>
                    <button
                      type="button"
                      className="btn btn-ghost btn-sm"
                      disabled={!awake}
                      aria-label={station.retired ? `Use ${station.name} again` : `Retire ${station.name}`}
                      onClick={() => void retire(station, !station.retired)}
                    >
                      {station.retired ? 'Use again' : 'Retire'}
                    </button>
                    {stations.length > 1 ? (
                      <button
                        type="button"
                        className="btn btn-ghost btn-sm"
                        disabled={!awake}
                        aria-label={`Merge ${station.name} into another`}
                        onClick={() => setMerging(station)}
                      >
                        Merge
                      </button>
                    ) : null}
                    {station.people === 0 ? (
                      <button
                        type="button"
                        className="btn btn-ghost btn-sm"
                        disabled={!awake}
                        aria-label={`Delete ${station.name}`}
                        onClick={() => void remove(station)}
                      >
                        Delete
                      </button>
                    ) : null}
                  </>
                ) : null}
              </span>
            </li>
          ))}
        </ul>
      )}
      {merging === null ? null : (
        <MergeStation
          station={merging}
          others={stations.filter((other) => other.id !== merging.id)}
          onClose={() => setMerging(null)}
          onDone={(list, words) => {
            setStations(list);
            void done(words);
            setMerging(null);
          }}
        />
      )}
      {changing === null ? null : (
        <StationDialog
          station={changing === 'new' ? null : changing}
          zone={zone}
          onClose={() => setChanging(null)}
          onDone={(list, words) => {
            setStations(list);
            void done(words);
            setChanging(null);
          }}
        />
      )}
    </>
  );
}
