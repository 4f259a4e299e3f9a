import { useMemo, useState } from 'react';
import type { GroupOffer, MyGroups as Mine, OwnedGroup } from '../../core/groups/joining.ts';
import { list, people } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { DayField } from '../../ui/form/DayField.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';
import { Requests } from './Requests.tsx';

const PATH = '/api/me/groups';

/** The groups one is in, may come into, and looks after. */
export default function MyGroups({ first, zone, me }: { first: Mine; zone: string; me: number }) {
  // Whoever asks, and whoever is answered, is told by a notice.
  const topics = useMemo(() => [`person:${me}`], [me]);
  const { data: mine = first, error } = useServer(PATH, { first, topics });
  const inside = mine.offers.filter((group) => group.mine === 'in');
  const outside = mine.offers.filter((group) => group.mine !== 'in');
  return (
    <Awake>
      <h1 className="mb-6">Your groups</h1>
      {error ? <Notice tone="error">{wordsOf(error)}</Notice> : null}
      {mine.owned.map((group) => (
        <Owned key={group.id} group={group} zone={zone} />
      ))}
      <Offers
        id="inside"
        title="You are in"
        none="In no group that is picked by hand. What reaches you by your work or where you are goes by rules."
        groups={inside}
      />
      <Offers
        id="outside"
        title="You may come into"
        none="No other group takes people in by themselves just now."
        groups={outside}
      />
    </Awake>
  );
}

function Offers({
  id,
  title,
  none,
  groups,
}: {
  id: string;
  title: string;
  none: string;
  groups: readonly GroupOffer[];
}) {
  return (
    <section className="mb-10 max-w-3xl" aria-labelledby={id}>
      <h2 id={id} className="mb-2">
        {title}
      </h2>
      {groups.length === 0 ? (
        <p className="border-y border-base-300 py-3 text-quiet">{none}</p>
      ) : (
        <ul className="border-t border-base-300" aria-labelledby={id}>
          {groups.map((group) => (
            <Offer key={group.id} group={group} />
          ))}
        </ul>
      )}
    </section>
  );
}

/** A group, with the way in or out of it. */
function Offer({ group }: { group: GroupOffer }) {
  const [asking, setAsking] = useState(false);
  const { busy, error, act } = useActs();
  const path = `/api/groups/${group.id}/joining` as const;
  const join = (words: string) =>
    act(async () => {
      const { mine } = await request('POST', path, { words });
      setAsking(false);
      void done(mine === 'in' ? `You are in ${group.name}.` : `Told: ${list(group.owners, 'and')}.`);
      await refetch(PATH);
    });
  const leave = act(async () => {
    await request('DELETE', path);
    void done(group.mine === 'in' ? `You are out of ${group.name}.` : 'You no longer ask.');
    await refetch(PATH);
  });
  return (
    <li className="border-b border-base-300 py-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <span className="min-w-0 grow basis-60" dir="auto">
          <strong>{group.name}</strong>{' '}
          <span className="text-sm text-quiet">
            {people(group.people)}
            {group.owners.length === 0 ? '' : `, looked after by ${list(group.owners, 'and')}`}
          </span>
          {group.about === '' ? null : <span className="block">{group.about}</span>}
        </span>
        {group.mine === 'in' ? (
          group.joining === 'closed' ? null : (
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={busy}
              aria-label={`Go out of ${group.name}`}
              onClick={leave}
            >
              Go out
            </button>
          )
        ) : group.mine === 'asked' ? (
          <>
            <span className="text-quiet">asked</span>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={busy}
              aria-label={`Ask ${group.name} no longer`}
              onClick={leave}
            >
              Ask no longer
            </button>
          </>
        ) : (
          <button
            type="button"
            className="btn btn-outline btn-sm"
            disabled={busy}
            aria-label={
              group.joining === 'open' ? `Come into ${group.name}` : `Ask to come into ${group.name}`
            }
            onClick={group.joining === 'open' ? join('') : () => setAsking(true)}
          >
            {group.joining === 'open' ? 'Come in' : 'Ask to come in'}
          </button>
        )}
      </div>
      {asking ? <Ask onAsk={(words) => join(words)()} onClose={() => setAsking(false)} /> : null}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </li>
  );
}

function Ask({ onAsk, onClose }: { onAsk: (words: string) => void; onClose: () => void }) {
  const [words, setWords] = useState('');
  return (
    <form
      className="mt-2 flex max-w-xl flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        onAsk(words);
      }}
    >
      <label className="flex flex-col gap-1">
        A word to its owner, if you like
        <input
          className="input w-full"
          dir="auto"
          maxLength={300}
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
      </label>
      <div className="flex flex-wrap gap-2">
        <button className="btn btn-primary btn-sm">Ask</button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
          Leave it
        </button>
      </div>
    </form>
  );
}

/** A group one looks after: who asks to come in, and the way to bring somebody in. */
function Owned({ group, zone }: { group: OwnedGroup; zone: string }) {
  if (group.requests.length === 0 && !group.ownerBrings) return null;
  return (
    <section className="mb-10 max-w-3xl" aria-labelledby={`owned-${group.id}`}>
      <h2 id={`owned-${group.id}`} className="mb-2" dir="auto">
        {group.name}, which you look after
      </h2>
      <Requests group={group} requests={group.requests} zone={zone} onAnswered={() => refetch(PATH)} />
      {group.ownerBrings ? <Bring group={group} /> : null}
    </section>
  );
}

function Bring({ group }: { group: OwnedGroup }) {
  const form = useServerForm({
    values: { name: '', mail: '', guestUntil: '' },
    send: async (given) => {
      const { became, name } = await request('POST', `/api/groups/${group.id}/brought`, given);
      form.reset();
      void done(`${name} ${became}.`);
      await refetch(PATH);
    },
  });
  return (
    <form
      noValidate
      aria-label={`Bring somebody into ${group.name}`}
      onSubmit={(event) => void form.submit(event)}
    >
      <p className="mb-2 text-quiet">
        Bring somebody in: whoever has the address here is put in, whoever is not here yet is invited.
      </p>
      <div className="grid gap-3 sm:grid-cols-[1fr_1fr_auto_auto] sm:items-start">
        <TextField form={form} name="mail" label="Mail address" type="email" maxLength={254} />
        <TextField form={form} name="name" label="Name, of somebody new" maxLength={160} />
        <DayField form={form} name="guestUntil" label="Until, if a guest" />
        <button className="btn btn-outline sm:mt-7" disabled={form.formState.isSubmitting}>
          Bring in
        </button>
      </div>
      <FormProblem form={form} />
    </form>
  );
}
