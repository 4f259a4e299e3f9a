import { useMemo, useState } from 'react';
import { useDebounce } from 'use-debounce';
import type { GridPart } from '../../core/sheets/grid.ts';
import type { SheetHead, SheetRecord, SheetRights } from '../../core/sheets/sheet.ts';
import { fitted, sameView, WHOLE, type SavedView, type SheetView } from '../../core/sheets/view.ts';
import { viewFrom } from '../../core/sheets/viewSchema.ts';
import { count, list } from '../../core/words.ts';
import { Awake } from '../../ui/Awake.tsx';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { useServer } from '../../ui/server.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { lazily } from '../../ui/lazily.tsx';
import { MoreMenu } from '../../ui/MoreMenu.tsx';
import { useNow } from '../../ui/useNow.ts';
import { BringIn } from './BringIn.tsx';
import { Follow } from './Follow.tsx';
import { RecordDialog } from './RecordDialog.tsx';
import { Records } from './Records.tsx';
import { SheetDialog } from './SheetDialog.tsx';
import { ViewBar } from './ViewBar.tsx';

const RightsDialog = lazily(() => import('./RightsDialog.tsx').then((module) => module.RightsDialog));
const FollowDialog = lazily(() => import('./FollowDialog.tsx').then((module) => module.FollowDialog));

/** Who sees it, where that is not everybody at the desk, and who changes its records. */
function seenWords({ seenBy, people }: SheetRights): string {
  const changing = people.filter((person) => person.mayChange).map(({ name }) => name);
  return [
    ...(seenBy === 'named'
      ? [
          `Seen only by coordinators${
            people.length > 0
              ? ` and ${list(
                  people.map(({ name }) => name),
                  'and',
                )}`
              : ''
          }.`,
        ]
      : []),
    ...(changing.length > 0 ? [`${list(changing, 'and')} may change its records too.`] : []),
  ].join(' ');
}

/** A record sheet: its records in a grid, found by their words, looked at in views, changed, and brought in from a list. */
export default function Sheet({
  first,
  views: begun,
  part,
  begin,
  zone,
  serverNowMs,
}: {
  first: SheetHead;
  views: SavedView[];
  /** The head of its records, the newest first. */
  part: GridPart;
  /** What the address says is shown. */
  begin: Record<string, string>;
  zone: string;
  serverNowMs: number;
}) {
  const { id } = first;
  const nowMs = useNow(serverNowMs, 10_000);
  const [search, setSearch] = useState(begin.q ?? '');
  useInAddress({ q: search.trim() });
  const [open, setOpen] = useState<
    'columns' | 'rights' | 'bring in' | 'delete' | 'add' | 'follow' | SheetRecord | null
  >(null);
  const sheet = useServer(`/api/sheets/${id}`, { first, topics: [`sheet:${id}`] }).data ?? first;
  const views =
    useServer(`/api/sheets/${id}/views`, {
      first: begun,
      topics: [`sheet:${id}`],
    }).data ?? begun;
  const [keptId, setKeptId] = useState<number | null>(Number(begin.view) || null);
  const kept = views.find((each) => each.id === keptId) ?? null;
  const [look, setLook] = useState<SheetView>(() => viewFrom(begin.look ?? '') ?? kept?.view ?? WHOLE);
  const view = useMemo(() => fitted(look, sheet.columns), [look, sheet.columns]);
  const [sought] = useDebounce(search.trim(), 300);
  useInAddress({
    q: search.trim(),
    view: keptId === null ? '' : String(keptId),
    look: sameView(look, kept?.view ?? WHOLE) ? '' : JSON.stringify(look),
  });
  const { mayChange, mayKeep } = sheet;
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
        {mayKeep ? (
          <MoreMenu
            label="What else may be done with the sheet"
            acts={[
              { act: 'columns', words: 'Columns and form' },
              { act: 'rights', words: 'Who sees and changes it' },
              ...(sheet.following ? [] : [{ act: 'follow' as const, words: 'Follow a source' }]),
              { act: 'delete', words: 'Delete the sheet' },
            ]}
            onAct={setOpen}
          />
        ) : null}
        {mayChange ? (
          <>
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
        {sheet.purpose} {count(sheet.total, 'record', 'records')}. {seenWords(sheet.rights)}
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
      <ViewBar
        sheet={sheet}
        views={views}
        view={view}
        kept={kept}
        search={search}
        onSearch={setSearch}
        onView={(next, of) => {
          setLook(next);
          setKeptId(of);
        }}
      />
      <Records
        sheet={sheet}
        view={view}
        search={sought}
        first={part}
        zone={zone}
        onOrder={(order) => setLook({ ...look, order })}
        onOpen={setOpen}
      />
      {open === 'columns' ? (
        <SheetDialog
          sheet={sheet}
          sample={part.records.find((record) => record !== null)?.cells ?? null}
          zone={zone}
          onClose={close}
        />
      ) : null}
      {open === 'rights' ? <RightsDialog sheet={sheet} onClose={close} /> : null}
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
          onConfirm={() => request('DELETE', `/api/sheets/${id}`).then(() => location.assign('/sheets'))}
          onClose={close}
        />
      ) : null}
    </Awake>
  );
}
