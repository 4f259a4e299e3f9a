import { useState } from 'react';
import type { SheetLine } from '../../core/sheets/sheet.ts';
import { count } from '../../core/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { SheetDialog } from './SheetDialog.tsx';

/** The record sheets: what each is for, how many records it has, and what reads it. */
export default function SheetList({
  sheets,
  zone,
  mayChange,
}: {
  sheets: SheetLine[];
  zone: string;
  mayChange: boolean;
}) {
  const [making, setMaking] = useState(false);
  const awake = useAwake();
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Record sheets</h1>
        <a className="btn btn-ghost" href="/automations">
          Automations
        </a>
        {mayChange ? (
          <button type="button" className="btn btn-primary" disabled={!awake} onClick={() => setMaking(true)}>
            Make a sheet
          </button>
        ) : null}
      </div>
      {sheets.length === 0 ? (
        <p className="text-quiet">
          There are none yet. A record sheet is a table that automations read and people keep: readings,
          loans, trips.
        </p>
      ) : (
        <ul className="ledger">
          {sheets.map((sheet) => (
            <li key={sheet.id}>
              <span className="margin figure">{sheet.records.toLocaleString('en-GB')}</span>
              <span>
                <a className="link-quiet font-semibold" href={`/sheets/${sheet.id}`} dir="auto">
                  {sheet.name}
                </a>
                <span className="block text-sm text-quiet" dir="auto">
                  {sheet.purpose === '' ? count(sheet.records, 'record', 'records') : sheet.purpose}
                  {sheet.automations.length > 0 ? ` Read by ${sheet.automations.join(', ')}.` : ''}
                </span>
              </span>
              <span className="state text-sm text-quiet">
                {sheet.changedMs === null ? (
                  'empty'
                ) : (
                  <>
                    changed <Moment at={sheet.changedMs} zone={zone} />
                  </>
                )}
              </span>
            </li>
          ))}
        </ul>
      )}
      {making ? <SheetDialog sheet={null} zone={zone} onClose={() => setMaking(false)} /> : null}
    </>
  );
}
