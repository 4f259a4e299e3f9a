import { useRef, useState } from 'react';
import {
  PART_WORDS,
  withNeeds,
  withoutPart,
  type BroughtPart,
  type Part,
  type PartsLook,
} from '../../core/organisation/parts.ts';
import { momentWords } from '../../core/timing/words.ts';
import { count, list, people } from '../../core/words.ts';
import { request, sendFile } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { ChooseArchive } from '../../ui/ChooseArchive.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useActs } from '../../ui/useActs.ts';
import { PartLists } from './PartLists.tsx';

type Looked = PartsLook & { key: string };

/** Brings parts of another organisation's archive into this one, each looked at beside what is here. */
export default function Parts({ zone, nowMs }: { zone: string; nowMs: number }) {
  const [looked, setLooked] = useState<Looked>();
  const [brought, setBrought] = useState<BroughtPart[]>();
  const top = useRef<HTMLDivElement>(null);
  const { busy, error, act } = useActs();
  const take = (file: File): (() => void) =>
    act(async () => {
      setLooked(undefined);
      setBrought(undefined);
      setLooked(await sendFile<Looked>('/api/organisation/parts', file));
    });
  const again = async (found: Looked): Promise<void> => {
    setLooked({ key: found.key, ...(await request('GET', `/api/organisation/parts/${found.key}`)) });
  };
  return (
    <div ref={top} tabIndex={-1} className="outline-none">
      <h1 className="mb-2">Bring parts in</h1>
      <p className="mb-4 max-w-2xl text-quiet">
        Groups, boards, record sheets, senders, kept audiences, templates and automations of another Clear
        Bell come in from an archive that was taken out there. Each is looked at beside what is here first;
        people are told apart by their mail addresses and identities. What stands on boards and what was sent
        stays there.
      </p>
      <ChooseArchive
        chosen={looked !== undefined}
        busy={busy}
        error={error}
        onFile={(file) => take(file)()}
      />
      {brought ? (
        <div className="mt-4">
          <Brought brought={brought} />
        </div>
      ) : null}
      {looked ? (
        <Choosing
          key={`${looked.key} ${brought?.length ?? 0}`}
          looked={looked}
          zone={zone}
          nowMs={nowMs}
          onAgain={() => again(looked)}
          onBrought={async (found) => {
            setBrought(found);
            await again(looked);
            top.current?.focus();
            top.current?.scrollIntoView({ block: 'start' });
          }}
        />
      ) : null}
    </div>
  );
}

function Brought({ brought }: { brought: BroughtPart[] }) {
  return (
    <Notice tone="success">
      {count(brought.length, 'part is', 'parts are')} here now:{' '}
      {brought.slice(0, 30).map(({ name, path }, at) => (
        <span key={`${path} ${name}`}>
          {at === 0 ? '' : ', '}
          <a className="link-quiet" href={path} dir="auto">
            {name}
          </a>
        </span>
      ))}
      {brought.length > 30 ? ` and ${brought.length - 30} more` : ''}.
    </Notice>
  );
}

/** Of chosen parts, how many of each kind, in words. */
const chosenWords = (parts: readonly Part[]): string =>
  list(
    Object.entries(PART_WORDS).flatMap(([kind, { one, many }]) => {
      const n = parts.filter((part) => part.kind === kind).length;
      return n === 0 ? [] : [count(n, one, many.toLowerCase())];
    }),
    'and',
  );

/** What bringing parts in means, those that change what is here by name. */
function sureWords(comes: readonly Part[], over: readonly Part[]): string {
  const [first] = over;
  const sure = `${chosenWords(comes)}, all of them or none.`;
  const last = 'Automations come in as drafts that are off. It stands in the trail.';
  if (!first) return `${sure} ${last}`;
  const named = over.length === 1 ? `“${first.name}” is` : `${over.length} that are here are`;
  const [it, is] = over.length === 1 ? ['it', 'it is'] : ['them', 'they are'];
  return `${sure} ${named} changed here to what ${is} there; nothing takes that back. Automations here that listen to ${it} hear of it, as of any change by hand. ${last}`;
}

function Choosing({
  looked,
  zone,
  nowMs,
  onAgain,
  onBrought,
}: {
  looked: Looked;
  zone: string;
  nowMs: number;
  onAgain: () => Promise<unknown>;
  onBrought: (brought: BroughtPart[]) => Promise<unknown>;
}) {
  const { parts } = looked;
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [beside, setBeside] = useState<ReadonlySet<string>>(new Set());
  const [asking, setAsking] = useState(false);
  const { busy, error, act } = useActs(onAgain);
  const comes = parts.filter((part) => chosen.has(part.key));
  const over = comes.filter((part) => part.state === 'changed' && !beside.has(part.key));
  const choose = (part: Part, on: boolean): void =>
    setChosen(on ? withNeeds(parts, new Set([...chosen, part.key])) : withoutPart(parts, chosen, part.key));
  const bring = async (): Promise<void> => {
    const { brought } = await request('POST', `/api/organisation/parts/${looked.key}`, {
      parts: comes.flatMap(({ key, state }) =>
        // What is the same already is not brought in once more.
        state === 'same' ? [] : [{ key, state, beside: state === 'clash' || beside.has(key) }],
      ),
    });
    await onBrought(brought);
  };
  const toPeople = act(async () => {
    const { id } = await request('POST', `/api/organisation/parts/${looked.key}/people`);
    location.assign(`/people/import/${id}`);
  });
  const at = Date.parse(looked.takenAt);
  return (
    <section className="mt-6" aria-label="What is in it">
      <p className="max-w-2xl">
        <strong dir="auto">{looked.organisation}</strong>, as of {momentWords(at, zone, nowMs)}.
      </p>
      <div className="mt-4 flex flex-wrap items-center gap-x-4 gap-y-2 border-y border-base-300 py-3">
        <span>
          {people(looked.people)} in its directory. They come in as a list, looked through first and taken
          back within a day.
        </span>
        <button type="button" className="btn btn-outline btn-sm" disabled={busy} onClick={toPeople}>
          {busy ? 'Comparing …' : 'Compare them with the directory'}
        </button>
      </div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <PartLists
        parts={parts}
        chosen={chosen}
        beside={beside}
        onChoose={choose}
        onAllNew={() =>
          setChosen(
            withNeeds(
              parts,
              new Set([...chosen, ...parts.flatMap(({ key, state }) => (state === 'new' ? [key] : []))]),
            ),
          )
        }
        onBeside={(key, on) => {
          const next = new Set(beside);
          if (on) next.add(key);
          else next.delete(key);
          setBeside(next);
        }}
      />
      {parts.some(({ state }) => state !== 'same') ? (
        <div className="sticky bottom-11 z-20 mt-4 flex flex-wrap items-center gap-4 border-t border-base-300 bg-base-200 py-3 sm:bottom-0">
          <button
            type="button"
            className="btn btn-primary"
            disabled={comes.length === 0}
            onClick={() => setAsking(true)}
          >
            Bring them in …
          </button>
          <span className="text-quiet" role="status">
            {comes.length === 0 ? 'Nothing is chosen yet.' : `${chosenWords(comes)}.`}
          </span>
        </div>
      ) : null}
      {asking ? (
        <Confirm
          title={`Bring in ${count(comes.length, 'part', 'parts')}?`}
          detail={sureWords(comes, over)}
          button="Bring them in"
          onConfirm={async () => {
            try {
              await bring();
            } catch (problem) {
              await onAgain();
              throw problem;
            }
          }}
          onClose={() => setAsking(false)}
        />
      ) : null}
    </section>
  );
}
