import { useId, useState } from 'react';
import { DateField } from './DateField.tsx';
import type { AudienceChoices } from '../core/audience/choices.ts';
import { MOST_JOINED_DAYS, ROLES, STANDINGS } from '../core/audience/expression.ts';
import { STANDS, STANDS_WORDS } from '../core/audience/stands.ts';
import type { AudienceForm, Term } from '../core/audience/form.ts';
import { shortDate } from '../core/timing/words.ts';
import { NameSearch } from './NameSearch.tsx';

export type Side = keyof AudienceForm;
export const SIDE_WORDS: Record<Side, string> = { to: 'To', also: 'Only', except: 'Except' };

const KINDS = [
  'station',
  'occupation',
  'attribute',
  'role',
  'standing',
  'joined',
  'answered',
  'session',
  'person',
] as const;
type Kind = (typeof KINDS)[number];
const KIND_WORDS: Record<Kind, string> = {
  station: 'a station',
  occupation: 'an occupation',
  attribute: 'something people have',
  role: 'a role',
  standing: 'at work, on leave, a guest',
  joined: 'when they joined',
  answered: 'an earlier ask',
  session: 'a session of the calendar',
  person: 'a person by name',
};

/** Adds a term that is not a group: a kind, then what of it. */
export function AddTerm({
  choices,
  onAdd,
}: {
  choices: AudienceChoices;
  onAdd: (side: Side, term: Term, words?: string) => void;
}) {
  const [side, setSide] = useState<Side>(choices.anybody ? 'to' : 'also');
  const kinds = KINDS.filter((each) => each !== 'station' || choices.stations.length > 0);
  const [kind, setKind] = useState<Kind>(kinds[0] ?? 'person');
  const options: { key: string; words: string; term: Term }[] =
    kind === 'station'
      ? choices.stations.map(({ id, name }) => ({
          key: String(id),
          words: name,
          term: { kind: 'station', id },
        }))
      : kind === 'occupation'
        ? choices.occupations.map((occupation) => ({
            key: occupation,
            words: occupation,
            term: { kind: 'occupation', occupation },
          }))
        : kind === 'attribute'
          ? choices.attributes.flatMap(({ name, values }) =>
              values.map((value) => ({
                key: `${name}\u0000${value}`,
                words: `${name}: ${value}`,
                term: { kind: 'attribute' as const, name, value },
              })),
            )
          : kind === 'role'
            ? ROLES.map((role) => ({ key: role, words: role, term: { kind: 'role', role } }))
            : kind === 'standing'
              ? [
                  ...STANDINGS.filter((standing) => standing !== 'left').map((standing) => ({
                    key: standing,
                    words: standing,
                    term: { kind: 'standing' as const, standing },
                  })),
                  { key: 'guests', words: 'guests from outside', term: { kind: 'guests' as const } },
                ]
              : kind === 'answered'
                ? choices.asks.flatMap(({ occurrenceId, title, dueMs }) =>
                    [true, false].map((answered) => ({
                      key: `${occurrenceId}${answered}`,
                      words: `${answered ? 'has answered' : 'has not answered'} “${title}” (${shortDate(dueMs, 'UTC')})`,
                      term: { kind: 'answered' as const, occurrenceId, answered },
                    })),
                  )
                : kind === 'session'
                  ? choices.sessions.flatMap(({ dateId, words }) =>
                      STANDS.map((stands) => ({
                        key: `${dateId}${stands}`,
                        words: `${STANDS_WORDS[stands]}: ${words}`,
                        term: { kind: 'session' as const, dateId, stands },
                      })),
                    )
                  : [];
  return (
    <div className="mt-3 flex flex-wrap items-end gap-2 border-t border-base-300 pt-3">
      <label className="flex flex-col gap-1 text-sm">
        Add
        <select className="select" value={side} onChange={(event) => setSide(event.target.value as Side)}>
          <option value="to" disabled={!choices.anybody}>
            to
          </option>
          <option value="also">only those of</option>
          <option value="except">except those of</option>
        </select>
      </label>
      <label className="flex flex-col gap-1 text-sm">
        Chosen by
        <select className="select" value={kind} onChange={(event) => setKind(event.target.value as Kind)}>
          {kinds.map((each) => (
            <option key={each} value={each}>
              {KIND_WORDS[each]}
            </option>
          ))}
        </select>
      </label>
      {kind === 'joined' ? (
        <JoinedTerm onAdd={(term) => onAdd(side, term)} />
      ) : kind === 'person' ? (
        <div className="min-w-56 grow">
          <NameSearch
            label="Name"
            onChoose={(found) => onAdd(side, { kind: 'person', id: found.id }, found.name)}
          />
        </div>
      ) : (
        <label className="flex min-w-56 grow flex-col gap-1 text-sm">
          Which
          <select
            className="select w-full"
            value=""
            onChange={(event) => {
              const option = options.find((each) => each.key === event.target.value);
              if (option) onAdd(side, option.term);
            }}
          >
            <option value="">{options.length === 0 ? 'There is none' : 'Choose …'}</option>
            {options.map((option) => (
              <option key={option.key} value={option.key}>
                {option.words}
              </option>
            ))}
          </select>
        </label>
      )}
    </div>
  );
}

/** Adds those who joined lately, or since a date. */
function JoinedTerm({ onAdd }: { onAdd: (term: Term) => void }) {
  const [days, setDays] = useState('60');
  const [wrongDays, setWrongDays] = useState(false);
  const [date, setDate] = useState('');
  const wrongId = useId();
  return (
    <>
      <label className="flex flex-col gap-1 text-sm">
        in the last so many days
        <input
          type="number"
          min={1}
          max={MOST_JOINED_DAYS}
          className="input w-28"
          aria-invalid={wrongDays}
          aria-describedby={wrongDays ? wrongId : undefined}
          value={days}
          onChange={(event) => {
            setDays(event.target.value);
            setWrongDays(false);
          }}
        />
        {wrongDays ? (
          <span id={wrongId} role="alert" className="text-error">
            Write a whole number from 1 to {MOST_JOINED_DAYS}.
          </span>
        ) : null}
      </label>
      <button
        type="button"
        className="btn btn-outline"
        onClick={() => {
          const n = Number(days);
          if (Number.isInteger(n) && n >= 1 && n <= MOST_JOINED_DAYS)
            onAdd({ kind: 'joined within', days: n });
          else setWrongDays(true);
        }}
      >
        Add
      </button>
      <DateField label="or since a date" className="w-44 text-sm" value={date} onChange={setDate} />
      <button
        type="button"
        className="btn btn-outline"
        disabled={date === ''}
        onClick={() => onAdd({ kind: 'joined since', date })}
      >
        Add
      </button>
    </>
  );
}
