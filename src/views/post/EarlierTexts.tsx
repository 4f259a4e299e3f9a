import { useState } from 'react';
import { Moment } from '../../ui/Moment.tsx';
import { request, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Matter } from '../../ui/Matter.tsx';
import { Notice } from '../../ui/Notice.tsx';

interface Earlier {
  title?: string;
  html: string;
  keptMs: number;
}

/** The texts something had before it was changed; for those who moderate and its author. */
export function EarlierTexts({
  path,
  zone,
  nowMs,
}: {
  path: `/api/${'posts' | 'replies'}/${number}/texts`;
  zone: string;
  nowMs: number;
}) {
  const [texts, setTexts] = useState<Earlier[]>();
  const [error, setError] = useState<string>();
  return (
    <>
      <button
        type="button"
        className="btn btn-ghost btn-sm"
        onClick={() =>
          void request('GET', path).then(setTexts, (problem: unknown) => setError(wordsOf(problem)))
        }
      >
        Earlier texts
      </button>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <Dialog
        open={texts !== undefined}
        title="Earlier texts"
        onClose={() => setTexts(undefined)}
        actions={
          <button type="button" className="btn btn-primary" onClick={() => setTexts(undefined)}>
            Close
          </button>
        }
      >
        {texts?.length === 0 ? <p>There are none.</p> : null}
        {texts?.map((text) => (
          <section key={text.keptMs} className="border-t border-base-300 py-3">
            <p className="text-sm text-quiet">
              Until it was changed; written <Moment at={text.keptMs} zone={zone} nowMs={nowMs} />
            </p>
            {text.title === undefined ? null : <h3 dir="auto">{text.title}</h3>}
            <Matter html={text.html} />
          </section>
        ))}
      </Dialog>
    </>
  );
}
