import { useState } from 'react';
import type { Added, GroupMember, GroupPage, MembersPage } from '../../core/groups/group.ts';
import { MOST_LINES } from '../../core/groups/schemas.ts';
import type { Column } from '../../core/imports/columns.ts';
import { count, people } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { done } from '../../ui/toast.ts';

/** What became of a pasted list, as a sentence. */
function addedWords({ added, already, unknown }: Added): string {
  return [
    added === 0 ? 'Nobody was put in' : `${people(added)} put in`,
    already > 0 ? `${already.toLocaleString('en-GB')} were in it already` : '',
    unknown.length > 0 ? `${count(unknown.length, 'line is', 'lines are')} nobody’s, and left below` : '',
  ]
    .filter(Boolean)
    .join('; ')
    .concat('.');
}

/** The addresses in a list, else the names: what the people of a group are found by. */
async function linesOf(file: File): Promise<string[]> {
  const { readList } = await import('../../core/imports/reading.ts');
  const { guess, rows } = readList(new Uint8Array(await file.arrayBuffer()));
  const at = (column: Column): number => guess.indexOf(column);
  return rows.flatMap(({ cells }) => {
    const cell = (column: Column): string => (at(column) < 0 ? '' : (cells[at(column)] ?? '').trim());
    const line = cell('mail') || cell('name') || `${cell('given')} ${cell('family')}`.trim();
    return line === '' ? [] : [line];
  });
}

/** Puts people into a fixed group: one by name, or a list of addresses or names as it is pasted. */
function PutIn({ groupId, onDone }: { groupId: number; onDone: (said: string) => void }) {
  const [pasted, setPasted] = useState('');
  const [error, setError] = useState<string>();
  const [busy, setBusy] = useState(false);
  const put = async (body: { ids?: number[]; lines?: string[] }): Promise<Added | undefined> => {
    setBusy(true);
    setError(undefined);
    try {
      const done = await request('POST', `/api/groups/${groupId}/members`, body);
      onDone(addedWords(done));
      return done;
    } catch (problem) {
      setError(wordsOf(problem));
      return undefined;
    } finally {
      setBusy(false);
    }
  };
  const take = async (file: File): Promise<void> => {
    setError(undefined);
    try {
      const lines = await linesOf(file);
      if (lines.length === 0) setError('There is no mail address and no name in it. Choose another list.');
      else if (lines.length > MOST_LINES)
        setError(
          `It has ${count(lines.length, 'line', 'lines')}; at most ${count(MOST_LINES, 'line', 'lines')} are taken at once. Bring it in as parts.`,
        );
      else setPasted(lines.join('\n'));
    } catch (problem) {
      setError(problem instanceof Error ? problem.message : 'It cannot be read. Choose another list.');
    }
  };
  return (
    <section aria-labelledby="put-in" className="mb-6 border border-base-300 bg-base-100 p-4">
      <h2 id="put-in" className="mb-2 text-lg">
        Put people in
      </h2>
      <div className="grid gap-4 sm:grid-cols-2">
        <NameSearch label="By name" onChoose={(found) => void put({ ids: [found.id] })} />
        <form
          className="flex flex-col gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void put({ lines: pasted.split(/[\n;,\t]+/) }).then((done) => {
              // What was not found stays, so that it can be put right.
              if (done) setPasted(done.unknown.join('\n'));
            });
          }}
        >
          <label className="flex flex-col gap-1">
            Or paste mail addresses or whole names
            <textarea
              className="textarea w-full"
              rows={3}
              dir="auto"
              value={pasted}
              onChange={(event) => setPasted(event.target.value)}
            />
          </label>
          <label className="flex flex-col gap-1">
            Or take them from a list, as CSV or vCard
            <input
              type="file"
              className="file-input w-full"
              accept=".csv,.txt,.tsv,.vcf,text/csv,text/vcard"
              disabled={busy}
              onChange={(event) => {
                const [file] = event.target.files ?? [];
                event.target.value = '';
                if (file) void take(file);
              }}
            />
          </label>
          <button className="btn btn-outline self-start" disabled={busy || pasted.trim() === ''}>
            Put them in
          </button>
        </form>
      </div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </section>
  );
}

/** Who is in a group, page by page; of a fixed one with putting in and taking out. */
export function Members({ group, onChanged }: { group: GroupPage; onChanged: () => Promise<void> }) {
  const [more, setMore] = useState<MembersPage>({ members: [], next: group.next });
  const [error, setError] = useState<string>();
  const byHand = group.kind === 'fixed' && group.mayChange;
  const next = more.members.length > 0 ? more.next : group.next;
  const load = async (): Promise<void> => {
    if (!next) return;
    try {
      const found = await request(
        'GET',
        `/api/groups/${group.id}/members?afterName=${encodeURIComponent(next.name)}&afterId=${next.id}`,
      );
      setMore((before) => ({ members: [...before.members, ...found.members], next: found.next }));
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const changed = async (words: string, undo?: () => Promise<unknown>): Promise<void> => {
    void done(words, undo);
    setMore({ members: [], next: null });
    await onChanged();
  };
  const takeOut = async (member: GroupMember): Promise<void> => {
    setError(undefined);
    try {
      await request('DELETE', `/api/groups/${group.id}/members/${member.id}`);
      await changed(`${member.name} is out of it.`, async () => {
        await request('POST', `/api/groups/${group.id}/members`, { ids: [member.id] });
        await changed(`${member.name} is in it again.`);
      });
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const members = [...group.members, ...more.members];
  return (
    <>
      {byHand ? <PutIn groupId={group.id} onDone={(words) => void changed(words)} /> : null}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <h2 className="mb-2">{group.people === null ? 'Who is in it' : `${people(group.people)} in it`}</h2>
      {members.length === 0 ? (
        <p className="text-quiet">
          {group.kind === 'fixed'
            ? 'Nobody yet.'
            : group.rule === null
              ? 'Its rule cannot be read, so who is in it is not known. Write it anew.'
              : 'The rule holds for nobody at this moment.'}
        </p>
      ) : (
        <ul className="grid gap-x-8 sm:grid-cols-2">
          {members.map((member) => (
            <li
              key={member.id}
              className="flex min-h-11 items-center justify-between gap-3 border-t border-base-300"
            >
              <span>
                <span dir="auto">{member.name}</span>{' '}
                <span className="text-sm text-quiet">{member.station ?? ''}</span>
              </span>
              {byHand ? (
                <button
                  type="button"
                  className="btn btn-ghost btn-sm"
                  aria-label={`Take ${member.name} out`}
                  onClick={() => void takeOut(member)}
                >
                  Take out
                </button>
              ) : null}
            </li>
          ))}
        </ul>
      )}
      {next ? (
        <button type="button" className="btn btn-outline mt-4" onClick={() => void load()}>
          More people
        </button>
      ) : null}
    </>
  );
}
