import { useId, useState } from 'react';
import type { PatternPage, PlaceLook } from '../../core/patterns/page.ts';
import { request } from '../../ui/api.ts';
import { FormProblem, LinesField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { Parts } from './Parts.tsx';
import { blankWords } from './blanks.ts';

interface Given {
  name: string;
  about: string;
  called: string;
}

/** A place that is kept as a pattern, or whose pattern is taken anew: what belongs to it, and what another place has otherwise. */
export default function KeepPlace({ look, pattern }: { look: PlaceLook; pattern: PatternPage | null }) {
  const id = useId();
  const awake = useAwake();
  // What the pattern has not was left out, or came since: which of the two only somebody can tell.
  const before = pattern && new Set(pattern.parts.map(({ key }) => key));
  const asked = pattern && new Set(pattern.blanks.map(({ key }) => key));
  const [parts, setParts] = useState<ReadonlySet<string>>(
    new Set(look.parts.filter(({ key, kept }) => before?.has(key) ?? kept).map(({ key }) => key)),
  );
  const [blanks, setBlanks] = useState<ReadonlySet<string>>(
    new Set(look.blanks.filter((blank) => asked?.has(blank.key) ?? blank.asked).map(({ key }) => key)),
  );
  const form = useServerForm<Given>({
    values: {
      name: pattern?.name ?? '',
      about: pattern?.about ?? '',
      called: pattern?.called ?? look.board.name,
    },
    send: async ({ name, about, called }) => {
      const kept = {
        called,
        parts: look.parts.flatMap(({ key }) => (parts.has(key) ? [key] : [])),
        blanks: shown.flatMap(({ key }) => (blanks.has(key) ? [key] : [])),
      };
      const { id: made } = pattern
        ? await request('PUT', `/api/patterns/${pattern.id}/anew`, { number: pattern.number, ...kept }).then(
            () => pattern,
          )
        : await request('POST', '/api/patterns', {
            name,
            about,
            boardId: look.board.id,
            ...kept,
          });
      form.reset({ name, about, called });
      location.assign(`/patterns/${made}`);
    },
  });
  const turned = (set: ReadonlySet<string>, key: string, on: boolean): ReadonlySet<string> => {
    const next = new Set(set);
    if (on) next.add(key);
    else next.delete(key);
    return next;
  };
  const shown = look.blanks.filter((blank) => blank.in.some((key) => parts.has(key)));
  const nameOf = new Map(look.parts.map((part) => [part.key, part.name]));
  return (
    <>
      <p className="text-sm">
        <a
          className="link-quiet"
          href={pattern ? `/patterns/${pattern.id}` : `/boards/${look.board.id}/settings`}
        >
          {pattern ? pattern.name : `Settings of ${look.board.name}`}
        </a>
      </p>
      <h1 className="mb-2">
        {pattern ? `Take “${pattern.name}” anew` : `Keep ${look.board.name} as a pattern`}
      </h1>
      <p className="mb-6 max-w-prose">
        {pattern
          ? 'The pattern becomes what its place is now. What it had is chosen; look through the rest for what came since. The places that were made from it are offered what changed; nothing of theirs changes by itself.'
          : 'Places are made from it as this one is now. What changes here later, the pattern takes only when you say so.'}
      </p>
      <form id={id} className="flex flex-col gap-6" noValidate onSubmit={(event) => void form.submit(event)}>
        {/* What is chosen before the page is awake would be lost. */}
        <fieldset disabled={!awake} className="contents">
          <div className="flex max-w-prose flex-col gap-4">
            {pattern ? null : (
              <>
                <TextField
                  form={form}
                  name="name"
                  label="The pattern’s name, such as: A station"
                  maxLength={80}
                />
                <LinesField form={form} name="about" label="What it is for (may be left out)" />
              </>
            )}
            <TextField
              form={form}
              name="called"
              label="How the place is called in its names and texts: a new one has its own name there"
              maxLength={120}
            />
          </div>
          <section aria-labelledby={`${id}parts`}>
            <h2 id={`${id}parts`} className="mb-1">
              What belongs to it
            </h2>
            <p className="mb-2 max-w-prose text-quiet">
              A record sheet that is left out is shared: a new place goes on with the one there is. Who is in
              groups that are picked by hand is not kept, nor what was posted.
            </p>
            <Parts
              label="What belongs to it"
              parts={look.parts}
              chosen={parts}
              onChoose={(key, on) => setParts(turned(parts, key, on))}
            />
          </section>
          {shown.length === 0 ? null : (
            <section aria-labelledby={`${id}blanks`}>
              <h2 id={`${id}blanks`} className="mb-1">
                What is asked for when a place is made
              </h2>
              <p className="mb-2 text-quiet">
                Besides its name and who looks after it. What is not asked for stays as it is here.
              </p>
              <ul>
                {shown.map((blank) => (
                  <li key={blank.key}>
                    <label className="flex min-h-11 items-baseline gap-3 py-1">
                      <input
                        type="checkbox"
                        className="checkbox checkbox-primary self-center"
                        checked={blanks.has(blank.key)}
                        onChange={(event) => setBlanks(turned(blanks, blank.key, event.target.checked))}
                      />
                      <span>
                        {blankWords(blank)}
                        <span className="block text-sm text-quiet" dir="auto">
                          in{' '}
                          {blank.in
                            .flatMap((key) => (parts.has(key) ? [`“${nameOf.get(key) ?? ''}”`] : []))
                            .join(', ')}
                        </span>
                      </span>
                    </label>
                  </li>
                ))}
              </ul>
            </section>
          )}
        </fieldset>
        <FormProblem form={form} />
        <div>
          <button
            className="btn btn-primary"
            disabled={!awake || form.formState.isSubmitting || parts.size === 0}
          >
            {pattern ? 'Take it anew' : 'Keep it as a pattern'}
          </button>
        </div>
      </form>
    </>
  );
}
