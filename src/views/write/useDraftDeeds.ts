import type { Content } from '../../core/content/announcement.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { ApiProblem, request, newKey, wordsOf } from '../../ui/api.ts';
import { forgetUnsavedText } from './useAutosave.ts';

const NOT_SAVED = 'The last change is not saved yet. Try again in a moment.';

/** What can be done with a draft besides sending it: what it leads to, and what is said where it fails. */
export function useDraftDeeds(
  draftId: number,
  {
    flush,
    onError,
    onSaid,
    onBusy,
  }: {
    /** Saves what is not saved yet; null where it could not. */
    flush: () => Promise<number | null>;
    onError: (words: string | undefined) => void;
    onSaid: (words: string) => void;
    onBusy: (busy: boolean) => void;
  },
) {
  const saved = async (): Promise<void> => {
    if ((await flush()) === null) throw new Error(NOT_SAVED);
  };
  /** Does something; says what kept it from being done, and gives whether it was. */
  const attempt = async (work: () => Promise<void>): Promise<boolean> => {
    onError(undefined);
    try {
      await work();
      return true;
    } catch (error) {
      onError(
        error instanceof ApiProblem
          ? [error.message, ...error.errors.map((each) => each.detail)].join(' ')
          : wordsOf(error),
      );
      return false;
    }
  };
  return {
    /** Leaves what has gone, or recurs, as it was. */
    leave: () =>
      attempt(async () => {
        await request('POST', `/api/announcements/${draftId}/leave`);
        location.assign('/run-sheet');
      }),
    /** Begins something from it: a copy, a template. */
    begin: (path: 'copy' | 'template', then: (id: number) => void) =>
      attempt(async () => {
        await saved();
        const { id } = await request('POST', `/api/announcements/${draftId}/${path}`);
        then(id);
      }),
    sendTest: () =>
      attempt(async () => {
        await saved();
        await request('POST', `/api/announcements/${draftId}/test`, undefined, newKey());
        onSaid('A test goes to you alone, in your inbox and by mail, in ten seconds.');
      }),
    rehearse: async () => {
      onBusy(true);
      const goes = await attempt(async () => {
        await saved();
        location.assign(`/write/${draftId}/rehearsal`);
      });
      if (!goes) onBusy(false);
    },
    discard: () =>
      attempt(async () => {
        await request('DELETE', `/api/announcements/${draftId}`);
        location.assign('/write');
      }),
    /** Keeps what is written here as a draft of its own, beside what somebody else saved. */
    asSeparate: (text: { content: Content; plan: Plan }) =>
      attempt(async () => {
        const { id } = await request('POST', '/api/announcements');
        await request('PUT', `/api/announcements/${id}`, { ...text, revision: 1 });
        forgetUnsavedText(draftId);
        location.assign(`/write/${id}`);
      }),
  };
}
