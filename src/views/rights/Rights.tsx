import { useState } from 'react';
import type { Role } from '../../core/audience/expression.ts';
import { ROLE_RIGHTS, type RightsPage } from '../../core/rights/words.ts';
import { list } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { ReachDialog } from '../person/ReachDialog.tsx';

const PATH = '/api/rights';
type Given = Exclude<Role, 'member'>;
interface Named {
  id: number;
  name: string;
}

const roleWords = (role: Role): string => (role === 'editor' ? 'an editor' : `a ${role}`);

const Says = ({ of }: { of: keyof typeof ROLE_RIGHTS }) => (
  <div className="mt-1 mb-3 max-w-prose">
    {of === 'editor' ? 'An' : 'A'} {of}
    <ul className="list-disc pl-5">
      {ROLE_RIGHTS[of].map((right) => (
        <li key={right}>{right}</li>
      ))}
    </ul>
  </div>
);

/** What each role may do, in words, and who has it; coordinators give and take it here. */
export default function Rights({
  first,
  groups,
}: {
  first: RightsPage;
  groups: { id: number; name: string }[];
}) {
  const { data: rights = first } = useServer(PATH, { first, topics: ['people'] });
  const [asked, setAsked] = useState<{ person: Named; to: Role }>();
  const [reaching, setReaching] = useState<RightsPage['editors'][number]>();
  const awake = useAwake();
  const set = async (person: Named, role: Role): Promise<void> => {
    await request('PUT', `/api/people/${person.id}`, { role });
    await refetch(PATH);
  };
  const holders = (role: Given, found: readonly Named[]) => (
    <ul className="mb-3 border-t border-base-300">
      {found.map((person) => (
        <li
          key={person.id}
          className="flex min-h-11 flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 py-1"
        >
          <a className="link-quiet font-semibold" href={`/person/${person.id}`} dir="auto">
            {person.name}
          </a>
          {role === 'editor' ? (
            <span className="grow basis-60 text-sm text-quiet">
              {reachWords(rights.editors.find((editor) => editor.id === person.id))}
            </span>
          ) : (
            <span className="grow" />
          )}
          {role === 'editor' ? (
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={!awake}
              aria-label={`Choose whom ${person.name} may write to`}
              onClick={() => setReaching(rights.editors.find((editor) => editor.id === person.id))}
            >
              Choose whom
            </button>
          ) : null}
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={!awake}
            aria-label={`Make ${person.name} a member`}
            onClick={() => setAsked({ person, to: 'member' })}
          >
            Take it back
          </button>
        </li>
      ))}
    </ul>
  );
  const give = (role: Given) => (
    <div className="max-w-sm">
      <NameSearch
        label={`Make somebody ${roleWords(role)}`}
        onChoose={({ id, name }) => setAsked({ person: { id, name }, to: role })}
      />
    </div>
  );
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Rights</h1>
        <a className="btn btn-ghost" href="/people">
          People
        </a>
        <a className="btn btn-ghost" href="/audit">
          What was done
        </a>
      </div>
      <section aria-labelledby="coordinators" className="mb-10">
        <h2 id="coordinators">Coordinators</h2>
        <Says of="coordinator" />
        {holders('coordinator', rights.coordinators)}
        {give('coordinator')}
      </section>
      <section aria-labelledby="editors" className="mb-10">
        <h2 id="editors">Editors</h2>
        <Says of="editor" />
        {holders('editor', rights.editors)}
        {give('editor')}
      </section>
      <section aria-labelledby="moderators" className="mb-10">
        <h2 id="moderators">Moderators</h2>
        <Says of="moderator" />
        <ul className="border-t border-base-300">
          {rights.boards.map((board) => (
            <li key={board.id} className="flex min-h-11 flex-wrap gap-x-4 border-b border-base-300 py-2">
              <a className="link-quiet w-64 font-semibold" href={`/boards/${board.id}/settings`} dir="auto">
                {board.name}
              </a>
              <span className={board.moderators.length === 0 ? 'text-warning' : 'text-quiet'} dir="auto">
                {board.moderators.length === 0 ? 'nobody moderates it' : list(board.moderators, 'and')}
              </span>
            </li>
          ))}
        </ul>
      </section>
      <section aria-labelledby="members">
        <h2 id="members">Members</h2>
        <Says of="member" />
        <Says of="guest" />
      </section>
      {asked ? (
        <Confirm
          title={`Make ${asked.person.name} ${roleWords(asked.to)}?`}
          detail={`From their next press on, ${roleWords(asked.to)} ${ROLE_RIGHTS[asked.to][0] ?? ''}. It can be changed back here.`}
          button={`Make them ${roleWords(asked.to)}`}
          onClose={() => setAsked(undefined)}
          onConfirm={async () => {
            await set(asked.person, asked.to);
            void done(`${asked.person.name} is ${roleWords(asked.to)} now.`);
          }}
        />
      ) : null}
      {reaching ? (
        <ReachDialog
          person={reaching}
          reach={reaching.reach}
          groups={groups}
          onClose={() => setReaching(undefined)}
          onDone={() => {
            setReaching(undefined);
            void refetch(PATH);
          }}
        />
      ) : null}
    </>
  );
}

const reachWords = (editor: RightsPage['editors'][number] | undefined): string =>
  !editor || editor.reach.length === 0
    ? 'may write to no group yet'
    : `may write to ${list(
        editor.reach.map((group) => group.name),
        'and',
      )}`;
