import { Controller } from 'react-hook-form';
import type { Series, SeriesFrame } from '../../core/series/series.ts';
import { request } from '../../ui/api.ts';
import { ImageField } from '../../ui/Attached.tsx';
import { FormProblem, LinesField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';

interface Given extends Omit<SeriesFrame, 'categories'> {
  /** One a line. */
  categories: string;
}

const linesOf = (text: string): string[] => [
  ...new Set(
    text
      .split('\n')
      .map((line) => line.trim())
      .filter(Boolean),
  ),
];

/** The frame of a series: a new one, or one that is there. */
export default function SeriesForm({ series }: { series: Series | null }) {
  const awake = useAwake();
  const form = useServerForm<Given>({
    values: {
      name: series?.name ?? '',
      heading: series?.heading ?? '',
      byline: series?.byline ?? '',
      banner: series?.banner ?? null,
      categories: (series?.categories ?? []).join('\n'),
    },
    send: async (given) => {
      const frame: SeriesFrame = { ...given, categories: linesOf(given.categories) };
      if (series) {
        await request('PUT', `/api/series/${series.id}`, frame);
        form.reset(given);
        void done('It is saved. The next issue begins with this frame.');
        return;
      }
      const { id } = await request('POST', '/api/series', frame);
      form.reset(given);
      location.assign(`/series/${id}`);
    },
  });
  return (
    <form className="flex max-w-2xl flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
      <TextField form={form} name="name" label="Name" maxLength={120} />
      <TextField
        form={form}
        name="heading"
        label="How a title begins; {number} becomes the number of the issue"
        maxLength={100}
      />
      <TextField form={form} name="byline" label="Byline" maxLength={120} />
      <LinesField form={form} name="categories" label="Categories, one a line" />
      <Controller
        control={form.control}
        name="banner"
        render={({ field }) => (
          <ImageField image={field.value} words="Add a banner" onChange={field.onChange} />
        )}
      />
      <FormProblem form={form} />
      <button className="btn btn-primary self-start" disabled={form.formState.isSubmitting || !awake}>
        {series ? 'Save the frame' : 'Make the series'}
      </button>
    </form>
  );
}
