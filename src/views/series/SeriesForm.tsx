import { useState } from 'react';
import type { Series, SeriesFrame } from '../../core/series/series.ts';
import { ApiProblem, ask, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { ImageField } from '../../ui/Attached.tsx';

const EMPTY: SeriesFrame = { name: '', banner: null, heading: '', byline: '', categories: [] };

/** The frame of a series: a new one, or one that is there. */
export default function SeriesForm({ series }: { series: Series | null }) {
  const [frame, setFrame] = useState<SeriesFrame>(series ?? EMPTY);
  const [categories, setCategories] = useState((series?.categories ?? []).join('\n'));
  const [problem, setProblem] = useState<unknown>();
  const [saved, setSaved] = useState(false);
  const [busy, setBusy] = useState(false);
  const awake = useAwake();
  const about = (field: string): string | undefined =>
    problem instanceof ApiProblem
      ? problem.errors.find((each) => each.field.startsWith(field))?.detail
      : undefined;
  const set = (part: Partial<SeriesFrame>): void => {
    setFrame({ ...frame, ...part });
    setSaved(false);
  };
  const save = async (): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    const { name, banner, heading, byline } = frame;
    const body: SeriesFrame = {
      name,
      banner,
      heading,
      byline,
      categories: [
        ...new Set(
          categories
            .split('\n')
            .map((each) => each.trim())
            .filter(Boolean),
        ),
      ],
    };
    try {
      if (series) {
        await ask('PUT', `/api/series/${series.id}`, body);
        setSaved(true);
      } else {
        const { id } = await ask<{ id: number }>('POST', '/api/series', body);
        location.assign(`/series/${id}`);
        return;
      }
    } catch (error) {
      setProblem(error);
    }
    setBusy(false);
  };
  const field = (key: 'name' | 'heading' | 'byline', words: string, most: number) => (
    <label className="flex flex-col gap-1">
      {words}
      <input
        className="input w-full"
        value={frame[key]}
        maxLength={most}
        dir="auto"
        aria-invalid={about(key) !== undefined}
        onChange={(event) => set({ [key]: event.target.value })}
      />
      {about(key) === undefined ? null : <span className="text-error">{about(key)}</span>}
    </label>
  );
  return (
    <form
      className="flex max-w-2xl flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      {field('name', 'Name', 120)}
      {field('heading', 'How a title begins; {number} becomes the number of the issue', 100)}
      {field('byline', 'Byline', 120)}
      <label className="flex flex-col gap-1">
        Categories, one a line
        <textarea
          className="textarea min-h-28 w-full"
          value={categories}
          aria-invalid={about('categories') !== undefined}
          onChange={(event) => {
            setCategories(event.target.value);
            setSaved(false);
          }}
        />
        {about('categories') === undefined ? null : <span className="text-error">{about('categories')}</span>}
      </label>
      <ImageField image={frame.banner} words="Add a banner" onChange={(banner) => set({ banner })} />
      {problem !== undefined && !(problem instanceof ApiProblem && problem.errors.length > 0) ? (
        <Notice tone="error">{wordsOf(problem)}</Notice>
      ) : null}
      {saved ? <Notice tone="success">It is saved. The next issue begins with this frame.</Notice> : null}
      <button className="btn btn-primary self-start" disabled={busy || !awake}>
        {series ? 'Save the frame' : 'Make the series'}
      </button>
    </form>
  );
}
