import { useState } from 'react';
import type { SheetHead, SheetRights } from '../../core/sheets/sheet.ts';
import { request, exactWordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { NamedPeople } from '../../ui/NamedPeople.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';

const given = ({ seenBy, people }: SheetRights) => ({
  seenBy,
  people: people.map(({ id, mayChange }) => ({ id, mayChange })),
});

/** Who sees a sheet, and who changes its records beside coordinators. */
export function RightsDialog({ sheet, onClose }: { sheet: SheetHead; onClose: () => void }) {
  const [rights, setRights] = useState<SheetRights>(sheet.rights);
  const [problem, setProblem] = useState<string>();
  const path = `/api/sheets/${sheet.id}` as const;
  const { seenBy, people } = rights;
  const put = async (next: SheetRights): Promise<void> => {
    await request('PUT', `${path}/rights`, given(next));
    await refetch(path);
  };
  const save = async (): Promise<void> => {
    setProblem(undefined);
    const before = sheet.rights;
    try {
      await put(rights);
      onClose();
      void done('Who sees and changes it is said.', () => put(before));
    } catch (failure) {
      setProblem(exactWordsOf(failure));
    }
  };
  const setPerson = (id: number, mayChange: boolean): void =>
    setRights({ seenBy, people: people.map((each) => (each.id === id ? { ...each, mayChange } : each)) });
  return (
    <Dialog
      open
      title="Who sees and changes it"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button type="button" className="btn btn-primary" onClick={() => void save()}>
            Keep it so
          </button>
        </>
      }
    >
      <div className="flex flex-col gap-3">
        <fieldset className="flex flex-col gap-1">
          <legend className="font-semibold">The sheet is seen by</legend>
          {(
            [
              ['desk', 'everybody at the desk'],
              ['named', 'coordinators, and those named below'],
            ] as const
          ).map(([value, words]) => (
            <label key={value} className="flex min-h-10 items-center gap-2">
              <input
                type="radio"
                name="seen-by"
                className="radio radio-primary"
                checked={seenBy === value}
                onChange={() => setRights({ seenBy: value, people })}
              />
              {words}
            </label>
          ))}
        </fieldset>
        <section aria-label="Those named for it">
          <h3 className="font-semibold">Named for it</h3>
          <p className="text-sm text-quiet">
            Coordinators see and change all of it. An editor’s automation reads it only where that editor sees
            it.
          </p>
          <NamedPeople
            people={people}
            label="Name somebody at the desk"
            more={(person) => (
              <select
                className="select select-sm w-44"
                aria-label={`What ${person.name} may do`}
                value={person.mayChange ? 'changes' : 'sees'}
                onChange={(event) => setPerson(person.id, event.target.value === 'changes')}
              >
                <option value="sees">sees it</option>
                <option value="changes">changes its records</option>
              </select>
            )}
            onName={(person) => setRights({ seenBy, people: [...people, { ...person, mayChange: true }] })}
            onTakeOut={(id) => setRights({ seenBy, people: people.filter((each) => each.id !== id) })}
          />
        </section>
        {problem === undefined ? null : <Notice tone="error">{problem}</Notice>}
      </div>
    </Dialog>
  );
}
