import { useId } from 'react';
import type { PollBox } from '../../../core/asks/box.ts';
import { DATE_ANSWERS, MOST_TEXT, type DateAnswer } from '../../../core/asks/poll/pollKinds.ts';
import { lazily } from '../../lazily.tsx';
import type { RankedListProps } from './RankedList.tsx';

/** The order as it is until it can be changed. */
const OrderSoFar = ({ ranking, wordsOf }: RankedListProps) => (
  <ol aria-label="Your order">
    {ranking.map((id, at) => (
      <li key={id} className="flex min-h-11 items-center gap-2 border-t border-base-300 bg-base-100">
        <span className="figure w-8 text-right">{at + 1}.</span>
        <span dir="auto">{wordsOf(id)}</span>
      </li>
    ))}
  </ol>
);

// Dragging is heavy, and most polls ask for no order.
const RankedList = lazily(() => import('./RankedList.tsx').then((module) => module.RankedList), OrderSoFar);

const DATE_SHORT: Record<DateAnswer, string> = { yes: 'yes', 'if need be': 'if need be', no: 'no' };

/** A ballot as it is filled in; of its parts that one is sent which its kind has. */
export interface Draft {
  choices: number[];
  ranking: number[];
  answers: Record<number, DateAnswer>;
  rating: number | null;
  text: string;
}

/** Options put in order: press one to put it next, move it by its handle, or take it out again. */
function RankingField({
  poll,
  ranking,
  onChange,
}: {
  poll: PollBox;
  ranking: number[];
  onChange: (ranking: number[]) => void;
}) {
  const words = (id: number): string => poll.options.find((option) => option.id === id)?.words ?? '';
  const rest = poll.options.filter((option) => !ranking.includes(option.id));
  return (
    <div>
      {ranking.length > 0 ? <RankedList ranking={ranking} wordsOf={words} onChange={onChange} /> : null}
      {rest.length > 0 ? (
        <div className="mt-3">
          <p className="text-sm text-quiet">
            {ranking.length === 0 ? 'Press your first choice, then the next.' : 'Next, if you like:'}
          </p>
          <div className="flex flex-wrap gap-2 py-2">
            {rest.map((option) => (
              <button
                key={option.id}
                type="button"
                className="btn btn-outline"
                onClick={() => onChange([...ranking, option.id])}
              >
                <span dir="auto">{option.words}</span>
              </button>
            ))}
          </div>
        </div>
      ) : null}
    </div>
  );
}

interface FieldProps {
  poll: PollBox;
  draft: Draft;
  onSet: (part: Partial<Draft>) => void;
}

function ChoiceField({ poll, draft, onSet }: FieldProps) {
  const name = useId();
  const full = poll.kind === 'several' && draft.choices.length >= (poll.limit ?? poll.options.length);
  return (
    <fieldset>
      <legend className="sr-only">{poll.question}</legend>
      {poll.kind === 'several' && poll.limit !== null ? (
        <p className="text-sm text-quiet">
          At most {poll.limit}; {draft.choices.length} chosen.
        </p>
      ) : null}
      {poll.options.map((option) => {
        const chosen = draft.choices.includes(option.id);
        return (
          <label
            key={option.id}
            className="flex min-h-11 cursor-pointer items-center gap-3 border-t border-base-300 py-1"
          >
            <input
              type={poll.kind === 'several' ? 'checkbox' : 'radio'}
              name={name}
              className={poll.kind === 'several' ? 'checkbox checkbox-primary' : 'radio radio-primary'}
              checked={chosen}
              disabled={!chosen && full}
              onChange={() =>
                onSet({
                  choices:
                    poll.kind === 'several'
                      ? chosen
                        ? draft.choices.filter((id) => id !== option.id)
                        : [...draft.choices, option.id]
                      : [option.id],
                })
              }
            />
            <span dir="auto">
              {option.words}
              {option.addedBy === null ? null : (
                <span className="text-sm text-quiet"> added by {option.addedBy}</span>
              )}
            </span>
          </label>
        );
      })}
    </fieldset>
  );
}

function DatesField({ poll, draft, onSet }: FieldProps) {
  const name = useId();
  return (
    <table className="w-full border-collapse">
      <caption className="text-left text-sm text-quiet">In your time</caption>
      <thead>
        <tr className="text-sm">
          <td />
          {DATE_ANSWERS.map((answer) => (
            <th key={answer} scope="col" className="px-1 text-center font-normal">
              {DATE_SHORT[answer]}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {poll.options.map((option) => (
          <tr key={option.id} className="border-t border-base-300">
            <th scope="row" className="py-1 text-left font-normal">
              {option.words}
            </th>
            {DATE_ANSWERS.map((answer) => (
              <td key={answer} className="text-center">
                <label className="flex min-h-11 cursor-pointer items-center justify-center">
                  <span className="sr-only">
                    {option.words}: {DATE_SHORT[answer]}
                  </span>
                  <input
                    type="radio"
                    className="radio radio-primary"
                    name={`${name}-${option.id}`}
                    checked={(draft.answers[option.id] ?? 'no') === answer}
                    onChange={() => onSet({ answers: { ...draft.answers, [option.id]: answer } })}
                  />
                </label>
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function RatingField({ poll, draft, onSet }: FieldProps) {
  const name = useId();
  return (
    <fieldset>
      <legend className="text-sm text-quiet">From 1, the least, to {poll.scale}, the most</legend>
      <div className="flex flex-wrap gap-2 py-2">
        {Array.from({ length: poll.scale }, (_, i) => i + 1).map((n) => (
          <label
            key={n}
            className={`btn ${draft.rating === n ? 'btn-neutral' : 'btn-outline'} has-[:focus-visible]:outline-3`}
          >
            <input
              type="radio"
              name={name}
              className="sr-only"
              checked={draft.rating === n}
              onChange={() => onSet({ rating: n })}
            />
            {n}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

function TextField({ draft, onSet }: FieldProps) {
  return (
    <label className="flex flex-col gap-1">
      Your answer
      <textarea
        className="textarea w-full"
        rows={3}
        maxLength={MOST_TEXT}
        value={draft.text}
        onChange={(event) => onSet({ text: event.target.value })}
      />
    </label>
  );
}

/** What is filled in of a ballot, by the kind of its poll. */
export function Answer(props: FieldProps) {
  const { poll, draft, onSet } = props;
  switch (poll.kind) {
    case 'ranking':
      return <RankingField poll={poll} ranking={draft.ranking} onChange={(ranking) => onSet({ ranking })} />;
    case 'dates':
      return <DatesField {...props} />;
    case 'rating':
      return <RatingField {...props} />;
    case 'text':
      return <TextField {...props} />;
    default:
      return <ChoiceField {...props} />;
  }
}
