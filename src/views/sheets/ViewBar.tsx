import { useState } from 'react';
import type { SheetHead } from '../../core/sheets/sheet.ts';
import { sameView, viewWords, WHOLE, type SavedView, type SheetView } from '../../core/sheets/view.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { lazily } from '../../ui/lazily.tsx';
import { refetch } from '../../ui/server.ts';
import { Sentence } from '../../ui/Sentence.tsx';
import { done } from '../../ui/toast.ts';
import type { ViewPhrase } from './ViewPanels.tsx';

const ViewPanel = lazily(() => import('./ViewPanels.tsx').then((module) => module.ViewPanel));
const KeepView = lazily(() => import('./KeepView.tsx').then((module) => module.KeepView));

const LABELS: Record<ViewPhrase, string> = {
  which: 'Which records',
  order: 'In which order',
  columns: 'With which columns',
};

/** How a sheet is looked at: a view that was kept, and its sentence, whose phrases are pressed to look otherwise. */
export function ViewBar({
  sheet,
  views,
  view,
  kept,
  search,
  onSearch,
  onView,
}: {
  sheet: SheetHead;
  views: readonly SavedView[];
  view: SheetView;
  /** The view that was chosen of those that are kept. */
  kept: SavedView | null;
  /** What is looked for in the records. */
  search: string;
  onSearch: (search: string) => void;
  onView: (view: SheetView, kept: number | null) => void;
}) {
  const [open, setOpen] = useState<ViewPhrase | null>(null);
  const [dialog, setDialog] = useState<'keep' | 'drop' | null>(null);
  const path = `/api/sheets/${sheet.id}/views` as const;
  const words = viewWords(view, sheet.columns);
  const changed = !sameView(view, kept?.view ?? WHOLE);
  return (
    <section aria-label="How it is looked at" className="mb-3">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <label className="flex items-center gap-2">
          View
          <select
            className="select w-56"
            value={kept?.id ?? ''}
            onChange={(event) => {
              const chosen = views.find(({ id }) => String(id) === event.target.value);
              setOpen(null);
              onView(chosen?.view ?? WHOLE, chosen?.id ?? null);
            }}
          >
            <option value="">The whole sheet</option>
            {views.map(({ id, name, shared }) => (
              <option key={id} value={id}>
                {shared ? name : `${name} (mine)`}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-2">
          Find
          <input
            type="search"
            className="input w-64 max-w-full"
            aria-label="Find in the records"
            maxLength={100}
            value={search}
            onChange={(event) => onSearch(event.target.value)}
          />
        </label>
        {changed ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            onClick={() => onView(kept?.view ?? WHOLE, kept?.id ?? null)}
          >
            As it was
          </button>
        ) : null}
        {changed && kept?.mine === true ? (
          <button
            type="button"
            className="btn btn-outline btn-sm"
            onClick={() => {
              const before = kept.view;
              const keep = (look: SheetView): Promise<void> =>
                request('PUT', `${path}/${kept.id}`, {
                  name: kept.name,
                  shared: kept.shared,
                  view: look,
                }).then(() => refetch(path));
              void keep(view).then(() => done(`“${kept.name}” is changed.`, () => keep(before)));
            }}
          >
            Change “{kept.name}” to this
          </button>
        ) : null}
        {changed ? (
          <button type="button" className="btn btn-outline btn-sm" onClick={() => setDialog('keep')}>
            Keep as a view
          </button>
        ) : null}
        {!changed && kept?.mine === true ? (
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setDialog('drop')}>
            Delete this view
          </button>
        ) : null}
      </div>
      <div className="mt-1">
        <Sentence<ViewPhrase>
          phrases={[
            { key: 'which', lead: 'You see', words: words.which },
            { key: 'order', lead: '', words: words.order },
            { key: 'columns', lead: 'with', words: words.columns },
          ]}
          labels={LABELS}
          open={open}
          onOpen={setOpen}
          panel={(which) => (
            <ViewPanel
              which={which}
              view={view}
              columns={sheet.columns}
              onChange={(part) => onView({ ...view, ...part }, kept?.id ?? null)}
            />
          )}
        />
      </div>
      {dialog === 'keep' ? (
        <KeepView
          path={path}
          view={view}
          mayShare={sheet.mayKeep}
          onKept={(id) => onView(view, id)}
          onClose={() => setDialog(null)}
        />
      ) : null}
      {dialog === 'drop' && kept ? (
        <Confirm
          title={`Delete the view “${kept.name}”?`}
          detail={`${kept.shared ? 'Nobody has it any more' : 'It was yours alone'}; the records stay as they are.`}
          button="Delete it"
          onConfirm={() =>
            request('DELETE', `${path}/${kept.id}`).then(async () => {
              await refetch(path);
              onView(WHOLE, null);
            })
          }
          onClose={() => setDialog(null)}
        />
      ) : null}
    </section>
  );
}
