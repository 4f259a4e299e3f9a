import { useState } from 'react';
import type { HookOut, Place } from '../../core/gateways/hookOut.ts';
import { OUT_KINDS, type OutKind } from '../../core/gateways/hookOut.ts';
import { PLACE_FIELDS, PLAIN_TEMPLATE } from '../../core/gateways/placeFields.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { CheckField, idOrNone, LinesField, SelectField } from '../../ui/form/fields.tsx';
import type { ServerForm } from '../../ui/form/useServerForm.ts';

type Form = ServerForm<HookOut>;
interface Named {
  id: number;
  name: string;
}

export const NEW_PLACE: Place = { template: PLAIN_TEMPLATE, changes: false, editors: false };

/** What a way out is for: to be told what happens, or as a place announcements travel to. */
export function Purpose({ place, onChoose }: { place: boolean; onChoose: (place: boolean) => void }) {
  const options: [boolean, string][] = [
    [false, 'It is told of what happens here'],
    [true, 'Announcements travel to it'],
  ];
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">What for</legend>
      {options.map(([value, words]) => (
        <label key={words} className="flex min-h-10 items-center gap-2">
          <input
            type="radio"
            name="purpose"
            className="radio radio-primary"
            checked={place === value}
            onChange={() => onChoose(value)}
          />
          {words}
        </label>
      ))}
    </fieldset>
  );
}

/** Of what it is told, and to what that is limited. */
export function EventFields({ form, boards, groups }: { form: Form; boards: Named[]; groups: Named[] }) {
  const problem = form.formState.errors.kinds?.message;
  return (
    <>
      <fieldset>
        <legend className="mb-1 font-semibold">Of what</legend>
        <div className="grid gap-x-6 sm:grid-cols-2">
          {(Object.entries(OUT_KINDS) as [OutKind, string][]).map(([kind, words]) => (
            <label key={kind} className="flex min-h-10 items-center gap-2">
              <input
                type="checkbox"
                value={kind}
                className="checkbox checkbox-primary"
                {...form.register('kinds')}
              />
              {words}
            </label>
          ))}
        </div>
        {problem === undefined ? null : <span className="text-error">{problem}</span>}
      </fieldset>
      <SelectField form={form} name="boardId" label="Of what goes up, only on" read={idOrNone}>
        <option value="">any board</option>
        {boards.map((board) => (
          <option key={board.id} value={board.id}>
            {board.name}
          </option>
        ))}
      </SelectField>
      <SelectField form={form} name="groupId" label="Of people, only of those in" read={idOrNone}>
        <option value="">any group</option>
        {groups.map((group) => (
          <option key={group.id} value={group.id}>
            {group.name}
          </option>
        ))}
      </SelectField>
    </>
  );
}

/** The body an outside place gets, and what else it is told. */
export function PlaceFieldset({ form }: { form: Form }) {
  const [filled, setFilled] = useState<{ body: string } | { problem: string }>();
  const fill = (): void => {
    request('POST', '/api/gateways/out/filled', { template: form.getValues('place.template') })
      .then(setFilled)
      .catch((error: unknown) => setFilled({ problem: wordsOf(error) }));
  };
  return (
    <>
      <LinesField
        form={form}
        name="place.template"
        label="The body it gets, in JSON"
        className="[&_textarea]:min-h-40 [&_textarea]:font-mono [&_textarea]:text-sm"
      />
      <details>
        <summary className="min-h-9 cursor-pointer text-sm link-quiet">What a template may name</summary>
        <p className="text-sm text-quiet">
          In its strings, in Liquid: <code>{'"{{ title }}"'}</code>. A string that is one field alone becomes
          what that field is, also a list or null.
        </p>
        <dl className="grid grid-cols-[auto_1fr] gap-x-4 text-sm">
          {Object.entries(PLACE_FIELDS).map(([name, words]) => (
            <div key={name} className="contents">
              <dt className="font-mono">{name}</dt>
              <dd>{words}</dd>
            </div>
          ))}
        </dl>
      </details>
      <div>
        <button type="button" className="btn btn-outline btn-sm" onClick={fill}>
          See it filled in
        </button>
        <div aria-live="polite">
          {filled === undefined ? null : 'body' in filled ? (
            <pre className="mt-2 max-h-64 overflow-auto bg-base-200 p-2 text-sm break-words whitespace-pre-wrap">
              {filled.body}
            </pre>
          ) : (
            <p className="mt-2 text-error">{filled.problem}</p>
          )}
        </div>
      </div>
      <CheckField form={form} name="place.changes" label="It is told of corrections and withdrawals too" />
      <CheckField form={form} name="place.editors" label="Editors may send there too" />
    </>
  );
}
