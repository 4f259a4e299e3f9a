import { useId, useRef, useState } from 'react';
import { completedLink } from '../../core/content/link.ts';
import { filePath, type FileLink } from '../../core/content/section.ts';
import { ApiProblem, upload, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { Sortable, useInOrder } from '../../ui/Sortable.tsx';

interface KeyLink {
  label: string;
  url: string;
}

const keyOf = (link: KeyLink): string => `${link.label} ${link.url}`;

/** A key link, to be taken out where that is theirs who look. */
function LinkLine({
  link,
  onOut,
  order,
}: {
  link: KeyLink;
  onOut?: () => void;
  order?: ReturnType<typeof useInOrder>;
}) {
  return (
    <li
      ref={order?.ref}
      style={order?.style}
      className="flex min-h-11 items-center justify-between gap-3 border-b border-base-300"
    >
      <a className="link-quiet min-w-0 grow" href={link.url} rel="noopener noreferrer" dir="auto">
        {link.label}
      </a>
      {onOut ? (
        <button
          type="button"
          className="btn btn-ghost btn-sm"
          aria-label={`Take ${link.label} out`}
          onClick={onOut}
        >
          Take out
        </button>
      ) : null}
      {order?.handle}
    </li>
  );
}

const LinkInOrder = (props: { link: KeyLink; onOut: () => void }) => (
  <LinkLine {...props} order={useInOrder(keyOf(props.link))} />
);

/** The key links and files of a board, in the order in which they stand beside what is pinned. */
export function Links({
  links,
  disabled,
  onSave,
}: {
  links: readonly { label: string; url: string }[];
  disabled: boolean;
  /** Throws what is wrong with them. */
  onSave: (links: { label: string; url: string }[]) => Promise<void>;
}) {
  const [label, setLabel] = useState('');
  const [url, setUrl] = useState('');
  const [error, setError] = useState<string>();
  const [wrong, setWrong] = useState<{ label?: string; url?: string }>({});
  const [fields, labelId, urlId] = [useRef<HTMLDivElement>(null), useId(), useId()];
  /** Saves them; what is wrong with the one being added stands at its field, which gets the focus. */
  const save = async (next: { label: string; url: string }[]): Promise<boolean> => {
    setError(undefined);
    setWrong({});
    try {
      await onSave(next);
      return true;
    } catch (problem) {
      const own = `links.${next.length - 1}`;
      const found =
        problem instanceof ApiProblem
          ? {
              ...(problem.about(`${own}.label`) === undefined
                ? {}
                : { label: problem.about(`${own}.label`) ?? '' }),
              ...(problem.about(`${own}.url`) === undefined
                ? {}
                : { url: problem.about(`${own}.url`) ?? '' }),
            }
          : {};
      setWrong(found);
      if (Object.keys(found).length === 0) setError(wordsOf(problem));
      else {
        const inputs = fields.current?.querySelectorAll<HTMLInputElement>('input[type="text"]');
        inputs?.item(found.label === undefined ? 1 : 0).focus();
      }
      return false;
    }
  };
  const out = (link: KeyLink): void => void save(links.filter((each) => each !== link));
  const add = async (): Promise<void> => {
    const completed = completedLink(url);
    setUrl(completed);
    if (await save([...links, { label, url: completed }])) {
      setLabel('');
      setUrl('');
    }
  };
  return (
    <section aria-labelledby="links" className="border-t border-base-300 pt-4">
      <h2 id="links">Key links and files</h2>
      <p className="text-sm text-quiet">They stand beside what is pinned.</p>
      <ul>
        {disabled || links.length < 2 ? (
          links.map((link) => (
            <LinkLine key={keyOf(link)} link={link} {...(disabled ? {} : { onOut: () => out(link) })} />
          ))
        ) : (
          <Sortable
            ids={links.map(keyOf)}
            nameOf={(id) => links.find((link) => keyOf(link) === id)?.label ?? ''}
            onOrder={(ids) => void save(ids.flatMap((id) => links.find((link) => keyOf(link) === id) ?? []))}
          >
            {links.map((link) => (
              <LinkInOrder key={keyOf(link)} link={link} onOut={() => out(link)} />
            ))}
          </Sortable>
        )}
      </ul>
      {disabled ? null : (
        <div ref={fields} className="mt-3 flex flex-wrap items-start gap-3">
          <label className="flex flex-col gap-1">
            What it says
            <input
              type="text"
              className="input"
              value={label}
              aria-invalid={wrong.label !== undefined}
              aria-describedby={wrong.label === undefined ? undefined : labelId}
              onChange={(event) => {
                setLabel(event.target.value);
                setWrong((now) => (now.url === undefined ? {} : { url: now.url }));
              }}
            />
            {wrong.label === undefined ? null : (
              <span id={labelId} role="alert" className="text-sm text-error">
                {wrong.label}
              </span>
            )}
          </label>
          <label className="flex grow flex-col gap-1">
            Where it leads
            <input
              type="text"
              inputMode="url"
              className="input w-full"
              value={url}
              aria-invalid={wrong.url !== undefined}
              aria-describedby={wrong.url === undefined ? undefined : urlId}
              onChange={(event) => {
                setUrl(event.target.value);
                setWrong((now) => (now.label === undefined ? {} : { label: now.label }));
              }}
            />
            {wrong.url === undefined ? null : (
              <span id={urlId} role="alert" className="text-sm text-error">
                {wrong.url}
              </span>
            )}
          </label>
          <button type="button" className="btn btn-outline mt-7" onClick={() => void add()}>
            Add the link
          </button>
          <label className="btn btn-outline mt-7">
            Add a file
            <input
              type="file"
              className="sr-only"
              onChange={(event) => {
                const [file] = event.target.files ?? [];
                event.target.value = '';
                if (!file) return;
                setError(undefined);
                upload<FileLink>(file, 'file').then(
                  (kept) =>
                    void save([...links, { label: label.trim() || kept.name, url: filePath(kept) }]).then(
                      (kept) => (kept ? setLabel('') : undefined),
                    ),
                  (problem: unknown) => setError(wordsOf(problem)),
                );
              }}
            />
          </label>
        </div>
      )}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </section>
  );
}
