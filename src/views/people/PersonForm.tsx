import { useId } from 'react';
import { Controller, useFieldArray, useWatch } from 'react-hook-form';
import type { z } from 'zod';
import type { Role } from '../../core/audience/expression.ts';
import { newPersonSchema, personChangeSchema, type Person } from '../../core/people/person.ts';
import { attributeKey, type AttributeLine } from '../../core/people/kinds.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { bySchema } from '../../ui/form/bySchema.ts';
import { DayField } from '../../ui/form/DayField.tsx';
import { FormProblem, idOrNone, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm, type ServerForm } from '../../ui/form/useServerForm.ts';
import { useServer } from '../../ui/server.ts';
import { ZoneField } from '../../ui/ZoneField.tsx';

export interface Station {
  id: number;
  name: string;
}

interface Given {
  name: string;
  sortName: string;
  greeting: string;
  mail: string;
  role: Role;
  stationId: number | null;
  occupation: string;
  zone: string;
  joinedOn: string;
  guestUntil: string;
  attributes: { name: string; value: string }[];
}

/** A person to be added, or one whose details are changed. */
export function PersonForm({
  person,
  attributes,
  stations,
  onClose,
  onDone,
}: {
  /** Null for a new one. */
  person: Person | null;
  /** What else is known of them, where that is changed as well. */
  attributes?: { name: string; value: string }[];
  stations: Station[];
  onClose: () => void;
  /** Called with the name. */
  onDone: (name: string) => void;
}) {
  const id = useId();
  const form = useServerForm<Given>({
    values: {
      name: person?.name ?? '',
      sortName: person?.sortName ?? '',
      greeting: person?.greeting ?? '',
      mail: person?.mail ?? '',
      role: person?.role ?? 'member',
      stationId: person?.stationId ?? null,
      occupation: person?.occupation ?? '',
      zone: person?.zone ?? '',
      joinedOn: person?.joinedOn ?? '',
      guestUntil: person?.guestUntil ?? '',
      attributes: attributes ?? [],
    },
    resolver: bySchema((person ? personChangeSchema : newPersonSchema) as z.ZodType<unknown, Given>),
    send: async ({ sortName, greeting, occupation, zone, joinedOn, attributes: known, ...given }) => {
      const sent = { ...given, mail: given.mail.trim() };
      if (person)
        await request('PUT', `/api/people/${person.id}`, {
          ...sent,
          sortName,
          greeting,
          occupation,
          zone,
          joinedOn,
          ...(attributes ? { attributes: known } : {}),
        });
      else await request('POST', '/api/people', sent);
      onDone(given.name.trim());
    },
  });
  return (
    <Dialog
      open
      title={person ? `Change ${person.name}` : 'Add a person'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            {person ? 'Keep it as it is' : 'Add nobody'}
          </button>
          <button className="btn btn-primary" form={id} disabled={form.formState.isSubmitting}>
            {person ? 'Change it' : 'Add to the organisation'}
          </button>
        </>
      }
    >
      <form
        id={id}
        className="grid gap-3 sm:grid-cols-2"
        noValidate
        onSubmit={(event) => void form.submit(event)}
      >
        <TextField form={form} name="name" label="Name" />
        <TextField form={form} name="mail" label="Mail address, if there is one" type="email" />
        {stations.length === 0 ? null : (
          <SelectField form={form} name="stationId" label="Station" read={idOrNone}>
            <option value="">No station</option>
            {stations.map((station) => (
              <option key={station.id} value={station.id}>
                {station.name}
              </option>
            ))}
            {/* Where they are already, though nobody is put there any more. */}
            {person &&
            person.stationId !== null &&
            !stations.some(({ id: of }) => of === person.stationId) ? (
              <option value={person.stationId}>{person.stationName}</option>
            ) : null}
          </SelectField>
        )}
        <SelectField form={form} name="role" label="Role">
          <option value="member">member</option>
          <option value="editor">editor</option>
          <option value="coordinator">coordinator</option>
        </SelectField>
        {person ? (
          <>
            <TextField form={form} name="sortName" label="Name to sort by, if another" />
            <TextField form={form} name="greeting" label="How to greet them" />
            <TextField form={form} name="occupation" label="Occupation" />
            <Controller
              control={form.control}
              name="zone"
              render={({ field }) => (
                <ZoneField label="Reads by the clock of" value={field.value} onChange={field.onChange} />
              )}
            />
            <DayField form={form} name="joinedOn" label="Joined on" />
          </>
        ) : null}
        <DayField form={form} name="guestUntil" label="Guest from outside until, if a guest" />
        {person && attributes ? <Attributes form={form} /> : null}
        <div className="sm:col-span-2">
          <FormProblem form={form} />
        </div>
      </form>
    </Dialog>
  );
}

/** What the organisation knows of somebody beyond the usual, by names of its own. */
function Attributes({ form }: { form: ServerForm<Given> }) {
  const { fields, append, remove } = useFieldArray({ control: form.control, name: 'attributes' });
  const { data: kinds } = useServer('/api/kinds');
  const written = useWatch({ control: form.control, name: 'attributes' });
  const names = useId();
  const formOf = (at: number) =>
    kinds?.attributes.find((each) => attributeKey(each.name) === attributeKey(written[at]?.name ?? '')) ??
    null;
  return (
    <fieldset className="sm:col-span-2">
      <legend className="mb-1">Attributes</legend>
      {fields.map((field, at) => (
        <div key={field.id} className="mb-2 flex flex-wrap items-end gap-2">
          <TextField form={form} name={`attributes.${at}.name`} label="Name" className="w-40" list={names} />
          <AttributeValue form={form} at={at} of={formOf(at)} />
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            aria-label={`Take out attribute ${at + 1}`}
            onClick={() => remove(at)}
          >
            Take out
          </button>
        </div>
      ))}
      <datalist id={names}>
        {kinds?.attributes.map((each) => (
          <option key={each.name} value={each.name} />
        ))}
      </datalist>
      <button
        type="button"
        className="btn btn-outline btn-sm"
        onClick={() => append({ name: '', value: '' })}
      >
        Add an attribute
      </button>
    </fieldset>
  );
}

/** What an attribute says, written as what it holds: a choice, a date, or text. */
function AttributeValue({ form, at, of }: { form: ServerForm<Given>; at: number; of: AttributeLine | null }) {
  const name = `attributes.${at}.value` as const;
  if (of?.kind === 'choice')
    return (
      <SelectField form={form} name={name} label="What it is" className="w-48">
        <option value="">Choose …</option>
        {of.choices.map((choice) => (
          <option key={choice} value={choice}>
            {choice}
          </option>
        ))}
      </SelectField>
    );
  return (
    <TextField
      form={form}
      name={name}
      label={of?.kind === 'date' ? 'Date, year-month-day' : of?.kind === 'number' ? 'Number' : 'What it is'}
      className="w-48"
    />
  );
}
