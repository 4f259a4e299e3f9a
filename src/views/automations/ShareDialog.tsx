import { useState } from 'react';
import type { AutomationPage } from '../../core/automation/page.ts';
import { request, exactWordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { NamedPeople } from '../../ui/NamedPeople.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch } from '../../ui/server.ts';

/** Who may change an automation beside whoever looks after it. */
export function ShareDialog({ page, onClose }: { page: AutomationPage; onClose: () => void }) {
  const [people, setPeople] = useState(page.people);
  const [problem, setProblem] = useState<string>();
  const save = async (): Promise<void> => {
    setProblem(undefined);
    try {
      await request('PUT', `/api/automations/${page.id}/people`, { people: people.map(({ id }) => id) });
      await refetch('/api/automations');
      onClose();
    } catch (failure) {
      setProblem(exactWordsOf(failure));
    }
  };
  return (
    <Dialog
      open
      title="Who else may change it"
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
      <p className="mb-2">
        Coordinators may. Whoever is named here may write it, put it to work and switch it, as far as they
        could do the same themselves; it goes on speaking with the rights of {page.owner}.
      </p>
      <NamedPeople
        people={people}
        label="Name somebody at the desk"
        onName={(person) => setPeople([...people, person])}
        onTakeOut={(id) => setPeople(people.filter((each) => each.id !== id))}
      />
      {problem === undefined ? null : <Notice tone="error">{problem}</Notice>}
    </Dialog>
  );
}
