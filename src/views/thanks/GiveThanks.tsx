import { useRef } from 'react';
import { useWatch } from 'react-hook-form';
import type { Ribbon } from '../../core/thanks/ribbon.ts';
import { list } from '../../core/words.ts';
import { newKey, request } from '../../ui/api.ts';
import { FormProblem, LinesField, SelectField } from '../../ui/form/fields.tsx';
import { useServerForm, type ServerForm } from '../../ui/form/useServerForm.ts';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { RibbonBadge } from '../../ui/RibbonBadge.tsx';
import { useAwake } from '../../ui/useAwake.ts';

interface Given {
  ribbonId: number;
  to: { id: number; name: string }[];
  sentence: string;
  boardId: number;
}
type Form = ServerForm<Given>;

const namesOf = (to: Given['to'], nobody: string): string =>
  to.length === 0
    ? nobody
    : list(
        to.map((each) => each.name),
        'and',
      );

function Wrong({ form, name }: { form: Form; name: 'ribbonId' | 'to' }) {
  const words = form.formState.errors[name]?.message;
  return words === undefined ? null : <span className="text-error">{words}</span>;
}

function RibbonChoice({ form, ribbons }: { form: Form; ribbons: Ribbon[] }) {
  const ribbonId = useWatch({ control: form.control, name: 'ribbonId' });
  return (
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
              onChange={() => form.setValue('ribbonId', each.id, { shouldDirty: true })}
            />
            <RibbonBadge ribbon={each} size={44} />
            {each.name}
          </label>
        ))}
      </div>
      <Wrong form={form} name="ribbonId" />
    </fieldset>
  );
}

function Whom({ form }: { form: Form }) {
  const [to, boardId] = useWatch({ control: form.control, name: ['to', 'boardId'] });
  const set = (next: Given['to']): void => form.setValue('to', next, { shouldDirty: true });
  return (
    <div>
      <NameSearch
        label="Whom you thank"
        from={`/api/boards/${boardId}/names`}
        onChoose={(found) => {
          if (found.kind === 'person' && !to.some((each) => each.id === found.id))
            set([...to, { id: found.id, name: found.name }]);
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
              onClick={() => set(to.filter((each) => each.id !== person.id))}
            >
              ×
            </button>
          </li>
        ))}
      </ul>
      <Wrong form={form} name="to" />
    </div>
  );
}

/** How it will stand on its board. */
function Preview({ given, ribbon, on, me }: { given: Given; ribbon: Ribbon; on: string; me: string }) {
  return (
    <section aria-label="How it will stand">
      <h2 className="mb-2 text-base text-quiet">How it will stand on {on}</h2>
      <div className="flex items-center gap-4 bg-base-100 p-5">
        <RibbonBadge ribbon={ribbon} size={72} />
        <div>
          <p className="text-sm text-quiet">{ribbon.name}</p>
          <p className="font-display text-xl" dir="auto">
            {given.sentence.trim() === '' ? 'What for, in a sentence.' : given.sentence}
          </p>
          <p className="text-sm text-quiet">
            To {namesOf(given.to, '…')}, from {me}
          </p>
        </div>
      </div>
    </section>
  );
}

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
  // The same thanks keep their key, so that pressing again after a lost answer gives them once.
  const key = useRef(newKey());
  const form = useServerForm<Given>({
    values: {
      ribbonId: ribbons[0]?.id ?? 0,
      to: [],
      sentence: '',
      boardId: boards.find((each) => each.id === board)?.id ?? boards[0]?.id ?? 0,
    },
    send: async (given) => {
      const body = { ...given, to: given.to.map((each) => each.id) };
      const { id } = await request('POST', '/api/thanks', body, key.current);
      form.reset(given);
      location.assign(`/posts/${id}`);
    },
  });
  const [ribbonId, to, sentence, boardId] = useWatch({
    control: form.control,
    name: ['ribbonId', 'to', 'sentence', 'boardId'],
  });
  const ribbon = ribbons.find((each) => each.id === ribbonId);
  const chosen = boards.find((each) => each.id === boardId);
  if (boards.length === 0)
    return (
      <p className="text-quiet">
        No board that you may write on takes thanks. A coordinator can make one in its settings.
      </p>
    );
  return (
    <div className="grid gap-8 lg:grid-cols-2">
      <form className="flex flex-col gap-5" noValidate onSubmit={(event) => void form.submit(event)}>
        <RibbonChoice form={form} ribbons={ribbons} />
        <Whom form={form} />
        <LinesField form={form} name="sentence" label="What for, in a sentence" maxLength={300} />
        {boards.length > 1 ? (
          <SelectField form={form} name="boardId" label="Where it stands" read={Number}>
            {boards.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
          </SelectField>
        ) : null}
        <FormProblem form={form} />
        <div>
          <button className="btn btn-primary" disabled={form.formState.isSubmitting || !awake}>
            {chosen?.held
              ? 'Hand it to the moderators'
              : `Thank ${namesOf(to, 'them')} on ${chosen?.name ?? ''}`}
          </button>
        </div>
      </form>
      {ribbon ? (
        <Preview
          given={{ ribbonId, to, sentence, boardId }}
          ribbon={ribbon}
          on={chosen?.name ?? ''}
          me={me}
        />
      ) : null}
    </div>
  );
}
