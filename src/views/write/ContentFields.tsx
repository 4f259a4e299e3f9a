import { completedLink } from '../../core/content/link.ts';
import { IMPORTANCES, MAX_BYLINE, MAX_TITLE, type Content } from '../../core/content/announcement.ts';
import type { Choices } from './draft.ts';
import { EventFields } from './EventFields.tsx';
import { Sections } from './Sections.tsx';

interface PartProps {
  content: Content;
  onEdit: (part: Partial<Content>) => void;
}

/** Of which series it is an issue, and in which category. */
function SeriesFields({ content, choices, onEdit }: PartProps & { choices: Choices }) {
  const series = choices.series.find((each) => each.id === content.issue?.seriesId);
  return (
    <>
      {choices.series.length > 0 ? (
        <select
          className="select select-sm min-h-9 w-auto max-w-44"
          aria-label="Series"
          value={content.issue?.seriesId ?? ''}
          onChange={(event) => {
            const chosen = choices.series.find((each) => String(each.id) === event.target.value);
            onEdit({
              issue: chosen ? { seriesId: chosen.id, category: chosen.categories[0] ?? '' } : null,
              ...(chosen && content.byline.trim() === '' ? { byline: chosen.byline } : {}),
              ...(chosen && content.title.trim() === '' ? { title: chosen.heading } : {}),
            });
          }}
        >
          <option value="">of no series</option>
          {choices.series.map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
        </select>
      ) : null}
      {series && content.issue ? (
        <select
          className="select select-sm min-h-9 w-auto max-w-44"
          aria-label="Category"
          value={content.issue.category}
          onChange={(event) => onEdit({ issue: { seriesId: series.id, category: event.target.value } })}
        >
          {[...new Set([...series.categories, content.issue.category])].filter(Boolean).map((each) => (
            <option key={each}>{each}</option>
          ))}
        </select>
      ) : null}
    </>
  );
}

/** A button under the text that leads somewhere. */
function ButtonFields({
  content,
  about,
  onEdit,
}: PartProps & { about: (field: string) => string | undefined }) {
  return (
    <fieldset>
      <label className="flex min-h-11 cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={content.button !== null}
          onChange={(event) => onEdit({ button: event.target.checked ? { label: '', url: '' } : null })}
        />
        A button with a link
      </label>
      {content.button ? (
        <div className="grid gap-3 sm:grid-cols-2">
          <label className="flex flex-col gap-1">
            It says
            <input
              className="input w-full"
              value={content.button.label}
              maxLength={60}
              onChange={(event) =>
                onEdit({ button: { url: content.button?.url ?? '', label: event.target.value } })
              }
              aria-invalid={about('button.label') !== undefined}
            />
            {about('button.label') === undefined ? null : (
              <span className="text-error">{about('button.label')}</span>
            )}
          </label>
          <label className="flex flex-col gap-1">
            It leads to
            <input
              className="input w-full"
              value={content.button.url}
              onChange={(event) =>
                onEdit({ button: { label: content.button?.label ?? '', url: event.target.value } })
              }
              onBlur={() => {
                const { label = '', url = '' } = content.button ?? {};
                if (completedLink(url) !== url) onEdit({ button: { label, url: completedLink(url) } });
              }}
              aria-invalid={about('button.url') !== undefined}
            />
            {about('button.url') === undefined ? null : (
              <span className="text-error">{about('button.url')}</span>
            )}
          </label>
        </div>
      ) : null}
    </fieldset>
  );
}

/** Everything that is written: title, byline, importance, series, sections, the button and the event. */
export function ContentFields({
  content,
  choices,
  editorKey,
  zone,
  nowMs,
  about,
  onEdit,
}: {
  content: Content;
  choices: Choices;
  /** Changes when texts are replaced from outside, so that the editors begin anew. */
  editorKey: number;
  zone: string;
  nowMs: number;
  /** What is wrong with a field, or nothing. */
  about: (field: string) => string | undefined;
  onEdit: (part: Partial<Content>) => void;
}) {
  const series = choices.series.find((each) => each.id === content.issue?.seriesId);
  return (
    <>
      <label className="flex flex-col gap-1">
        <span className="sr-only">Title</span>
        <input
          placeholder="Title"
          className="w-full border-0 border-b border-base-content/55 bg-transparent py-1 font-display text-2xl font-semibold"
          value={content.title}
          maxLength={MAX_TITLE}
          onChange={(event) => onEdit({ title: event.target.value })}
          aria-invalid={about('title') !== undefined}
          dir="auto"
        />
        {about('title') === undefined ? null : <span className="text-error">{about('title')}</span>}
      </label>
      <div
        className="-mt-2 flex flex-wrap items-center gap-2 text-sm"
        role="group"
        aria-label="In whose name, and how"
      >
        <input
          className="input input-sm min-h-9 w-44 grow"
          aria-label="Byline, such as “from the office of …”"
          placeholder="Byline, such as “from the office of …”"
          value={content.byline}
          maxLength={MAX_BYLINE}
          onChange={(event) => onEdit({ byline: event.target.value })}
          dir="auto"
        />
        <select
          className="select select-sm min-h-9 w-auto"
          aria-label="Importance"
          value={content.importance}
          onChange={(event) =>
            onEdit({ importance: IMPORTANCES.find((each) => each === event.target.value) ?? 'routine' })
          }
        >
          {IMPORTANCES.map((importance) => (
            <option key={importance}>{importance}</option>
          ))}
        </select>
        <SeriesFields content={content} choices={choices} onEdit={onEdit} />
      </div>
      {series && content.title.includes('{number}') ? (
        <p className="-mt-2 text-sm text-quiet">
          {'{number}'} in the title becomes No. {series.nextNumber} when it goes out.
        </p>
      ) : null}
      <Sections
        sections={content.sections}
        editorKey={editorKey}
        about={about}
        onChange={(sections) => onEdit({ sections })}
      />
      {about('document') === undefined && about('sections') === undefined ? null : (
        <p className="text-error">{about('document') ?? about('sections')}</p>
      )}
      <ButtonFields content={content} about={about} onEdit={onEdit} />
      <EventFields
        event={content.event}
        choices={choices}
        zone={zone}
        nowMs={nowMs}
        about={about}
        onChange={(event) => onEdit({ event })}
      />
    </>
  );
}
