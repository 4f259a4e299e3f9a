import { useState } from 'react';
import { FILE_ORDERS, type BoardFile, type BoardFiles, type FileOrder } from '../../core/boards/files.ts';
import { bytesWords, count } from '../../core/words.ts';
import { momentWords, shortDate } from '../../core/timing/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';

const ORDER_WORDS: Record<FileOrder, string> = {
  newest: 'the newest first',
  name: 'by name',
  size: 'the largest first',
};

function FileLines({
  files,
  zone,
  nowMs,
  mayArchive,
  onArchive,
}: {
  files: readonly BoardFile[];
  zone: string;
  nowMs: number;
  mayArchive: boolean;
  onArchive: (file: BoardFile) => void;
}) {
  const awake = useAwake();
  return (
    <ul className="ledger">
      {files.map((file) => (
        <li key={`${file.key} ${file.path}`}>
          {file.atMs === null ? (
            <span className="margin">pinned</span>
          ) : (
            <time
              className="margin"
              dateTime={new Date(file.atMs).toISOString()}
              title={momentWords(file.atMs, zone, nowMs)}
            >
              {shortDate(file.atMs, zone)}
            </time>
          )}
          <div>
            <a className="link-quiet font-semibold" href={file.href} download dir="auto">
              {file.name}
            </a>{' '}
            <span className="text-sm text-quiet">{bytesWords(file.bytes)}</span>
            <p className="text-sm text-quiet">
              <a className="link-quiet" href={file.path} dir="auto">
                {file.where}
              </a>
              {file.by === '' ? '' : `, ${file.by}`}
            </p>
          </div>
          <div className="state">
            {mayArchive ? (
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                disabled={!awake}
                aria-label={`${file.archived ? 'Bring back' : 'Archive'} ${file.name}`}
                onClick={() => onArchive(file)}
              >
                {file.archived ? 'Bring back' : 'Archive'}
              </button>
            ) : null}
          </div>
        </li>
      ))}
    </ul>
  );
}

/** All files that stand on a board, whatever they stand in; those that were archived apart. */
export default function Files({
  first,
  order,
  zone,
  nowMs,
}: {
  first: BoardFiles;
  order: FileOrder;
  zone: string;
  nowMs: number;
}) {
  const { id, name } = first.board;
  const base = `/api/boards/${id}/files` as const;
  const { data = first } = useServer(pathWith(base, { order }), {
    first,
    topics: [`board:${id}`],
  });
  const [error, setError] = useState<string>();
  const archive = async (file: BoardFile, archived: boolean): Promise<void> => {
    setError(undefined);
    try {
      await request('PUT', base, { key: file.key, archived });
      await refetch(base);
      void done(archived ? `${file.name} is archived.` : `${file.name} is back.`, () =>
        archive(file, !archived),
      );
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const listed = data.files.filter((file) => !file.archived);
  const apart = data.files.filter((file) => file.archived);
  const lines = {
    zone,
    nowMs,
    mayArchive: data.mayArchive,
    onArchive: (file: BoardFile) => void archive(file, !file.archived),
  };
  return (
    <>
      <p className="mb-2 text-sm">
        <a className="link-quiet" href={`/boards/${id}`} dir="auto">
          {name}
        </a>
      </p>
      <h1 className="mb-1">Files</h1>
      <p className="mb-3 text-quiet">
        Everything that is attached on this board: to posts, to replies, and among its key links.
      </p>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <p className={`mb-3 flex flex-wrap gap-x-4 text-sm ${data.files.length === 0 ? 'hidden' : ''}`}>
        <span className="py-2 text-quiet">{count(listed.length, 'file', 'files')},</span>
        {FILE_ORDERS.map((each) => (
          <a
            key={each}
            className={`py-2 ${each === order ? 'font-semibold' : 'link-quiet'}`}
            aria-current={each === order ? 'true' : undefined}
            href={each === 'newest' ? `/boards/${id}/files` : `/boards/${id}/files?order=${each}`}
          >
            {ORDER_WORDS[each]}
          </a>
        ))}
      </p>
      {listed.length === 0 ? (
        <p className="text-quiet">No files stand on it. Whoever posts here can attach some.</p>
      ) : (
        <FileLines files={listed} {...lines} />
      )}
      {data.more ? <p className="mt-2 text-quiet">There are more; the search finds them by name.</p> : null}
      {apart.length === 0 ? null : (
        <details className="mt-6">
          <summary className="min-h-11 cursor-pointer py-2 link-quiet">
            {count(apart.length, 'archived file', 'archived files')}
          </summary>
          <p className="text-sm text-quiet">They still stand where they were posted.</p>
          <FileLines files={apart} {...lines} />
        </details>
      )}
    </>
  );
}
