import { useState } from 'react';
import type { Holiday } from '../../core/people/working.ts';
import { dateWords } from '../../core/timing/words.ts';
import { ApiProblem, ask, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';

/** Days on which nobody works, at one station or everywhere; for coordinators. */
export function Holidays({
  first,
  stations,
}: {
  first: Holiday[];
  stations: { id: number; name: string }[];
}) {
  const [found, setFound] = useState(first);
  const [on, setOn] = useState('');
  const [name, setName] = useState('');
  const [stationId, setStationId] = useState('');
  const [error, setError] = useState<string>();
  const fail = (problem: unknown): void =>
    setError(
      problem instanceof ApiProblem ? (problem.errors[0]?.detail ?? problem.message) : wordsOf(problem),
    );
  const add = async (): Promise<void> => {
    setError(undefined);
    const station = stations.find((each) => String(each.id) === stationId);
    try {
      const { id } = await ask<{ id: number }>('POST', '/api/house/holidays', {
        on,
        name,
        stationId: station?.id ?? null,
      });
      setFound((before) =>
        [...before, { id, on, name, stationId: station?.id ?? null, station: station?.name ?? null }].sort(
          (a, b) => (a.on < b.on ? -1 : 1),
        ),
      );
      setOn('');
      setName('');
    } catch (problem) {
      fail(problem);
    }
  };
  return (
    <section className="mb-10 max-w-2xl" aria-labelledby="holidays">
      <h2 id="holidays" className="mb-2">
        Holidays
      </h2>
      <p className="mb-3 text-quiet">On these days check-ins are not asked, at one station or everywhere.</p>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {found.length === 0 ? <p className="text-quiet">No holidays are noted.</p> : null}
      <ul>
        {found.map((holiday) => (
          <li key={holiday.id} className="flex min-h-11 items-center gap-3 border-t border-base-300">
            <span className="flex-1">
              {dateWords(Date.parse(`${holiday.on}T12:00:00Z`), 'UTC')}: {holiday.name}{' '}
              <span className="text-sm text-quiet">{holiday.station ?? 'everywhere'}</span>
            </span>
            <button
              type="button"
              className="btn btn-outline"
              aria-label={`Take out ${holiday.name}`}
              onClick={() => {
                ask('DELETE', `/api/house/holidays/${holiday.id}`).then(
                  () => setFound((before) => before.filter((each) => each.id !== holiday.id)),
                  fail,
                );
              }}
            >
              Take out
            </button>
          </li>
        ))}
      </ul>
      <form
        className="mt-2 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void add();
        }}
      >
        <label className="flex flex-col gap-1">
          Date
          <input type="date" className="input" value={on} onChange={(event) => setOn(event.target.value)} />
        </label>
        <label className="flex flex-col gap-1">
          Its name
          <input
            type="text"
            className="input w-48"
            maxLength={120}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <label className="flex flex-col gap-1">
          Where
          <select className="select" value={stationId} onChange={(event) => setStationId(event.target.value)}>
            <option value="">everywhere</option>
            {stations.map((station) => (
              <option key={station.id} value={station.id}>
                {station.name}
              </option>
            ))}
          </select>
        </label>
        <button type="submit" className="btn btn-outline" disabled={on === '' || name.trim() === ''}>
          Add the holiday
        </button>
      </form>
    </section>
  );
}
