import { useState } from 'react';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Audience } from '../../core/audience/expression.ts';
import {
  PEOPLE_ORDERS,
  SHOWN_PEOPLE,
  type PeopleOrder,
  type ShownPeople,
} from '../../core/people/together.ts';
import { Awake } from '../../ui/Awake.tsx';
import { lazily } from '../../ui/lazily.tsx';

const Phrases = lazily(() => import('../../ui/Phrases.tsx').then((module) => module.Phrases));
const NewGroup = lazily(() => import('../groups/NewGroup.tsx').then((module) => module.NewGroup));

const SHOWN_WORDS: Record<ShownPeople, string> = {
  all: 'everybody',
  here: 'those who are here',
  left: 'those who have left',
  'not in yet': 'those who are not in yet',
  guests: 'guests from outside',
  'mail comes back': 'those whose mail comes back',
};
const ORDER_WORDS: Record<PeopleOrder, string> = {
  name: 'by name',
  station: 'by station',
  occupation: 'by occupation',
  joined: 'who joined last first',
};

export interface PeopleWished {
  search: string;
  shown: ShownPeople;
  order: PeopleOrder;
  /** Whether the order is turned round. */
  turned: 'yes' | '';
  audience: Audience | null;
}

/** Which people are listed: by letters, by where they stand, by what they are in a sentence, and in which order. */
export function PeopleFilter({
  wished,
  choices,
  stations,
  onChange,
}: {
  wished: PeopleWished;
  /** Whether there are stations to speak of. */
  stations: boolean;
  /** What a sentence can be built from; null for those who only look. */
  choices: AudienceChoices | null;
  onChange: (wished: PeopleWished) => void;
}) {
  const [phrased, setPhrased] = useState(false);
  const [making, setMaking] = useState(false);
  return (
    <Awake>
      <div className="mb-4 flex flex-col gap-3">
        <div className="flex flex-wrap items-end gap-3">
          <label className="flex w-80 max-w-full flex-col gap-1">
            {stations ? 'Find by name, mail address or station' : 'Find by name or mail address'}
            <input
              type="search"
              className="input w-full"
              value={wished.search}
              onChange={(event) => onChange({ ...wished, search: event.target.value })}
            />
          </label>
          <label className="flex flex-col gap-1">
            Shown
            <select
              className="select w-52"
              value={wished.shown}
              onChange={(event) => onChange({ ...wished, shown: event.target.value as ShownPeople })}
            >
              {SHOWN_PEOPLE.map((each) => (
                <option key={each} value={each}>
                  {SHOWN_WORDS[each]}
                </option>
              ))}
            </select>
          </label>
          <label className="flex flex-col gap-1">
            Ordered
            <select
              className="select w-52"
              value={wished.order}
              onChange={(event) =>
                onChange({ ...wished, order: event.target.value as PeopleOrder, turned: '' })
              }
            >
              {PEOPLE_ORDERS.filter((each) => stations || each !== 'station').map((each) => (
                <option key={each} value={each}>
                  {ORDER_WORDS[each]}
                </option>
              ))}
            </select>
          </label>
          {choices ? (
            <button
              type="button"
              className="btn btn-ghost"
              aria-expanded={phrased}
              onClick={() => {
                if (phrased) onChange({ ...wished, audience: null });
                setPhrased(!phrased);
              }}
            >
              {phrased ? 'No sentence' : 'By a sentence'}
            </button>
          ) : null}
        </div>
        {phrased && choices ? (
          <div className="border-l-4 border-info pl-4">
            <Phrases
              audience={wished.audience}
              label="Who is listed"
              choices={choices}
              onChange={(audience) => onChange({ ...wished, audience })}
            />
            {wished.audience ? (
              <button type="button" className="btn btn-outline btn-sm mt-3" onClick={() => setMaking(true)}>
                Make a group of this sentence
              </button>
            ) : null}
            {making ? (
              <NewGroup open rule={wished.audience} choices={choices} onClose={() => setMaking(false)} />
            ) : null}
          </div>
        ) : null}
      </div>
    </Awake>
  );
}
