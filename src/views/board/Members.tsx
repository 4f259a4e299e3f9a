import { useState } from 'react';
import type { BoardMembersPage } from '../../core/boards/reading.ts';
import { people } from '../../core/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, useServer, useServerPages } from '../../ui/server.ts';

/** Who reads a board: by name, with how each came to it and who looks after it. */
export function Members({
  boardId,
  whose,
  onClose,
}: {
  boardId: number;
  whose: string;
  onClose: () => void;
}) {
  const [letters, setLetters] = useState('');
  const { data, error, hasNextPage, fetchNextPage, isFetching } = useServerPages({
    path: (after: BoardMembersPage['next']) =>
      pathWith(`/api/boards/${boardId}/members`, { q: letters, ...after }),
    next: (page) => page.next,
  });
  const groups = useServer(`/api/boards/${boardId}/callable`);
  const found = data?.pages.flatMap((page) => page.members) ?? [];
  const first = data?.pages[0];
  return (
    <Dialog
      open
      title={first ? `${people(first.count)} can read it` : 'Who can read it'}
      onClose={onClose}
      actions={
        <button type="button" className="btn btn-primary" onClick={onClose}>
          Close
        </button>
      }
    >
      <p className="mb-2 text-sm text-quiet">
        It belongs to {whose}. Coordinators can open every board and are not counted for that.
      </p>
      {groups.data === undefined || groups.data.length === 0 ? null : (
        <section aria-label="Groups to call on" className="mb-3">
          <p className="text-sm">
            Written with @ in front, these are called on here:{' '}
            {groups.data.map(({ id, name, people: n }, at) => (
              <span key={id}>
                {at === 0 ? '' : ', '}
                <strong dir="auto">{name}</strong> ({people(n)})
              </span>
            ))}
            .
          </p>
        </section>
      )}
      <label className="mb-2 flex flex-col gap-1">
        Find a name
        <input
          type="search"
          className="input w-full"
          value={letters}
          onChange={(event) => setLetters(event.target.value)}
          dir="auto"
        />
      </label>
      {error ? <Notice tone="error">{wordsOf(error)}</Notice> : null}
      {first && found.length === 0 ? (
        <p className="text-quiet">
          {letters === '' ? 'Nobody belongs to it.' : 'Nobody of that name belongs to it.'}
        </p>
      ) : null}
      <ul className="max-h-80 overflow-y-auto" aria-busy={isFetching}>
        {found.map((member) => (
          <li key={member.id} className="border-t border-base-300 py-1">
            <a className="link-quiet inline-block py-1" href={`/person/${member.id}`} dir="auto">
              {member.name}
            </a>{' '}
            <span className="text-sm text-quiet">
              {[
                member.station,
                member.moderates ? 'looks after it' : null,
                member.belongs ? null : 'not in its group',
              ]
                .filter(Boolean)
                .join(', ')}
            </span>
          </li>
        ))}
      </ul>
      {hasNextPage ? (
        <button
          type="button"
          className="btn btn-outline btn-sm mt-2"
          disabled={isFetching}
          onClick={() => void fetchNextPage()}
        >
          More people
        </button>
      ) : null}
    </Dialog>
  );
}
