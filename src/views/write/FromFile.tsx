import { useState } from 'react';
import { list } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { FileButton } from '../../ui/FileButton.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useActs } from '../../ui/useActs.ts';
import { useAwake } from '../../ui/useAwake.ts';

interface Begun {
  id: number;
  leftOut: string[];
}

/** Begins a draft from a file of Markdown, such as one that was taken from here. */
export default function FromFile() {
  const [begun, setBegun] = useState<Begun>();
  const { busy, error, act } = useActs();
  const awake = useAwake();
  const take = (file: File): (() => void) =>
    act(async () => {
      const made = await request('POST', '/api/announcements/from-file', { text: await file.text() });
      if (made.leftOut.length === 0) location.assign(`/write/${made.id}`);
      else setBegun(made);
    });
  return (
    <>
      <FileButton
        label="A file of Markdown"
        accept=".md,.markdown,text/markdown,text/plain"
        disabled={busy || !awake}
        onFile={(file) => take(file)()}
      >
        From a file
      </FileButton>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {begun ? (
        <Notice tone="warning">
          It is a draft now, without {list(begun.leftOut, 'and')}: what was attached elsewhere is not here.{' '}
          <a className="link" href={`/write/${begun.id}`}>
            Open it
          </a>
        </Notice>
      ) : null}
    </>
  );
}
