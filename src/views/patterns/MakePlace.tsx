import { useId, useState } from 'react';
import { Controller, useWatch } from 'react-hook-form';
import { datesMoved } from '../../core/patterns/filling.ts';
import type { BlankLine, PatternPage, PlannedPlace } from '../../core/patterns/page.ts';
import { request } from '../../ui/api.ts';
import { DateField } from '../../ui/DateField.tsx';
import { CheckField, FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm, type ServerForm } from '../../ui/form/useServerForm.ts';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { ZoneField } from '../../ui/ZoneField.tsx';
import { blankWords } from './blanks.ts';
import { Parts } from './Parts.tsx';

interface Named {
  id: number;
  name: string;
}
interface Given {
  name: string;
  owner: Named;
  /** By what each was in the pattern. */
  station: Record<string, string>;
  person: Record<string, string>;
  zone: Record<string, string>;
  date: Record<string, string>;
  atWork: boolean;
}
type Form = ServerForm<Given>;
type Looked = PlannedPlace & { of: string };

const answersOf = ({ name, owner, atWork, ...asked }: Given, pattern: PatternPage) => ({
  name,
  ownerId: owner.id,
  atWork,
  given: Object.fromEntries(pattern.blanks.map(({ key, kind, was }) => [key, asked[kind][was] || was])),
});

const wasOf = (blanks: readonly BlankLine[], kind: BlankLine['kind']): Record<string, string> =>
  Object.fromEntries(blanks.flatMap((blank) => (blank.kind === kind ? [[blank.was, blank.was]] : [])));

/** A place that is made from a pattern: only what differs is asked, what would be made is seen first. */
export function MakePlace({ pattern, me }: { pattern: PatternPage; me: Named }) {
  const id = useId();
  const awake = useAwake();
  const [looked, setLooked] = useState<Looked>();
  const form: Form = useServerForm<Given>({
    values: {
      name: '',
      owner: me,
      // Which station it is for is what differs first: none is taken for granted.
      station: Object.fromEntries(Object.keys(wasOf(pattern.blanks, 'station')).map((was) => [was, ''])),
      person: wasOf(pattern.blanks, 'person'),
      zone: wasOf(pattern.blanks, 'zone'),
      date: wasOf(pattern.blanks, 'date'),
      atWork: true,
    },
    send: async (given) => {
      const without = Object.entries(given.station).find(([, chosen]) => chosen === '')?.[0];
      if (without !== undefined) {
        form.setError(
          `station.${without}`,
          { message: 'Choose the station it is for.' },
          { shouldFocus: true },
        );
        return;
      }
      const answers = answersOf(given, pattern);
      const of = JSON.stringify(answers);
      if (looked?.of === of && isReady(looked)) {
        const made = await request('POST', `/api/patterns/${pattern.id}/places`, {
          number: pattern.number,
          answers,
        });
        form.reset(given);
        location.assign(`/patterns/places/${made.id}?made`);
        return;
      }
      const plan = await request('POST', `/api/patterns/${pattern.id}/look`, { answers });
      setLooked({ ...plan, of });
    },
  });
  const given = useWatch({ control: form.control }) as Given;
  const now = looked?.of === JSON.stringify(answersOf(given, pattern)) ? looked : undefined;
  const ready = now !== undefined && isReady(now);
  return (
    <section aria-labelledby={`${id}title`} className="mb-8">
      <h2 id={`${id}title`} className="mb-2">
        Make a place
      </h2>
      <form className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        {/* What is chosen before the page is awake would be lost. */}
        <fieldset disabled={!awake} className="contents">
          <div className="grid gap-4 sm:grid-cols-2">
            <TextField form={form} name="name" label="What it is called" maxLength={80} />
            <Owner form={form} />
            {pattern.blanks.map((blank) => (
              <Asked key={blank.key} blank={blank} pattern={pattern} form={form} />
            ))}
          </div>
          {pattern.parts.some(({ kind }) => kind === 'automation') ? (
            <CheckField form={form} name="atWork" label="Put its automations to work at once" />
          ) : null}
        </fieldset>
        <FormProblem form={form} />
        {now?.errors.map(({ field, detail }) => (
          <Notice key={field} tone="error">
            {detail}
          </Notice>
        ))}
        {now ? (
          <div>
            <h3 className="mb-1">What would be made</h3>
            <Parts label="What would be made" parts={now.parts} problemOf={({ problem }) => problem} />
            <p className="mt-2 text-quiet" role="status">
              {ready
                ? 'Nothing has been made yet. It can be taken back whole until somebody has used it.'
                : 'It cannot be made like this: all of it is made, or nothing.'}
            </p>
          </div>
        ) : null}
        <div>
          <button className="btn btn-primary" disabled={!awake || form.formState.isSubmitting}>
            {ready ? 'Make it' : 'Show what would be made'}
          </button>
        </div>
      </form>
    </section>
  );
}

const isReady = ({ errors, parts }: PlannedPlace): boolean =>
  errors.length === 0 && parts.every(({ problem }) => problem === null);

/** Who looks after the place: whoever makes it, unless somebody else is chosen. */
function Owner({ form }: { form: Form }) {
  const [choosing, setChoosing] = useState(false);
  const problem = form.formState.errors.owner?.message;
  return (
    <Controller
      control={form.control}
      name="owner"
      render={({ field }) =>
        choosing ? (
          <NameSearch
            label="Who looks after it"
            onChoose={({ id, name }) => {
              field.onChange({ id, name });
              setChoosing(false);
            }}
          />
        ) : (
          <div className="flex flex-col gap-1">
            <span>Who looks after it</span>
            <span className="flex min-h-11 flex-wrap items-center gap-3">
              <span className="font-semibold" dir="auto">
                {field.value.name}
              </span>
              <button type="button" className="btn btn-ghost btn-sm" onClick={() => setChoosing(true)}>
                Somebody else
              </button>
            </span>
            {problem === undefined ? null : <span className="text-error">{problem}</span>}
          </div>
        )
      }
    />
  );
}

/** Something the pattern asks for. A station brings its name and its clock along, a first date the others. */
function Asked({ blank, pattern, form }: { blank: BlankLine; pattern: PatternPage; form: Form }) {
  const label = blankWords(blank);
  const { kind, was } = blank;
  const dates = pattern.blanks.flatMap((each) => (each.kind === 'date' ? [each.was] : []));
  const chooseStation = (value: string): void => {
    const before = pattern.stations.find(({ id }) => String(id) === form.getValues(`station.${was}`));
    const station = pattern.stations.find(({ id }) => String(id) === value);
    form.setValue(`station.${was}`, value, { shouldDirty: true });
    form.clearErrors(`station.${was}`);
    if (!station) return;
    const name = form.getValues('name');
    if (name.trim() === '' || name === before?.name)
      form.setValue('name', station.name, { shouldDirty: true });
    const zone = pattern.blanks.find((each) => each.kind === 'zone');
    if (zone && !form.getFieldState(`zone.${zone.was}`).isDirty)
      form.setValue(`zone.${zone.was}`, station.zone, { shouldDirty: false });
  };
  const chooseDate = (value: string): void => {
    form.setValue(`date.${was}`, value, { shouldDirty: true });
    if (was !== dates[0] || value === '') return;
    const touched = Object.fromEntries(
      dates.flatMap((date) =>
        date !== was && form.getFieldState(`date.${date}`).isDirty
          ? [[date, form.getValues(`date.${date}`)]]
          : [],
      ),
    );
    for (const [date, moved] of Object.entries(datesMoved(dates, value, touched)))
      if (date !== was) form.setValue(`date.${date}`, moved, { shouldDirty: false });
  };
  return (
    <Controller
      control={form.control}
      name={`${kind}.${was}` as 'station.1'}
      render={({ field, fieldState }) => {
        if (kind === 'station')
          return (
            <label className="flex flex-col gap-1">
              {label}
              <select
                ref={field.ref}
                className="select w-full"
                value={field.value}
                aria-invalid={fieldState.invalid}
                onChange={(event) => chooseStation(event.target.value)}
              >
                <option value="">Choose a station</option>
                {pattern.stations.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </select>
              {fieldState.error ? <span className="text-error">{fieldState.error.message}</span> : null}
            </label>
          );
        if (kind === 'zone') return <ZoneField label={label} value={field.value} onChange={field.onChange} />;
        if (kind === 'date') return <DateField label={label} value={field.value} onChange={chooseDate} />;
        return (
          <Person label={label} words={blank.words} was={was} value={field.value} onChange={field.onChange} />
        );
      }}
    />
  );
}

function Person({
  label,
  words,
  was,
  value,
  onChange,
}: {
  label: string;
  words: string;
  was: string;
  value: string;
  onChange: (value: string) => void;
}) {
  const [name, setName] = useState(words);
  return (
    <div className="flex flex-col gap-1">
      <NameSearch
        label={label}
        onChoose={(found) => {
          onChange(String(found.id));
          setName(found.name);
        }}
      />
      <span className="text-sm text-quiet" dir="auto">
        {value === was ? `Stays ${words}` : name}
      </span>
    </div>
  );
}
