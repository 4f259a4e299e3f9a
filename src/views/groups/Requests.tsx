import type { GroupRequest } from '../../core/groups/joining.ts';
import { request } from '../../ui/api.ts';
import { Moment } from '../../ui/Moment.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';

/** Who asks to come into a group, each with the answer. */
export function Requests({
  group,
  requests,
  zone,
  onAnswered,
}: {
  group: { id: number; name: string };
  requests: readonly GroupRequest[];
  zone: string;
  onAnswered: () => Promise<void>;
}) {
  const { busy, error, act } = useActs(onAnswered);
  const answer = (personId: number, name: string, letIn: boolean) =>
    act(async () => {
      await request('PUT', `/api/groups/${group.id}/requests/${personId}`, { letIn });
      void done(letIn ? `${name} is in ${group.name}.` : `${name} is told that they are not let in.`);
      await onAnswered();
    });
  return (
    <>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {requests.length === 0 ? null : (
        <ul className="mb-4 border-t border-base-300" aria-label={`Who asks to come into ${group.name}`}>
          {requests.map((each) => (
            <li
              key={each.personId}
              className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 py-2"
            >
              <span className="min-w-0 grow basis-60" dir="auto">
                <strong>{each.name}</strong>{' '}
                <span className="text-sm text-quiet">
                  {each.detail === '' ? '' : `${each.detail}, `}asked <Moment at={each.askedMs} zone={zone} />
                </span>
                {each.words === '' ? null : <span className="block">{each.words}</span>}
              </span>
              <span className="flex gap-2">
                <button
                  type="button"
                  className="btn btn-primary btn-sm"
                  disabled={busy}
                  aria-label={`Let ${each.name} into ${group.name}`}
                  onClick={answer(each.personId, each.name, true)}
                >
                  Let in
                </button>
                <button
                  type="button"
                  className="btn btn-ghost btn-sm"
                  disabled={busy}
                  aria-label={`Do not let ${each.name} into ${group.name}`}
                  onClick={answer(each.personId, each.name, false)}
                >
                  Do not
                </button>
              </span>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
