import { OneOf } from '../../ui/OneOf.tsx';
import { useEffect, useEffectEvent } from 'react';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { zoneWords } from '../../core/timing/words.ts';
import { isPageKey } from '../../ui/pageKeys.ts';
import { RUN_SHEET_STATES, SPANS, type LaneBy, type Span, type View } from '../../core/desk/runSheetView.ts';

const LANE_WORDS: Record<LaneBy, string> = {
  audience: 'Lanes by audience',
  board: 'Lanes by board',
  author: 'Lanes by author',
};
const SPAN_KEYS: Record<string, Span> = { d: 'day', w: 'week', f: 'fortnight' };

/** How long, from when, by whose clock and what of the run sheet is shown, on one row; and the same by keys. */
export function Controls({
  view,
  own,
  stations,
  onSet,
  onStep,
  onToday,
}: {
  view: View;
  own: { zone: string };
  stations: readonly { name: string; zone: string }[];
  onSet: (part: Partial<View>) => void;
  onStep: (by: number) => void;
  onToday: () => void;
}) {
  const press = useEffectEvent((event: KeyboardEvent): void => {
    if (!isPageKey(event) || event.shiftKey) return;
    const span = SPAN_KEYS[event.key];
    if (span) onSet({ span });
    else if (event.key === 't') onToday();
    else if (event.key === 'ArrowLeft' || event.key === 'ArrowRight')
      onStep(event.key === 'ArrowLeft' ? -1 : 1);
    else return;
    event.preventDefault();
  });
  useEffect(() => {
    document.addEventListener('keydown', press);
    return () => document.removeEventListener('keydown', press);
  }, []);
  return (
    <div className="mb-3 flex flex-wrap items-center gap-2 text-sm" role="group" aria-label="What is shown">
      <OneOf
        label="How long"
        kind="words"
        className="border border-base-300 bg-base-100"
        options={(Object.keys(SPANS) as Span[]).map((span) => ({ value: span, words: span }))}
        value={view.span}
        onChange={(span) => onSet({ span })}
      />
      <div role="group" aria-label="From when" className="flex border border-base-300 bg-base-100">
        <button type="button" className="min-h-10 px-1.5" aria-label="Before" onClick={() => onStep(-1)}>
          <ChevronLeft size={18} aria-hidden />
        </button>
        <button type="button" className="min-h-10 px-1.5" onClick={onToday}>
          Today
        </button>
        <button type="button" className="min-h-10 px-1.5" aria-label="After" onClick={() => onStep(1)}>
          <ChevronRight size={18} aria-hidden />
        </button>
      </div>
      <select
        className="select select-sm min-h-10 w-auto"
        aria-label="Lanes by"
        value={view.by}
        onChange={(event) => onSet({ by: event.target.value as LaneBy })}
      >
        {(Object.keys(LANE_WORDS) as LaneBy[]).map((by) => (
          <option key={by} value={by}>
            {LANE_WORDS[by]}
          </option>
        ))}
      </select>
      <select
        className="select select-sm min-h-10 w-auto"
        aria-label="Clock"
        value={view.zone}
        onChange={(event) => onSet({ zone: event.target.value })}
      >
        <option value={own.zone}>My clock ({zoneWords(own.zone)})</option>
        {own.zone === 'UTC' ? null : <option value="UTC">UTC</option>}
        {stations
          .filter((station) => station.zone !== own.zone)
          .map((station) => (
            <option key={station.name} value={station.zone}>
              {station.name}
            </option>
          ))}
      </select>
      <select
        className="select select-sm min-h-10 w-auto"
        aria-label="State"
        value={view.state}
        onChange={(event) => onSet({ state: event.target.value as View['state'] })}
      >
        <option value="">All states</option>
        {RUN_SHEET_STATES.map((state) => (
          <option key={state}>{state}</option>
        ))}
      </select>
      <input
        type="search"
        className="input input-sm min-h-10 w-24 grow"
        aria-label="Find"
        placeholder="Find"
        value={view.search}
        onChange={(event) => onSet({ search: event.target.value })}
      />
    </div>
  );
}
