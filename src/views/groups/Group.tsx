import { useMemo, useState } from 'react';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Audience } from '../../core/audience/expression.ts';
import type { GroupLately, GroupPage } from '../../core/groups/group.ts';
import { shortDate } from '../../core/timing/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { count, people } from '../../core/words.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { Awake } from '../../ui/Awake.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { Care } from './Care.tsx';
import { DoorForm } from './DoorForm.tsx';
import { Heading, Uses } from './Heading.tsx';
import { Members } from './Members.tsx';
import { RuleForm } from './RuleForm.tsx';

/** The rule of a live group, read aloud; changed, given to a fixed one, or given up, with the consequences in sight. */
function Rule({
  group,
  choices,
  onChanged,
}: {
  group: GroupPage;
  choices: AudienceChoices;
  onChanged: () => Promise<void>;
}) {
  const [rule, setRule] = useState<Audience | null>();
  const [freezing, setFreezing] = useState(false);
  const [error, setError] = useState<string>();
  const awake = useAwake();
  const live = group.kind === 'live';
  const save = async (): Promise<void> => {
    setError(undefined);
    try {
      await (live
        ? request('PUT', `/api/groups/${group.id}`, { rule })
        : request('PUT', `/api/groups/${group.id}/kind`, { kind: 'live', rule }));
      setRule(undefined);
      await onChanged();
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  if (rule === undefined)
    return live || group.mayChange ? (
      <div className="mb-4 flex flex-wrap items-center gap-3 border-l-4 border-info bg-base-100 px-4 py-2">
        <p className="mr-auto">
          {!live
            ? 'Who is in it is picked by hand.'
            : group.rule === null
              ? 'Its rule cannot be read.'
              : `In it is ${group.ruleWords}.`}
        </p>
        {group.mayChange ? (
          <button
            type="button"
            className="btn btn-outline btn-sm"
            disabled={!awake}
            onClick={() => setRule(group.rule)}
          >
            {live ? 'Change the rule' : 'Let a rule decide'}
          </button>
        ) : null}
        {group.mayChange && live && group.rule !== null ? (
          <button
            type="button"
            className="btn btn-outline btn-sm"
            disabled={!awake}
            onClick={() => setFreezing(true)}
          >
            Keep who is in it now
          </button>
        ) : null}
        {freezing ? (
          <Confirm
            title={`Pick ${group.name} by hand from now on?`}
            detail={`The ${people(group.people ?? 0)} in it now stay in it, whatever changes about them; nobody comes in or goes out by itself any more. The rule is forgotten.`}
            button="Keep who is in it now"
            onClose={() => setFreezing(false)}
            onConfirm={async () => {
              await request('PUT', `/api/groups/${group.id}/kind`, { kind: 'fixed' });
              await onChanged();
            }}
          />
        ) : null}
      </div>
    ) : null;
  return (
    <section aria-label="The rule" className="mb-6 border border-base-300 bg-base-100 p-4">
      <RuleForm rule={rule} groupId={group.id} choices={choices} onChange={setRule} />
      {group.uses.length > 0 ? (
        <div className="mt-3 text-sm text-quiet">
          It is used in:
          <Uses uses={group.uses} />
        </div>
      ) : null}
      {live ? null : (
        <p className="mt-3 text-warning">Who was picked by hand is forgotten as soon as the rule holds.</p>
      )}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <div className="mt-4 flex flex-wrap gap-3">
        <button
          type="button"
          className="btn btn-primary"
          disabled={rule === null}
          onClick={() => void save()}
        >
          Let this rule hold
        </button>
        <button type="button" className="btn btn-ghost" onClick={() => setRule(undefined)}>
          {live ? 'Keep the rule as it is' : 'Keep it picked by hand'}
        </button>
      </div>
    </section>
  );
}

/** What a group got in the last weeks. */
function Lately({ lately, zone }: { lately: GroupLately; zone: string }) {
  const { weeks, sent, byMail, latest } = lately;
  return (
    <section className="mb-6" aria-labelledby="lately">
      <h2 id="lately" className="mb-1">
        What it got lately
      </h2>
      <p className="text-quiet">
        {sent === 0
          ? `Nothing was sent to it by its name in the last ${weeks} weeks.`
          : `${count(sent, 'announcement', 'announcements')} in the last ${weeks} weeks${
              byMail === 0
                ? ', none by mail'
                : byMail === sent
                  ? ', all by mail too'
                  : `, ${byMail} by mail too`
            }: ${(sent / weeks).toLocaleString('en-GB', { maximumFractionDigits: 1 })} a week.`}
      </p>
      {latest.length === 0 ? null : (
        <ul className="ledger mt-2">
          {latest.map((each) => (
            <li key={each.id}>
              <time className="margin">{shortDate(each.sentMs, zone)}</time>
              <a className="link-quiet" href={`/sends/${each.id}`} dir="auto">
                {each.title}
              </a>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** A group: who is in it and why, who looks after it, and what it is used in. */
export default function Group({
  first,
  choices,
  zone,
}: {
  first: GroupPage;
  choices: AudienceChoices;
  zone: string;
}) {
  const path = `/api/groups/${first.id}` as const;
  const topics = useMemo(() => [`group:${first.id}`, 'people'], [first.id]);
  const { data: group = first, error: failed } = useServer(path, { first, topics });
  const [refused, setError] = useState<string>();
  const refresh = (): Promise<void> => refetch(path);
  const error = refused ?? (failed ? wordsOf(failed) : undefined);
  return (
    <>
      <p className="mb-2 text-sm">
        <a className="link-quiet" href="/groups">
          Groups
        </a>{' '}
        <span className="text-quiet">· {group.kind === 'live' ? 'by a rule' : 'picked by hand'}</span>
      </p>
      <Heading group={group} onChanged={refresh} onError={setError} />
      {group.about === '' ? null : (
        <p className="mb-3" dir="auto">
          {group.about}
        </p>
      )}
      {group.archived ? (
        <p className="mb-3 border-l-4 border-warning pl-3">
          It is archived: offered nowhere any more. Who is in it stays.
        </p>
      ) : null}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <Rule key={group.kind} group={group} choices={choices} onChanged={refresh} />
      <Care group={group} onChanged={refresh} />
      {group.mayChange && group.kind === 'fixed' ? (
        <section className="mb-6" aria-labelledby="door">
          <h2 id="door" className="mb-2">
            Who comes in
          </h2>
          <Awake>
            <DoorForm group={group} zone={zone} />
          </Awake>
        </section>
      ) : null}
      {group.uses.length > 0 ? (
        <section className="mb-6" aria-labelledby="uses">
          <h2 id="uses" className="mb-1">
            What speaks of it
          </h2>
          <Uses uses={group.uses} />
        </section>
      ) : null}
      <Lately lately={group.lately} zone={zone} />
      <Awake>
        <Members key={group.kind + JSON.stringify(group.rule)} group={group} onChanged={refresh} />
      </Awake>
    </>
  );
}
