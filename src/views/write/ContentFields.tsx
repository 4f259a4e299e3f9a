import { completedLink } from '../../core/content/link.ts';
import { IMPORTANCES, MAX_BYLINE, MAX_TITLE, type Content } from '../../core/content/announcement.ts';
import type { Choices } from './draft.ts';
import { EventFields } from './EventFields.tsx';
import { Sections } from './Sections.tsx';

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
        Title
        <input
          className="input w-full font-display text-xl font-semibold"
          value={content.title}
          maxLength={MAX_TITLE}
          onChange={(event) => onEdit({ title: event.target.value })}
          aria-invalid={about('title') !== undefined}
          dir="auto"
        />
        {about('title') === undefined ? null : <span className="text-error">{about('title')}</span>}
      </label>
      <div className="grid gap-4 sm:grid-cols-[1fr_12rem]">
        <label className="flex flex-col gap-1">
          Byline, such as “from the office of …”
          <input
            className="input w-full"
            value={content.byline}
            maxLength={MAX_BYLINE}
            onChange={(event) => onEdit({ byline: event.target.value })}
            dir="auto"
          />
        </label>
        <label className="flex flex-col gap-1">
          Importance
          <select
            className="select w-full"
            value={content.importance}
            onChange={(event) =>
              onEdit({ importance: IMPORTANCES.find((each) => each === event.target.value) ?? 'routine' })
            }
          >
            {IMPORTANCES.map((importance) => (
              <option key={importance}>{importance}</option>
            ))}
          </select>
        </label>
      </div>
      {choices.series.length > 0 ? (
        <div className="grid gap-4 sm:grid-cols-2">
          <label className="flex flex-col gap-1">
            Series
            <select
              className="select w-full"
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
              <option value="">none</option>
              {choices.series.map((each) => (
                <option key={each.id} value={each.id}>
                  {each.name}
                </option>
              ))}
            </select>
          </label>
          {series && content.issue ? (
            <label className="flex flex-col gap-1">
              Category
              <select
                className="select w-full"
                value={content.issue.category}
                onChange={(event) => onEdit({ issue: { seriesId: series.id, category: event.target.value } })}
              >
                {[...new Set([...series.categories, content.issue.category])].filter(Boolean).map((each) => (
                  <option key={each}>{each}</option>
                ))}
              </select>
              <span className="text-sm text-quiet">
                {'{number}'} in the title becomes No. {series.nextNumber} when it goes out.
              </span>
            </label>
          ) : null}
        </div>
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
