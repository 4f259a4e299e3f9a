import { useId } from 'react';
import { Controller, useWatch } from 'react-hook-form';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Audience } from '../../core/audience/expression.ts';
import type { SessionPage } from '../../core/calendar/shown.ts';
import { WEEKLY, type Rule } from '../../core/timing/rule.ts';
import { momentWords, zoneWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, idOrNone, LinesField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { useWorkedOut } from '../../ui/server.ts';
import { ZoneField } from '../../ui/ZoneField.tsx';
import { WallFields, wallIn } from '../write/MomentFields.tsx';
import { RuleFields } from '../write/RuleFields.tsx';
import { GroupsAndPhrases, RemindField } from './sessionFields.tsx';

interface Given {
  title: string;
  text: string;
  wall: string;
  zone: string;
  minutes: number | string;
  place: string;
  link: string;
  rule: Rule | null;
  audience: Audience | null;
  capacity: number | string | null;
  remindMinutes: number | null;
}

/** When it would take place as it stands, and how many it would be for. */
function Tried({
  wall,
  zone,
  rule,
  audience,
  nowMs,
}: Pick<Given, 'wall' | 'zone' | 'rule' | 'audience'> & { nowMs: number }) {
  const { data, error } = useWorkedOut('/api/calendar/tried', { wall, zone, rule, audience });
  if (error) return <p className="text-error">{wordsOf(error)}</p>;
  if (!data) return null;
  const { starts, never, people: many } = data;
  return (
    <div role="status" className="border-l-4 border-info bg-base-200 px-4 py-2 text-sm">
      {never === null ? (
        <p>
          {rule ? 'Next: ' : ''}
          {starts.map((start) => momentWords(start, zone, nowMs)).join('; ')} in {zoneWords(zone)}.
        </p>
      ) : (
        <p className="text-warning">{never}</p>
      )}
      {many === null ? null : <p>It is for {people(many)}.</p>}
    </div>
  );
}

/** A session to be put into the calendar, or one to be changed. */
export function SessionForm({
  session,
  zone,
  nowMs,
  choices,
  onClose,
  onDone,
}: {
  /** Null for a new one. */
  session: SessionPage | null;
  zone: string;
  nowMs: number;
  choices: AudienceChoices;
  onClose: () => void;
  onDone: (id: number, changed?: SessionPage) => void;
}) {
  const id = useId();
  const form = useServerForm<Given>({
    values: {
      title: session?.title ?? '',
      text: session?.text ?? '',
      wall: session?.wall ?? wallIn(zone, nowMs, 7, '10:00'),
      zone: session?.zone ?? zone,
      minutes: session?.minutes ?? 60,
      place: session?.place ?? '',
      link: session?.link ?? '',
      rule: session?.rule ?? null,
      audience: session?.audience ?? null,
      capacity: session?.capacity ?? '',
      remindMinutes: session ? session.remindMinutes : 60,
    },
    send: async (given) => {
      const body = {
        ...given,
        minutes: Number(given.minutes),
        capacity: idOrNone(given.capacity),
      };
      if (session) {
        const changed = await request('PUT', `/api/calendar/${session.id}`, {
          ...body,
          revision: session.revision,
        });
        onDone(session.id, changed);
      } else onDone((await request('POST', '/api/calendar', body)).id);
    },
  });
  // The fields are whole from the beginning, which the type of what is watched does not know.
  const { wall, zone: its, rule, audience } = useWatch({ control: form.control }) as Given;
  const wallProblem = form.formState.errors.wall?.message ?? form.formState.errors.rule?.message;
  return (
    <Dialog
      open
      title={session ? `Change ${session.title}` : 'A new session'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            {session ? 'Keep it as it is' : 'Make none'}
          </button>
          <button
            form={id}
            className="btn btn-primary"
            disabled={form.formState.isSubmitting || audience === null}
          >
            {session ? 'Change it' : 'Put it into the calendar'}
          </button>
        </>
      }
    >
      <form id={id} className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        {session?.followedName == null ? (
          <>
            <TextField form={form} name="title" label="What it is" maxLength={160} />
            <div className="flex flex-wrap items-end gap-3">
              <Controller
                control={form.control}
                name="wall"
                render={({ field }) => <WallFields wall={field.value} onChange={field.onChange} />}
              />
              <TextField form={form} name="minutes" label="Minutes" type="number" className="w-28" />
            </div>
            <Controller
              control={form.control}
              name="zone"
              render={({ field }) => (
                <ZoneField label="On the clock of" value={field.value} onChange={field.onChange} />
              )}
            />
            <label className="flex min-h-11 items-center gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-primary"
                checked={rule !== null}
                onChange={(event) =>
                  form.setValue('rule', event.target.checked ? WEEKLY : null, { shouldDirty: true })
                }
              />
              Again and again
            </label>
            {rule ? (
              <Controller
                control={form.control}
                name="rule"
                render={({ field }) =>
                  field.value ? (
                    <RuleFields rule={field.value} start={wall} onChange={field.onChange} />
                  ) : (
                    <span />
                  )
                }
              />
            ) : null}
            {wallProblem === undefined ? null : <p className="text-error">{wallProblem}</p>}
            <TextField form={form} name="place" label="Place" maxLength={200} />
            <TextField form={form} name="link" label="Or an address to join by" maxLength={2000} />
            <LinesField form={form} name="text" label="What it is about" />
          </>
        ) : (
          <p className="text-quiet" dir="auto">
            What, when and where it is comes from {session.followedName}, and is changed there.
          </p>
        )}
        <fieldset>
          <legend className="mb-1">Whom it is for</legend>
          <Controller
            control={form.control}
            name="audience"
            render={({ field }) => (
              <GroupsAndPhrases audience={field.value} choices={choices} onChange={field.onChange} />
            )}
          />
        </fieldset>
        {session?.followedName == null ? (
          <Tried wall={wall} zone={its} rule={rule} audience={audience} nowMs={nowMs} />
        ) : null}
        <div className="flex flex-wrap gap-3">
          <TextField
            form={form}
            name="capacity"
            label="At most so many (empty: any number)"
            type="number"
            className="w-64"
          />
          <RemindField form={form} name="remindMinutes" />
        </div>
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
