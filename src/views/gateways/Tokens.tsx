import { useState } from 'react';
import type { TokenLine } from '../../core/api/token.ts';
import { nearWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { lazily } from '../../ui/lazily.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { SecretOnce } from './SecretOnce.tsx';

const TokenDialog = lazily(() => import('./TokenDialog.tsx').then((module) => module.TokenDialog));

const PATH = '/api/tokens';

/** The tokens with which programs do at the desk what their owners may: each with what it may do, and its use. */
export default function Tokens({
  tokens: first,
  zone,
  nowMs,
}: {
  tokens: TokenLine[];
  zone: string;
  nowMs: number;
}) {
  const tokens = useServer(PATH, { first }).data ?? first;
  const [making, setMaking] = useState(false);
  const [secret, setSecret] = useState<string>();
  const [revoking, setRevoking] = useState<TokenLine>();
  const awake = useAwake();
  return (
    <section className="mt-8" aria-labelledby="tokens">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 id="tokens" className="mr-auto">
          Tokens
        </h2>
        <a className="btn btn-ghost" href="/developers">
          What programs can do
        </a>
        <button type="button" className="btn btn-outline" disabled={!awake} onClick={() => setMaking(true)}>
          Make a token
        </button>
      </div>
      {tokens.length === 0 ? (
        <p className="text-quiet">
          There are none yet. With a token a program does at the desk what you may do yourself: write, send,
          read who has answered, keep groups and people.
        </p>
      ) : (
        <ul className="ledger">
          {tokens.map((token) => (
            <li key={token.id}>
              <span className="margin figure" title="Calls of the last seven days">
                {token.calls.toLocaleString('en-GB')}
              </span>
              <span>
                <strong dir="auto">{token.name}</strong>
                <span className="block text-sm break-words text-quiet" dir="auto">
                  {token.mine ? 'Yours' : `Acts for ${token.owner}`}: {token.scopes.join(', ')}.{' '}
                  {token.usedMs === null ? 'Never used' : `Last used ${nearWords(token.usedMs, zone, nowMs)}`}
                  ; holds until {nearWords(token.expiresMs, zone, nowMs)}.
                </span>
              </span>
              <span className="state text-sm">
                <button
                  type="button"
                  className="btn btn-ghost btn-sm"
                  aria-label={`Revoke ${token.name}`}
                  disabled={!awake}
                  onClick={() => setRevoking(token)}
                >
                  Revoke
                </button>
              </span>
            </li>
          ))}
        </ul>
      )}
      {making ? (
        <TokenDialog
          onClose={() => setMaking(false)}
          onMade={(token) => {
            setMaking(false);
            setSecret(token);
            void refetch(PATH);
          }}
        />
      ) : null}
      {secret === undefined ? null : (
        <SecretOnce
          title="The token"
          secret={secret}
          kept="and is not kept here itself"
          words="Put it where the program keeps its secrets. Whoever has it acts for you."
          onClose={() => setSecret(undefined)}
        />
      )}
      {revoking ? (
        <Confirm
          title={`Revoke ${revoking.name}?`}
          detail={`${count(revoking.calls, 'call', 'calls')} in the last seven days. Programs that use it are refused from this moment, and it cannot be given back.`}
          button="Revoke it"
          onClose={() => setRevoking(undefined)}
          onConfirm={async () => {
            await request('DELETE', `${PATH}/${revoking.id}`);
            void done(`${revoking.name} is revoked.`);
            await refetch(PATH);
          }}
        />
      ) : null}
    </section>
  );
}
