import { useState } from 'react';
import {
  ATTRIBUTE_KIND_WORDS,
  type AttributeLine,
  type OccupationLine,
  type PeopleKinds,
} from '../../core/people/kinds.ts';
import { people } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { AttributeDialog } from './AttributeDialog.tsx';
import { OccupationDialog } from './OccupationDialog.tsx';

type Opened =
  | { kind: 'occupation'; line: OccupationLine }
  | { kind: 'attribute'; line: AttributeLine | null }
  | { kind: 'removal'; line: AttributeLine };

/** What an attribute holds, and a few of its values. */
const detailOf = ({ kind, choices, values, people: n }: AttributeLine): string =>
  [
    kind === 'choice' ? `one of: ${choices.join(', ')}` : ATTRIBUTE_KIND_WORDS[kind],
    people(n),
    kind !== 'choice' && values.length > 0 ? `such as ${values.slice(0, 3).join(', ')}` : '',
  ]
    .filter(Boolean)
    .join('; ');

/** The occupations and attributes of people: named otherwise, made one, and said what they hold. */
export default function Kinds({ first }: { first: PeopleKinds }) {
  const [kinds, setKinds] = useState(first);
  const [opened, setOpened] = useState<Opened>();
  const awake = useAwake();
  const close = (): void => setOpened(undefined);
  const changed = (now: PeopleKinds, words: string): void => {
    setKinds(now);
    close();
    void done(words);
  };
  const button = (words: string, label: string, open: Opened) => (
    <button
      type="button"
      className="btn btn-ghost btn-sm"
      disabled={!awake}
      aria-label={label}
      onClick={() => setOpened(open)}
    >
      {words}
    </button>
  );
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Occupations and attributes</h1>
        <a className="btn btn-ghost" href="/people">
          People
        </a>
      </div>
      <section aria-labelledby="occupations" className="mb-10">
        <h2 id="occupations" className="mb-2">
          Occupations
        </h2>
        {kinds.occupations.length === 0 ? (
          <p className="text-quiet">
            Nobody’s occupation is noted yet. It is noted with the person, or comes with a list.
          </p>
        ) : (
          <ul className="ledger">
            {kinds.occupations.map((line) => (
              <li key={line.name}>
                <span className="margin figure">{line.people.toLocaleString('en-GB')}</span>
                <span className="font-semibold" dir="auto">
                  {line.name}
                </span>
                <span className="state">
                  {button('Rename', `Rename ${line.name}`, { kind: 'occupation', line })}
                </span>
              </li>
            ))}
          </ul>
        )}
      </section>
      <section aria-labelledby="attributes">
        <div className="mb-2 flex flex-wrap items-center gap-3">
          <h2 id="attributes" className="mr-auto">
            Attributes
          </h2>
          <button
            type="button"
            className="btn btn-outline btn-sm"
            disabled={!awake}
            onClick={() => setOpened({ kind: 'attribute', line: null })}
          >
            Make an attribute
          </button>
        </div>
        {kinds.attributes.length === 0 ? (
          <p className="text-quiet">
            None yet. An attribute is what your organisation knows of its people beyond the usual, such as a
            licence or a shift; audiences can be chosen by it.
          </p>
        ) : (
          <ul className="ledger">
            {kinds.attributes.map((line) => (
              <li key={line.name}>
                <span className="margin figure">{line.people.toLocaleString('en-GB')}</span>
                <span>
                  <span className="font-semibold" dir="auto">
                    {line.name}
                  </span>
                  <span className="block text-sm text-quiet" dir="auto">
                    {detailOf(line)}
                  </span>
                </span>
                <span className="state flex flex-wrap items-center gap-2">
                  {button('Change', `Change ${line.name}`, { kind: 'attribute', line })}
                  {button('Delete', `Delete ${line.name}`, { kind: 'removal', line })}
                </span>
              </li>
            ))}
          </ul>
        )}
      </section>
      {opened?.kind === 'occupation' ? (
        <OccupationDialog line={opened.line} all={kinds.occupations} onClose={close} onDone={changed} />
      ) : null}
      {opened?.kind === 'attribute' ? (
        <AttributeDialog line={opened.line} all={kinds.attributes} onClose={close} onDone={changed} />
      ) : null}
      {opened?.kind === 'removal' ? (
        <Confirm
          title={`Delete ${opened.line.name}?`}
          detail={
            opened.line.people === 0
              ? 'Nobody has it.'
              : `${people(opened.line.people)} will have it no more. This cannot be undone.`
          }
          button="Delete it"
          onClose={close}
          onConfirm={async () => {
            const { name } = opened.line;
            changed(await request('DELETE', '/api/kinds/attributes', { name }), `${name} is deleted.`);
          }}
        />
      ) : null}
    </>
  );
}
