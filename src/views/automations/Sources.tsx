import { useState } from 'react';
import type { Source } from '../../core/automation/source.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { SourceDialog } from './SourceDialog.tsx';

type Shown = Source & { id: number; hasSecret: boolean };

/** Outside sources that automations look things up at. */
export default function Sources({ sources }: { sources: Shown[] }) {
  const [open, setOpen] = useState<Shown | 'new' | null>(null);
  const awake = useAwake();
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Sources</h1>
        <a className="btn btn-ghost" href="/automations">
          Automations
        </a>
        <button type="button" className="btn btn-primary" disabled={!awake} onClick={() => setOpen('new')}>
          Add a source
        </button>
      </div>
      {sources.length === 0 ? (
        <p className="text-quiet">
          There are none yet. A source answers a question in JSON: the conditions at a site, the state of an
          order.
        </p>
      ) : (
        <ul className="ledger">
          {sources.map((source) => (
            <li key={source.id}>
              <span className="margin figure">{source.fields.length}</span>
              <span>
                <span className="font-semibold" dir="auto">
                  {source.name}
                </span>
                <span className="block text-sm text-quiet">
                  {source.url}; brings {source.fields.map((field) => field.name).join(', ')}
                  {source.hasSecret ? '; with a secret' : ''}
                </span>
              </span>
              <span className="state">
                <button
                  type="button"
                  className="btn btn-outline btn-sm"
                  disabled={!awake}
                  onClick={() => setOpen(source)}
                >
                  Change
                </button>
              </span>
            </li>
          ))}
        </ul>
      )}
      {open ? <SourceDialog given={open === 'new' ? null : open} onClose={() => setOpen(null)} /> : null}
    </>
  );
}
