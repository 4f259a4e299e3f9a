import { useState } from 'react';
import type { BoardListing } from '../../core/boards/board.ts';
import { shortDate } from '../../core/timing/words.ts';
import { Sortable, useInOrder } from '../../ui/Sortable.tsx';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { NewBoard, type Group } from './NewBoard.tsx';
import { refetch, setServer, useServer } from '../../ui/server.ts';

/** A board in the list: what it is, for whom, and what is new on it. */
function Row({
  board,
  zone,
  order,
}: {
  board: BoardListing;
  zone: string;
  order?: ReturnType<typeof useInOrder>;
}) {
  return (
    <li ref={order?.ref} style={order?.style} className="bg-base-100">
      <time className="margin">{board.latest === null ? '' : shortDate(board.latest.atMs, zone)}</time>
      <div>
        <a className="link-quiet text-lg font-semibold" href={`/boards/${board.id}`}>
          {board.name}
        </a>
        <p className="text-sm text-quiet" dir="auto">
          {board.about} For {board.whose}.
        </p>
        {board.latest === null ? null : (
          <p dir="auto">
            <a
              className={`link-quiet ${board.unread > 0 && !board.muted ? 'font-semibold' : ''}`}
              href={`/posts/${board.latest.postId}`}
            >
              {board.latest.title}
            </a>
          </p>
        )}
      </div>
      <div className="state text-sm text-quiet">
        {board.waiting > 0 ? (
          <span className="block font-semibold text-warning">{board.waiting} waiting for you</span>
        ) : null}
        {board.unread > 0 && !board.muted && !board.hidden ? (
          <span className="block font-semibold text-primary">
            {board.unread >= 100 ? '100 or more' : board.unread} new
          </span>
        ) : null}
        {board.muted ? <span className="block">muted</span> : null}
        {board.archived
          ? 'archived'
          : board.posting.outcome === 'allowed'
            ? 'you may post'
            : board.posting.outcome === 'held'
              ? 'you may write'
              : 'you may read'}
        {order?.handle}
      </div>
    </li>
  );
}

const PATH = '/api/boards';

const RowInOrder = (props: { board: BoardListing; zone: string }) => (
  <Row {...props} order={useInOrder(props.board.id)} />
);

/** The boards somebody may see, with what is new on each. */
export default function BoardList({
  first,
  groups,
  zone,
  me,
}: {
  first: BoardListing[];
  /** The groups a board could belong to, for whoever makes boards; null for others. */
  groups: Group[] | null;
  zone: string;
  me: number;
}) {
  const awake = useAwake();
  const { data: boards = first, error: failed } = useServer(PATH, {
    first,
    topics: ['arrivals', `person:${me}`],
  });
  const [making, setMaking] = useState(false);
  const [arranging, setArranging] = useState(false);
  const [problem, setProblem] = useState<unknown>();
  const error = problem ?? failed;
  const refresh = (): Promise<void> => refetch(PATH);
  const arrange = async (ids: number[]): Promise<void> => {
    const places = new Map(ids.map((id, i) => [id, i]));
    const place = (board: BoardListing): number => places.get(board.id) ?? ids.length;
    const list = [...boards].sort((one, other) => place(one) - place(other));
    setProblem(undefined);
    await setServer(PATH, list);
    try {
      await request('PUT', '/api/boards/order', { ids: list.map((each) => each.id) });
    } catch (failure) {
      setProblem(failure);
      await refresh();
    }
  };
  const open = boards.filter((board) => !board.archived && !board.hidden);
  const hidden = boards.filter((board) => !board.archived && board.hidden);
  const archived = boards.filter((board) => board.archived);
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Boards</h1>
        <a className="btn btn-ghost" href="/groups/mine">
          Your groups
        </a>
        <a className="btn btn-ghost" href="/thanks">
          Thanks
        </a>
        {groups ? (
          <>
            <a className="btn btn-ghost" href="/patterns">
              Patterns
            </a>
            <button
              type="button"
              className="btn btn-ghost"
              aria-pressed={arranging}
              disabled={!awake}
              onClick={() => setArranging(!arranging)}
            >
              {arranging ? 'Done arranging' : 'Arrange'}
            </button>
            <button
              type="button"
              className="btn btn-primary"
              disabled={!awake}
              onClick={() => setMaking(true)}
            >
              New board
            </button>
          </>
        ) : null}
      </div>
      {error ? <Notice tone="error">{wordsOf(error)}</Notice> : null}
      {open.length === 0 ? (
        <p className="text-quiet">
          No board is yours to see yet. They appear here when you belong to a group that has one.
        </p>
      ) : (
        <ul className="ledger">
          {arranging ? (
            <Sortable
              ids={open.map((board) => board.id)}
              nameOf={(id) => open.find((board) => board.id === id)?.name ?? ''}
              onOrder={(ids) => void arrange(ids)}
            >
              {open.map((board) => (
                <RowInOrder key={board.id} board={board} zone={zone} />
              ))}
            </Sortable>
          ) : (
            open.map((board) => <Row key={board.id} board={board} zone={zone} />)
          )}
        </ul>
      )}
      {hidden.length > 0 ? (
        <details className="mt-6">
          <summary className="min-h-11 cursor-pointer link-quiet">Out of my sight ({hidden.length})</summary>
          <ul className="ledger mt-2">
            {hidden.map((board) => (
              <Row key={board.id} board={board} zone={zone} />
            ))}
          </ul>
        </details>
      ) : null}
      {archived.length > 0 ? (
        <details className="mt-6">
          <summary className="min-h-11 cursor-pointer link-quiet">Archived ({archived.length})</summary>
          <ul className="ledger mt-2">
            {archived.map((board) => (
              <Row key={board.id} board={board} zone={zone} />
            ))}
          </ul>
        </details>
      ) : null}
      {making && groups ? <NewBoard groups={groups} onClose={() => setMaking(false)} /> : null}
    </>
  );
}
