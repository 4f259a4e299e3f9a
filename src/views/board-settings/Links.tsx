import { useState } from 'react';
import { completedLink } from '../../core/content/link.ts';
import { filePath, type FileLink } from '../../core/content/section.ts';
import { upload, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';

export function Links({
  links,
  disabled,
  onSave,
}: {
  links: readonly { label: string; url: string }[];
  disabled: boolean;
  onSave: (links: { label: string; url: string }[]) => Promise<boolean>;
}) {
  const [label, setLabel] = useState('');
  const [url, setUrl] = useState('');
  const [error, setError] = useState<string>();
  const add = async (): Promise<void> => {
    const completed = completedLink(url);
    setUrl(completed);
    if (await onSave([...links, { label, url: completed }])) {
      setLabel('');
      setUrl('');
    }
  };
  return (
    <section aria-labelledby="links" className="border-t border-base-300 pt-4">
      <h2 id="links">Key links and files</h2>
      <p className="text-sm text-quiet">They stand beside what is pinned.</p>
      <ul>
        {links.map((link, i) => (
          <li
            key={link.url + link.label}
            className="flex min-h-11 items-center justify-between gap-3 border-b border-base-300"
          >
            <a className="link-quiet" href={link.url} rel="noopener noreferrer">
              {link.label}
            </a>
            {disabled ? null : (
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                aria-label={`Take ${link.label} out`}
                onClick={() => void onSave(links.filter((_, j) => j !== i))}
              >
                Take out
              </button>
            )}
          </li>
        ))}
      </ul>
      {disabled ? null : (
        <div className="mt-3 flex flex-wrap items-end gap-3">
          <label className="flex flex-col gap-1">
            What it says
            <input className="input" value={label} onChange={(event) => setLabel(event.target.value)} />
          </label>
          <label className="flex grow flex-col gap-1">
            Where it leads
            <input className="input w-full" value={url} onChange={(event) => setUrl(event.target.value)} />
          </label>
          <button type="button" className="btn btn-outline" onClick={() => void add()}>
            Add the link
          </button>
          <label className="btn btn-outline">
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
                    void onSave([...links, { label: label.trim() || kept.name, url: filePath(kept) }]),
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
