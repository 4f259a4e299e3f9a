import { request } from '../../ui/api.ts';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';

const PEOPLE = '/api/people';

interface Named {
  id: number;
  name: string;
}

/** What is done with one person, from the list and from their page. What fails is given to `onProblem`. */
export function usePersonActions(onProblem: (problem: unknown) => void): {
  setLeft: (person: Named, left: boolean) => Promise<void>;
  invite: (person: Named) => Promise<void>;
  withdraw: (person: Named) => Promise<void>;
  trustAddress: (person: Named) => Promise<void>;
} {
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    onProblem(undefined);
    try {
      await work();
      await refetch(PEOPLE);
    } catch (error) {
      onProblem(error);
    }
  };
  const setLeft = (person: Named, left: boolean): Promise<void> =>
    act(async () => {
      await request('PUT', `${PEOPLE}/${person.id}/standing`, { left });
      void done(left ? `${person.name} has left and gets nothing more.` : `${person.name} is back.`, () =>
        setLeft(person, !left),
      );
    });
  return {
    setLeft,
    invite: (person) =>
      act(async () => {
        await request('POST', '/api/invitations', { to: { kind: 'people', ids: [person.id] }, words: '' });
        void done(`An invitation goes out to ${person.name} now.`);
      }),
    withdraw: (person) =>
      act(async () => {
        await request('DELETE', `${PEOPLE}/${person.id}/invitation`);
        void done(`The invitation of ${person.name} can no longer be used.`);
      }),
    trustAddress: (person) =>
      act(async () => {
        await request('DELETE', `${PEOPLE}/${person.id}/mail-trouble`);
        void done('Mail goes there again.');
      }),
  };
}
