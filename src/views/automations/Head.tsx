import { useState } from 'react';
import type { Automation } from '../../core/automation/automation.ts';
import type { AutomationPage } from '../../core/automation/page.ts';
import { list } from '../../core/words.ts';
import { takeOut } from '../../core/automation/taken.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { download } from '../../ui/download.ts';
import { lazily } from '../../ui/lazily.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import type { Saving } from './useSaved.ts';
import { Standing } from './Standing.tsx';

const ShareDialog = lazily(() => import('./ShareDialog.tsx').then((module) => module.ShareDialog));

const RunNow = lazily(() => import('./RunNow.tsx').then((module) => module.RunNow));

const SAVING_WORDS = { saved: 'Saved.', saving: 'Saving …' } as const;

/** The name of an automation, whether it is at work, whose it is, and what can be done with it as a whole. */
export function Head({
  page,
  automation,
  saving,
  onChange,
}: {
  page: AutomationPage;
  automation: Automation;
  saving: Saving;
  onChange: (part: Partial<Automation>) => void;
}) {
  const [deleting, setDeleting] = useState(false);
  const [sharing, setSharing] = useState(false);
  const [running, setRunning] = useState(false);
  const [error, setError] = useState<string>();
  const path = `/api/automations/${page.id}` as const;
  const act = (work: () => Promise<unknown>) => () => {
    setError(undefined);
    void work().then(
      () => refetch('/api/automations'),
      (problem: unknown) => setError(wordsOf(problem)),
    );
  };
  const turn = (on: boolean): Promise<void> =>
    request('PUT', `${path}/state`, { on }).then(() =>
      done(on ? 'It is on.' : 'It is off. What waited for its time is not said.', async () => {
        await request('PUT', `${path}/state`, { on: !on });
        await refetch('/api/automations');
      }),
    );
  return (
    <header>
      <div className="flex flex-wrap items-end gap-3">
        <label className="flex grow flex-col gap-1 text-sm">
          Name
          <input
            className="input w-full font-display text-2xl font-bold"
            maxLength={80}
            dir="auto"
            value={automation.name}
            onChange={(event) => onChange({ name: event.target.value })}
          />
        </label>
        <span className="flex min-h-11 items-center">
          <Standing state={page.state} published={page.live} />
        </span>
        {page.live && page.state !== 'off' ? (
          <button type="button" className="btn btn-outline" onClick={act(() => turn(false))}>
            Switch it off
          </button>
        ) : null}
        {page.live && page.state !== 'on' ? (
          <button type="button" className="btn btn-outline" onClick={act(() => turn(true))}>
            Switch it on
          </button>
        ) : null}
        {page.state === 'on' && automation.when.kind === 'schedule' ? (
          <button type="button" className="btn btn-ghost" onClick={() => setRunning(true)}>
            Run it now
          </button>
        ) : null}
        <button
          type="button"
          className="btn btn-ghost"
          onClick={act(() =>
            request('POST', `${path}/copy`).then(({ id }) => location.assign(`/automations/${id}`)),
          )}
        >
          Copy
        </button>
        <button
          type="button"
          className="btn btn-ghost"
          onClick={() =>
            download(
              `${automation.name.trim() || 'automation'}.json`,
              takeOut(automation),
              'application/json',
            )
          }
        >
          Take out
        </button>
        {page.state === 'on' || !page.isTheirs ? null : (
          <button type="button" className="btn btn-ghost" onClick={() => setDeleting(true)}>
            Delete
          </button>
        )}
      </div>
      <p className="mt-1 text-sm text-quiet" dir="auto">
        Looked after by {page.owner}, with whose rights it speaks.{' '}
        {page.people.length === 0
          ? ''
          : `${list(
              page.people.map(({ name }) => name),
              'and',
            )} may change it too. `}
        {saving.state === 'refused' ? null : SAVING_WORDS[saving.state]}{' '}
        {page.isOwner || !page.isTheirs ? null : (
          <button type="button" className="link" onClick={act(() => request('POST', `${path}/owner`))}>
            Take it over
          </button>
        )}{' '}
        {page.isTheirs ? (
          <button type="button" className="link" onClick={() => setSharing(true)}>
            Who else may change it
          </button>
        ) : null}
      </p>
      {saving.state === 'refused' ? (
        <Notice tone="error">
          {saving.words}
          {saving.conflict ? (
            <button type="button" className="link ml-2" onClick={() => location.reload()}>
              Read it again
            </button>
          ) : null}
        </Notice>
      ) : null}
      {page.whyPaused === null ? null : (
        <Notice tone="warning">It has paused itself. {page.whyPaused}</Notice>
      )}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {sharing ? <ShareDialog page={page} onClose={() => setSharing(false)} /> : null}
      {running ? (
        <RunNow
          path={path}
          name={automation.name}
          onClose={() => {
            setRunning(false);
            void refetch('/api/automations');
          }}
        />
      ) : null}
      {deleting ? (
        <Confirm
          title={`Delete “${automation.name}”?`}
          detail="Its versions and the account of its runs go with it. What it said stays where it is."
          button="Delete it"
          onConfirm={() => request('DELETE', path).then(() => location.assign('/automations'))}
          onClose={() => setDeleting(false)}
        />
      ) : null}
    </header>
  );
}
