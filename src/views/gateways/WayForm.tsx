import { useId, useState, type BaseSyntheticEvent, type ReactNode } from 'react';
import { requestAnywhere } from '../../ui/api.ts';
import type { Takes } from '../../ui/client.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { SecretOnce } from './SecretOnce.tsx';

interface Made {
  id: number;
  secret: string;
}

/** Sends a way that was filled in: one that is changed by its revision, a new one for its secret. */
export function useSentWay<Way extends 'in' | 'out'>(
  way: Way,
  given: { id: number; revision: number } | null,
): { made: Made | undefined; send: (hook: Takes<'POST', `/api/gateways/${Way}`>) => Promise<void> } {
  const [made, setMade] = useState<Made>();
  const send = async (hook: Takes<'POST', `/api/gateways/${Way}`>): Promise<void> => {
    const path = `/api/gateways/${way}`;
    if (given)
      await requestAnywhere('PUT', `${path}/${given.id}`, { ...(hook as object), revision: given.revision });
    else setMade(await requestAnywhere<Made>('POST', path, hook));
  };
  return { made, send };
}

/** The dialog in which a way is made or changed. Once it is made its secret is told, and then its page is opened. */
export function WayForm({
  way,
  changes,
  made,
  secretWords,
  busy,
  children,
  onSubmit,
  onClose,
}: {
  way: 'in' | 'out';
  changes: boolean;
  made: Made | undefined;
  /** What is done with its secret. */
  secretWords: string;
  busy: boolean;
  children: ReactNode;
  onSubmit: (event: BaseSyntheticEvent) => Promise<void>;
  onClose: () => void;
}) {
  const id = useId();
  if (made)
    return (
      <SecretOnce
        secret={made.secret}
        words={secretWords}
        onClose={() => location.assign(`/gateways/${way}/${made.id}`)}
      />
    );
  return (
    <Dialog
      open
      title={changes ? `Change the way ${way}` : `A new way ${way}`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button form={id} className="btn btn-primary" disabled={busy}>
            {changes ? 'Change it' : 'Make it'}
          </button>
        </>
      }
    >
      <form id={id} noValidate className="flex flex-col gap-3" onSubmit={(event) => void onSubmit(event)}>
        {children}
      </form>
    </Dialog>
  );
}
