import { useId, useState } from 'react';
import { Controller, useWatch } from 'react-hook-form';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Audience } from '../../core/audience/expression.ts';
import {
  EVERY,
  MOST_CALENDAR,
  type FollowedCalendar,
  type TriedCalendar,
} from '../../core/calendar/followed.ts';
import { momentWords, timeWords, zoneWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm, type ServerForm } from '../../ui/form/useServerForm.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useActs } from '../../ui/useActs.ts';
import { Warnings } from './Warnings.tsx';
import { GroupsAndPhrases, RemindField } from './sessionFields.tsx';

interface Given {
  url: string;
  name: string;
  everyMinutes: number;
  audience: Audience | null;
  remindMinutes: number | null;
  /** Where what is wrong with the file is told. */
  text: string;
}
interface ChosenFile {
  name: string;
  text: string;
}

const PATH = '/api/calendar/followed';

/** A calendar to be brought in, or how one is followed. What is in it is shown before it is brought in. */
export function FollowForm({
  given,
  choices,
  zone,
  nowMs,
  onClose,
  onDone,
}: {
  /** Null for a new one. */
  given: FollowedCalendar | null;
  choices: AudienceChoices;
  zone: string;
  nowMs: number;
  onClose: () => void;
  onDone: (said: string) => void;
}) {
  const id = useId();
  const [file, setFile] = useState<ChosenFile | null>(null);
  const [tried, setTried] = useState<TriedCalendar>();
  const fromFile = given ? given.url === null : file !== null;
  const form = useServerForm<Given>({
    values: {
      url: given?.url ?? '',
      name: given?.name ?? '',
      everyMinutes: given?.everyMinutes ?? 60,
      audience: given?.audience ?? null,
      remindMinutes: given ? given.remindMinutes : 60,
      text: '',
    },
    send: async (filled) => {
      const { url, everyMinutes, ...rest } = filled;
      const body = {
        ...rest,
        url: fromFile ? null : url,
        text: file?.text ?? null,
        everyMinutes: fromFile ? 1440 : everyMinutes,
      };
      if (given) await request('PUT', `${PATH}/${given.id}`, { ...body, revision: given.revision });
      else await request('POST', PATH, body);
      form.reset(filled);
      onDone(given ? 'It is changed.' : `${filled.name} is in the calendar.`);
    },
  });
  const { audience, url } = useWatch({ control: form.control }) as Given;
  const { busy, error, act } = useActs();
  const look = act(async () => {
    setTried(undefined);
    const found = await request('POST', `${PATH}/tried`, {
      url: file ? null : url,
      text: file?.text ?? null,
    });
    setTried(found);
    if (form.getValues('name') === '' && found.name !== '') form.setValue('name', found.name);
  });
  const isNew = given === null;
  return (
    <Dialog
      open
      title={isNew ? 'Bring in a calendar' : `How ${given.name} is followed`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            {isNew ? 'Bring none in' : 'Keep it as it is'}
          </button>
          <button
            form={id}
            className="btn btn-primary"
            disabled={form.formState.isSubmitting || audience === null}
          >
            {isNew ? 'Bring it in' : 'Change it'}
          </button>
        </>
      }
    >
      <form id={id} className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        <Whence form={form} given={given} file={file} onFile={setFile} />
        <div>
          <button
            type="button"
            className="btn btn-outline btn-sm"
            disabled={busy || (file === null && url === '')}
            onClick={look}
          >
            See what is in it
          </button>
        </div>
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        {tried ? <Tried tried={tried} zone={zone} nowMs={nowMs} /> : null}
        <TextField form={form} name="name" label="Whose calendar it is" maxLength={80} />
        <fieldset>
          <legend className="mb-1">Whom its sessions are for</legend>
          <Controller
            control={form.control}
            name="audience"
            render={({ field }) => (
              <GroupsAndPhrases audience={field.value} choices={choices} onChange={field.onChange} />
            )}
          />
          {isNew ? null : (
            <p className="text-sm text-quiet">It holds for sessions that are new from now on.</p>
          )}
        </fieldset>
        <div className="flex flex-wrap gap-3">
          {fromFile ? null : (
            <SelectField form={form} name="everyMinutes" label="Read it" className="w-64" read={Number}>
              {Object.entries(EVERY).map(([minutes, words]) => (
                <option key={minutes} value={minutes}>
                  {words}
                </option>
              ))}
            </SelectField>
          )}
          <RemindField form={form} name="remindMinutes" />
        </div>
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}

/** Its address, or its file. */
function Whence({
  form,
  given,
  file,
  onFile,
}: {
  form: ServerForm<Given>;
  given: FollowedCalendar | null;
  file: ChosenFile | null;
  onFile: (file: ChosenFile | null) => void;
}) {
  const take = async (chosen: File | undefined): Promise<void> => {
    form.clearErrors('text');
    if (!chosen) onFile(null);
    else if (chosen.size > MOST_CALENDAR) {
      onFile(null);
      form.setError('text', {
        message: 'The file is too large. Have the calendar read at its address instead.',
      });
    } else onFile({ name: chosen.name, text: await chosen.text() });
  };
  const problem = form.formState.errors.text?.message;
  return (
    <>
      {given?.url === null || file !== null ? null : (
        <TextField form={form} name="url" label="Its address (https://… or webcal://…)" maxLength={2000} />
      )}
      {given && given.url !== null ? null : (
        <label className="flex flex-col gap-1">
          {given ? 'Another file of it' : 'Or a file (.ics)'}
          <input
            type="file"
            className="file-input w-full"
            accept=".ics,text/calendar"
            onChange={(event) => void take(event.target.files?.[0])}
          />
          {problem === undefined ? null : <span className="text-error">{problem}</span>}
        </label>
      )}
    </>
  );
}

function Tried({ tried, zone, nowMs }: { tried: TriedCalendar; zone: string; nowMs: number }) {
  return (
    <div role="status" className="border-l-4 border-info bg-base-200 px-4 py-2 text-sm">
      {tried.total === 0 ? (
        <p className="text-warning">Nothing in it is ahead.</p>
      ) : (
        <>
          <p className="font-semibold">{count(tried.total, 'session is', 'sessions are')} ahead:</p>
          <ul>
            {tried.sessions.map((session, i) => (
              <li key={i} dir="auto">
                {session.title}, {momentWords(session.startMs, zone, nowMs)}
                {session.zone === zone
                  ? ''
                  : ` (${timeWords(session.startMs, session.zone)} in ${zoneWords(session.zone)})`}
                {session.dates > 1 ? `, and ${session.dates - 1} more` : ''}
              </li>
            ))}
            {tried.total > tried.sessions.length ? (
              <li>and {count(tried.total - tried.sessions.length, 'other', 'others')}</li>
            ) : null}
          </ul>
        </>
      )}
      {tried.warnings.length === 0 ? null : <Warnings words={tried.warnings} />}
    </div>
  );
}
