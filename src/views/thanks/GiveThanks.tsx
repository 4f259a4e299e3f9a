import { useRef, useState } from 'react';
import type { Ribbon } from '../../core/thanks/ribbon.ts';
import { ApiProblem, request, newKey, wordsOf } from '../../ui/api.ts';
import { list } from '../../core/words.ts';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { RibbonBadge } from '../../ui/RibbonBadge.tsx';
import { useAwake } from '../../ui/useAwake.ts';

/** Thanking people in public: a ribbon, whom, a sentence; with how it will stand beside it. */
export default function GiveThanks({
  ribbons,
  boards,
  board,
  me,
}: {
  ribbons: Ribbon[];
  boards: { id: number; name: string; held: boolean }[];
  /** The board it was begun on. */
  board: number | null;
  me: string;
}) {
  const awake = useAwake();
  const [ribbonId, setRibbonId] = useState(ribbons[0]?.id ?? 0);
  const [to, setTo] = useState<{ id: number; name: string }[]>([]);
  const [sentence, setSentence] = useState('');
  const [boardId, setBoardId] = useState(boards.find((each) => each.id === board)?.id ?? boards[0]?.id ?? 0);
  const [problem, setProblem] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const key = useRef(newKey());
  const ribbon = ribbons.find((each) => each.id === ribbonId);
  const chosen = boards.find((each) => each.id === boardId);
  const wrong = (field: string): string | undefined =>
    problem instanceof ApiProblem ? problem.about(field) : undefined;
  const give = async (): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    try {
      const { id } = await request(
        'POST',
        '/api/thanks',
        { ribbonId, to: to.map((each) => each.id), sentence, boardId },
        key.current,
      );
      location.assign(`/posts/${id}`);
    } catch (error) {
      setProblem(error);
      setBusy(false);
    }
  };
  if (boards.length === 0)
    return (
      <p className="text-quiet">
        No board that you may write on takes thanks. A coordinator can make one in its settings.
      </p>
    );
  const told = ['ribbonId', 'to', 'sentence', 'boardId'].some((field) => wrong(field) !== undefined);
  return (
    <div className="grid gap-8 lg:grid-cols-2">
      <form
        className="flex flex-col gap-5"
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          void give();
        }}
      >
        <fieldset>
          <legend className="mb-2 font-semibold">The ribbon</legend>
          <div className="flex flex-wrap gap-2">
            {ribbons.map((each) => (
              <label
                key={each.id}
                className={`flex w-28 cursor-pointer flex-col items-center gap-1 border p-2 text-center text-sm ${each.id === ribbonId ? 'border-primary bg-base-100 font-semibold' : 'border-base-300'}`}
              >
                <input
                  type="radio"
                  name="ribbon"
                  className="sr-only"
                  checked={each.id === ribbonId}
                  onChange={() => setRibbonId(each.id)}
                />
                <RibbonBadge ribbon={each} size={44} />
                {each.name}
              </label>
            ))}
          </div>
          {wrong('ribbonId') === undefined ? null : <span className="text-error">{wrong('ribbonId')}</span>}
        </fieldset>
        <div>
          <NameSearch
            label="Whom you thank"
            from={`/api/boards/${boardId}/names`}
            onChoose={(found) => {
              if (found.kind === 'person' && !to.some((each) => each.id === found.id))
                setTo([...to, { id: found.id, name: found.name }]);
            }}
          />
          <ul className="mt-2 flex flex-wrap gap-2">
            {to.map((person) => (
              <li key={person.id} className="flex items-center gap-1 border border-base-300 bg-base-100 pl-3">
                <span dir="auto">{person.name}</span>
                <button
                  type="button"
                  className="btn btn-ghost btn-sm px-2"
                  aria-label={`Take ${person.name} out`}
                  onClick={() => setTo(to.filter((each) => each.id !== person.id))}
                >
                  ×
                </button>
              </li>
            ))}
          </ul>
          {wrong('to') === undefined ? null : <span className="text-error">{wrong('to')}</span>}
        </div>
        <label className="flex flex-col gap-1">
          What for, in a sentence
          <textarea
            className="textarea w-full"
            rows={3}
            maxLength={300}
            value={sentence}
            aria-invalid={wrong('sentence') !== undefined}
            onChange={(event) => setSentence(event.target.value)}
            dir="auto"
          />
          {wrong('sentence') === undefined ? null : <span className="text-error">{wrong('sentence')}</span>}
        </label>
        {boards.length > 1 ? (
          <label className="flex flex-col gap-1">
            Where it stands
            <select
              className="select w-full"
              value={boardId}
              onChange={(event) => setBoardId(Number(event.target.value))}
            >
              {boards.map((each) => (
                <option key={each.id} value={each.id}>
                  {each.name}
                </option>
              ))}
            </select>
          </label>
        ) : null}
        {problem === undefined || told ? null : <Notice tone="error">{wordsOf(problem)}</Notice>}
        <div>
          <button className="btn btn-primary" disabled={busy || !awake}>
            {chosen?.held
              ? 'Hand it to the moderators'
              : `Thank ${
                  to.length === 0
                    ? 'them'
                    : list(
                        to.map((each) => each.name),
                        'and',
                      )
                } on ${chosen?.name ?? ''}`}
          </button>
        </div>
      </form>
      <section aria-label="How it will stand">
        <h2 className="mb-2 text-base text-quiet">How it will stand on {chosen?.name}</h2>
        {ribbon ? (
          <div className="flex items-center gap-4 bg-base-100 p-5">
            <RibbonBadge ribbon={ribbon} size={72} />
            <div>
              <p className="text-sm text-quiet">{ribbon.name}</p>
              <p className="font-display text-xl" dir="auto">
                {sentence.trim() === '' ? 'What for, in a sentence.' : sentence}
              </p>
              <p className="text-sm text-quiet">
                To{' '}
                {to.length === 0
                  ? '…'
                  : list(
                      to.map((each) => each.name),
                      'and',
                    )}
                , from {me}
              </p>
            </div>
          </div>
        ) : null}
      </section>
    </div>
  );
}
