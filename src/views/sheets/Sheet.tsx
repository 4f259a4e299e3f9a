import { useState } from 'react';
import { cellWords } from '../../core/sheets/cell.ts';
import type { SheetPage, SheetRecord } from '../../core/sheets/sheet.ts';
import { count } from '../../core/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { Awake } from '../../ui/Awake.tsx';
import { ask, wordsOf } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, useServerPages } from '../../ui/server.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { lazily } from '../../ui/lazily.tsx';
import { useNow } from '../../ui/useNow.ts';
import { BringIn } from './BringIn.tsx';
import { Follow } from './Follow.tsx';
import { RecordDialog } from './RecordDialog.tsx';
import { SheetDialog } from './SheetDialog.tsx';

const FollowDialog = lazily(() => import('./FollowDialog.tsx').then((module) => module.FollowDialog));

/** A record sheet: its records as a table, found by their words, added, changed and brought in from a list. */
export default function Sheet({
  first,
  begin,
  zone,
  serverNowMs,
}: {
  first: SheetPage;
  /** What the address says is shown. */
  begin: Record<string, string>;
  zone: string;
  serverNowMs: number;
}) {
  const { id } = first;
  const nowMs = useNow(serverNowMs, 10_000);
  const [search, setSearch] = useState(begin.q ?? '');
  useInAddress({ q: search.trim() });
  const [open, setOpen] = useState<'columns' | 'bring in' | 'delete' | 'add' | 'follow' | SheetRecord | null>(
    null,
  );
  const path = (before: number | null): string => pathWith(`/api/sheets/${id}`, { q: search.trim(), before });
  const list = useServerPages<SheetPage, number>({
    path,
    next: (page) => page.next,
    first: { path: `/api/sheets/${id}`, page: first },
    topics: [`sheet:${id}`],
  });
  const pages = list.data?.pages ?? [first];
  const sheet = pages[0] ?? first;
  const records = pages.flatMap((page) => page.records);
  const { columns, mayChange } = sheet;
  const close = (): void => setOpen(null);
  return (
    <Awake>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto" dir="auto">
          {sheet.name}
        </h1>
        <a className="btn btn-ghost" href="/sheets">
          Record sheets
        </a>
        {mayChange ? (
          <>
            <button type="button" className="btn btn-ghost" onClick={() => setOpen('delete')}>
              Delete
            </button>
            <button type="button" className="btn btn-outline" onClick={() => setOpen('columns')}>
              Columns and form
            </button>
            {sheet.following ? null : (
              <button type="button" className="btn btn-outline" onClick={() => setOpen('follow')}>
                Follow a source
              </button>
            )}
            <button type="button" className="btn btn-outline" onClick={() => setOpen('bring in')}>
              Bring in a list
            </button>
            <button type="button" className="btn btn-primary" onClick={() => setOpen('add')}>
              Add a record
            </button>
          </>
        ) : null}
      </div>
      <p className="mb-3 text-quiet" dir="auto">
        {sheet.purpose} {count(sheet.total, 'record', 'records')}.
        {sheet.formPath === null ? null : (
          <>
            {' '}
            Its form:{' '}
            <a className="link" href={sheet.formPath}>
              {sheet.form?.open ? 'open to whoever has its address' : 'for those who are signed in'}
            </a>
            .
          </>
        )}
      </p>
      {sheet.following ? (
        <Follow
          sheet={sheet}
          following={sheet.following}
          zone={zone}
          nowMs={nowMs}
          onChange={() => setOpen('follow')}
        />
      ) : null}
      <label className="mb-3 flex max-w-sm flex-col gap-1">
        Find in the records
        <input
          type="search"
          className="input w-full"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      </label>
      {list.isError ? <Notice tone="error">{wordsOf(list.error)}</Notice> : null}
      {records.length === 0 ? (
        <p className="text-quiet">
          {search.trim() === '' ? 'There are no records yet.' : 'Nothing is found.'}
        </p>
      ) : (
        // Wider than a phone, it is moved sideways by itself and not the page, also by keyboard.
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
        <div className="relative overflow-x-auto" tabIndex={0} role="region" aria-label="The records">
          <table className="table-plain">
            <thead>
              <tr>
                {columns.map((column) => (
                  <th key={column.id} scope="col" dir="auto">
                    {column.name}
                  </th>
                ))}
                <th scope="col">Changed</th>
                {mayChange ? (
                  <th scope="col">
                    <span className="sr-only">Change</span>
                  </th>
                ) : null}
              </tr>
            </thead>
            <tbody>
              {records.map((record) => (
                <tr key={record.id}>
                  {columns.map((column) => (
                    <td key={column.id} dir="auto" className={column.kind === 'number' ? 'figure' : ''}>
                      {cellWords(column, record.cells[column.id] ?? '', zone)}
                    </td>
                  ))}
                  <td className="text-sm text-quiet">
                    <Moment at={record.changedMs} zone={zone} />
                  </td>
                  {mayChange ? (
                    <td>
                      <button type="button" className="link min-h-9" onClick={() => setOpen(record)}>
                        Change
                      </button>
                    </td>
                  ) : null}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {list.hasNextPage ? (
        <button
          type="button"
          className="btn btn-outline mt-4"
          disabled={list.isFetchingNextPage}
          onClick={() => void list.fetchNextPage()}
        >
          More
        </button>
      ) : null}
      {open === 'columns' ? <SheetDialog sheet={sheet} onClose={close} /> : null}
      {open === 'follow' ? <FollowDialog sheet={sheet} onClose={close} /> : null}
      {open === 'bring in' ? <BringIn sheet={sheet} onClose={close} /> : null}
      {open === 'add' || (open !== null && typeof open === 'object') ? (
        <RecordDialog sheet={sheet} record={open === 'add' ? null : open} zone={zone} onClose={close} />
      ) : null}
      {open === 'delete' ? (
        <Confirm
          title={`Delete “${sheet.name}”?`}
          detail={`Its ${count(sheet.total, 'record goes', 'records go')} with it. This cannot be undone.`}
          button="Delete it"
          onConfirm={() => ask('DELETE', `/api/sheets/${id}`).then(() => location.assign('/sheets'))}
          onClose={close}
        />
      ) : null}
    </Awake>
  );
}
