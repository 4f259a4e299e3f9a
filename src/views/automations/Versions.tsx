import { useState } from 'react';
import type { AutomationPage } from '../../core/automation/page.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Changes } from '../../ui/Changes.tsx';
import { Confirm } from '../../ui/Confirm.tsx';
import { Moment } from '../../ui/Moment.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';

const pathOf = (id: number, number: number) => `/api/automations/${id}/versions/${number}` as const;
const UNTOLD = 'Nothing in its words: a picture or a file, or what fills in a look-up.';

/** What was put to work, version by version: by whom and when, what changed, and a way back to it. */
export function Versions({
  page,
  zone,
  nowMs,
  flush,
}: {
  page: AutomationPage;
  zone: string;
  nowMs: number;
  /** Saves what is not saved yet; gives the revision, or null where it was refused. */
  flush: () => Promise<number | null>;
}) {
  const [open, setOpen] = useState<number | null>(null);
  if (page.versions.length === 0) return null;
  return (
    <section aria-label="Versions" className="mt-8">
      <h2 className="text-xl">What was put to work</h2>
      <ul className="ledger">
        {page.versions.map(({ number, title, by, atMs }) => (
          <li key={number}>
            <span className="margin figure">{number}</span>
            <div>
              <button
                type="button"
                className="link text-start"
                dir="auto"
                aria-expanded={open === number}
                onClick={() => {
                  setOpen(open === number ? null : number);
                  // What is written just now counts, also where this was looked at before.
                  if (open !== number) void flush().then(() => refetch(pathOf(page.id, number)));
                }}
              >
                “{title}”
              </button>
              {open === number ? (
                <Shown id={page.id} number={number} changed={page.changed} flush={flush} />
              ) : null}
            </div>
            <span className="state text-sm text-quiet" dir="auto">
              {by}, <Moment at={atMs} zone={zone} nowMs={nowMs} />
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Shown({
  id,
  number,
  changed,
  flush,
}: {
  id: number;
  number: number;
  /** Whether what is written differs from what is at work. */
  changed: boolean;
  flush: () => Promise<number | null>;
}) {
  const [asked, setAsked] = useState(false);
  const { data, error } = useServer(pathOf(id, number));
  if (error) return <Notice tone="error">{wordsOf(error)}</Notice>;
  if (!data) return <p className="text-quiet">One moment …</p>;
  const bringBack = async (): Promise<void> => {
    const revision = await flush();
    if (revision === null) throw new Error('The last change is not saved yet. Try again in a moment.');
    await request('PUT', `/api/automations/${id}`, { revision, automation: data.automation });
    location.reload();
  };
  return (
    <div className="my-2 flex flex-col gap-2">
      <h3 className="font-semibold">
        {number === 1
          ? 'As it was first put to work'
          : `What changed from version ${number - 1} to ${number}`}
      </h3>
      <Changes changes={data.since} none={UNTOLD} />
      {!data.same ? (
        <>
          <h3 className="font-semibold">What changed from then to what is written now</h3>
          <Changes changes={data.until} none={UNTOLD} />
          <button type="button" className="btn btn-outline btn-sm self-start" onClick={() => setAsked(true)}>
            Write it as it was then
          </button>
        </>
      ) : (
        <p className="text-quiet">What is written now is the same.</p>
      )}
      {asked ? (
        <Confirm
          title={`Write it as it was in version ${number}?`}
          detail={`What runs stays as it is until you put the change to work.${
            changed ? ' What is written now, and not put to work, is written over.' : ''
          }`}
          button="Write it so"
          onConfirm={bringBack}
          onClose={() => setAsked(false)}
        />
      ) : null}
    </div>
  );
}
