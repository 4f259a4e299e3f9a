import { useRef, useState } from 'react';
import type { PostPage } from '../../core/boards/board.ts';
import { EMPTY_DOCUMENT, type Doc } from '../../core/content/document.ts';
import { people } from '../../core/words.ts';
import { request, newKey, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { LazyEditor } from '../../ui/LazyEditor.tsx';
import { Notice } from '../../ui/Notice.tsx';

/**
 * Passes a post on to another board: which one is chosen by hand, one's own words stand above, and where the board warns it is
 * said first how many that reaches.
 */
export function PassOn({
  postId,
  boards,
  onDone,
  onClose,
}: {
  postId: number;
  boards: PostPage['passableTo'];
  onDone: (words: string) => void;
  onClose: () => void;
}) {
  const [boardId, setBoardId] = useState(0);
  const [document, setDocument] = useState<Doc>(EMPTY_DOCUMENT);
  const [reach, setReach] = useState<{ people: number; whom: string }>();
  const [error, setError] = useState<string>();
  const [busy, setBusy] = useState(false);
  const key = useRef(newKey());
  const board = boards.find((each) => each.id === boardId);
  const pass = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      if (board?.warns && reach === undefined) {
        setReach(await request('GET', `/api/boards/${boardId}/reach`));
        setBusy(false);
        return;
      }
      const { state } = await request(
        'POST',
        `/api/posts/${postId}/pass-on`,
        { boardId, document },
        key.current,
      );
      onDone(
        state === 'held'
          ? `It waits on ${board?.name ?? 'that board'} until a moderator has looked.`
          : `It stands on ${board?.name ?? 'that board'} now, with where it is from. Its author is told.`,
      );
      onClose();
    } catch (problem) {
      setError(wordsOf(problem));
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      title="Pass it on"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={busy || !board}
            onClick={() => void pass()}
          >
            {!board
              ? 'Choose a board first'
              : reach === undefined
                ? `Pass it on to ${board.name}`
                : `Pass it on to ${people(reach.people)}`}
          </button>
        </>
      }
    >
      <label className="flex flex-col gap-1">
        To which board
        <select
          className="select w-full"
          value={boardId}
          onChange={(event) => {
            setBoardId(Number(event.target.value));
            setReach(undefined);
          }}
        >
          <option value={0}>Choose a board</option>
          {boards.map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
              {each.held ? ' (a moderator looks first)' : ''}
            </option>
          ))}
        </select>
      </label>
      <div className="mt-3">
        <LazyEditor
          plain
          label="Your own words, if you wish"
          names={`/api/boards/${boardId}/names`}
          document={document}
          onChange={setDocument}
        />
      </div>
      {reach === undefined ? null : (
        <Notice tone="warning">
          This reaches {people(reach.people)}:{' '}
          {reach.whom === 'everybody' ? 'everybody in the organisation' : `everybody in ${reach.whom}`}.
        </Notice>
      )}
      <p className="mt-3 text-quiet">
        The post is quoted there as it stands, and follows it when it is changed or taken back. Replies stay
        where they are written.
      </p>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </Dialog>
  );
}
