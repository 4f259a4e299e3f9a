import { useId, useState } from 'react';
import { READ_EVERY, type FoundList } from '../../core/sheets/following.ts';
import { isCalculated, type SheetHead } from '../../core/sheets/sheet.ts';
import { count } from '../../core/words.ts';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { FoundFields, guessed, type Found, type Source } from './FoundFields.tsx';
import { SecretFields } from '../automations/SecretFields.tsx';

const EMPTY: Source = {
  url: 'https://',
  header: '',
  everyMinutes: 5,
  rows: '',
  key: '',
  gone: '',
  after: '',
  columns: {},
};
const plain = ({ url, header, everyMinutes, rows, key, gone, after, columns }: Source): Source => ({
  url,
  header,
  everyMinutes,
  rows,
  key,
  gone,
  after,
  columns,
});

/** Where a sheet is read, and what of the answer is what: looked at first, and chosen from what is there. */
export function FollowDialog({ sheet, onClose }: { sheet: SheetHead; onClose: () => void }) {
  const { following } = sheet;
  const [source, setSource] = useState<Source>(following ? plain(following) : EMPTY);
  const [secret, setSecret] = useState('');
  const [found, setFound] = useState<Found>();
  const [error, setError] = useState<string>();
  const [busy, setBusy] = useState(false);
  const id = useId();
  const path = `/api/sheets/${sheet.id}/source` as const;
  const set = (part: Partial<Source>): void => setSource({ ...source, ...part });
  const run = async (work: () => Promise<void>): Promise<void> => {
    setError(undefined);
    setBusy(true);
    try {
      await work();
    } catch (problem) {
      const [first] = problem instanceof ApiProblem ? problem.errors : [];
      setError(first?.detail ?? wordsOf(problem));
    } finally {
      setBusy(false);
    }
  };
  const written = sheet.columns.filter((column) => !isCalculated(column));
  const take = (list: FoundList): Partial<Source> => guessed(list, source, written);
  const look = (): Promise<void> =>
    run(async () => {
      const answer = await request('POST', `${path}/trial`, {
        url: source.url,
        header: source.header,
        secret,
      });
      setFound(answer);
      const list = answer.lists.find((each) => each.pointer === source.rows) ?? answer.lists[0];
      const [position] = answer.positions;
      if (list) set({ ...take(list), after: position ? source.after || position.pointer : '' });
    });
  const save = (): Promise<void> =>
    run(async () => {
      const { trouble } = await request('PUT', path, {
        source: plain(source),
        secret,
        revision: following?.revision ?? null,
      });
      await refetch(`/api/sheets/${sheet.id}`);
      if (trouble === null) void done('It is followed, and was read.');
      onClose();
    });
  const list = found?.lists.find((each) => each.pointer === source.rows);
  return (
    <Dialog
      open
      title={following ? 'Change what it follows' : 'Follow an outside source'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button type="button" className="btn btn-outline" disabled={busy} onClick={() => void look()}>
            Look at it
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={busy || (!following && !found)}
            onClick={() => void save()}
          >
            Follow it
          </button>
        </>
      }
    >
      <div className="flex flex-col gap-3">
        <div className="flex flex-col gap-1">
          <label htmlFor={`${id}-url`}>Its address, which answers in JSON</label>
          <input
            id={`${id}-url`}
            className="input w-full"
            maxLength={2000}
            value={source.url}
            onChange={(event) => set({ url: event.target.value })}
          />
          <span className="text-sm text-quiet">
            Where it answers with what changed after a position, write {'{after}'} for the position.
          </span>
        </div>
        <SecretFields
          header={source.header}
          secret={secret}
          kept={following?.hasSecret ?? false}
          onHeader={(header) => set({ header })}
          onSecret={setSecret}
        />
        <label className="flex flex-col gap-1 self-start">
          How often it is read
          <select
            className="select"
            value={source.everyMinutes}
            onChange={(event) => set({ everyMinutes: Number(event.target.value) })}
          >
            {Object.entries(READ_EVERY).map(([minutes, words]) => (
              <option key={minutes} value={minutes}>
                {words}
              </option>
            ))}
          </select>
        </label>
        {found && list ? (
          <FoundFields
            source={source}
            found={found}
            list={list}
            columns={written}
            onTake={(next) => set(take(next))}
            onSet={set}
          />
        ) : following ? (
          <p className="text-sm text-quiet">
            {count(Object.keys(source.columns).length, 'column comes', 'columns come')} from there. Look at it
            to choose others.
          </p>
        ) : null}
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      </div>
    </Dialog>
  );
}
