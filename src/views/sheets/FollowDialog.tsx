import { useId, useState } from 'react';
import {
  pointerLike,
  READ_EVERY,
  tellsWhatChanged,
  type Following,
  type FoundList,
} from '../../core/sheets/following.ts';
import { isCalculated, type SheetHead } from '../../core/sheets/sheet.ts';
import { count } from '../../core/words.ts';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { SelectPointer } from './SelectPointer.tsx';
import { SecretFields } from '../automations/SecretFields.tsx';

type Source = Pick<
  Following,
  'url' | 'header' | 'everyMinutes' | 'rows' | 'key' | 'gone' | 'after' | 'columns'
>;
interface Found {
  lists: FoundList[];
  positions: { pointer: string; sample: string }[];
}

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
  /** Takes a list of the answer, and guesses by their names what its columns are. */
  const take = (list: FoundList): Partial<Source> => {
    const pointers = list.values.map((value) => value.pointer);
    const guessed = written.flatMap((column): [string, string][] => {
      const before = source.columns[column.id];
      const pointer =
        before !== undefined && pointers.includes(before) ? before : pointerLike(column.name, pointers);
      return pointer === null ? [] : [[column.id, pointer]];
    });
    return {
      rows: list.pointer,
      key: pointers.includes(source.key)
        ? source.key
        : (pointerLike('id', pointers) ?? pointerLike('number', pointers) ?? pointers[0] ?? ''),
      columns: Object.fromEntries(guessed),
    };
  };
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
          <>
            <label className="flex flex-col gap-1">
              Its records
              <select
                className="select w-full"
                value={source.rows}
                onChange={(event) => {
                  const next = found.lists.find((each) => each.pointer === event.target.value);
                  if (next) set(take(next));
                }}
              >
                {found.lists.map((each) => (
                  <option key={each.pointer} value={each.pointer}>
                    {each.pointer || 'the whole answer'}: {count(each.rows, 'row', 'rows')}
                  </option>
                ))}
              </select>
            </label>
            <SelectPointer
              label="What sets a record apart"
              value={source.key}
              values={list.values}
              none={null}
              onChange={(key) => set({ key })}
            />
            {tellsWhatChanged(source.url) ? (
              <>
                <SelectPointer
                  label="The position in its answer"
                  value={source.after}
                  values={found.positions}
                  none="none is told"
                  onChange={(after) => set({ after })}
                />
                <SelectPointer
                  label="Whether a record is gone"
                  value={source.gone}
                  values={list.values}
                  none="not told of"
                  onChange={(gone) => set({ gone })}
                />
              </>
            ) : null}
            <fieldset className="flex flex-col gap-2">
              <legend className="mb-1 font-semibold">What each column holds</legend>
              {written.map((column) => (
                <SelectPointer
                  key={column.id}
                  label={column.name}
                  value={source.columns[column.id] ?? ''}
                  values={list.values}
                  none="nothing from there: it is filled in here"
                  onChange={(pointer) => {
                    const others = Object.entries(source.columns).filter(([each]) => each !== column.id);
                    set({
                      columns: Object.fromEntries(
                        pointer === '' ? others : [...others, [column.id, pointer]],
                      ),
                    });
                  }}
                />
              ))}
            </fieldset>
          </>
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
