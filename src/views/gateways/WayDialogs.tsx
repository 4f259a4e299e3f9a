import { useState, type ReactNode } from 'react';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { SecretOnce } from './SecretOnce.tsx';

/** What is open over the page of a way. */
export type OpenOver = 'change' | 'renew' | 'delete' | null;

/** What can be done with a way as a whole: it is changed, given another secret, or deleted. */
export function WayDialogs({
  open,
  path,
  name,
  change,
  renews,
  secretWords,
  deletes,
  onClose,
}: {
  open: OpenOver;
  /** Of its endpoint. */
  path: `/api/gateways/${'in' | 'out'}/${number}`;
  name: string;
  /** The dialog in which it is changed. */
  change: ReactNode;
  /** What a new secret brings with it. */
  renews: string;
  /** What is done with the new secret. */
  secretWords: string;
  /** What goes with it when it is deleted. */
  deletes: string;
  onClose: () => void;
}) {
  const [secret, setSecret] = useState<string>();
  return (
    <>
      {open === 'change' ? change : null}
      {open === 'renew' ? (
        <Confirm
          title="Give it a new secret?"
          detail={renews}
          button="Give it a new one"
          onConfirm={() => request('POST', `${path}/secret`).then((made) => setSecret(made.secret))}
          onClose={onClose}
        />
      ) : null}
      {open === 'delete' ? (
        <Confirm
          title={`Delete “${name}”?`}
          detail={deletes}
          button="Delete it"
          onConfirm={() => request('DELETE', path).then(() => location.assign('/gateways'))}
          onClose={onClose}
        />
      ) : null}
      {secret === undefined ? null : (
        <SecretOnce secret={secret} words={secretWords} onClose={() => setSecret(undefined)} />
      )}
    </>
  );
}
