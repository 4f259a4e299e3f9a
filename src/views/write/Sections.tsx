import {
  ACCENTS,
  emptySection,
  MAX_HEADING,
  MAX_SECTIONS,
  type Section,
} from '../../core/content/section.ts';
import { FilesField, ImageField } from '../../ui/Attached.tsx';
import { GalleryField } from '../../ui/GalleryField.tsx';
import { VideoField } from '../../ui/VideoField.tsx';
import { Editor } from '../../ui/Editor.tsx';
import { Sortable, useInOrder } from '../../ui/Sortable.tsx';

/** An id no section of this run has yet. */
function freshId(sections: readonly Section[]): string {
  const taken = new Set(sections.map((section) => section.id));
  for (let n = sections.length + 1; ; n++) if (!taken.has(`s${n}`)) return `s${n}`;
}

/**
 * The run of sections: each with a heading, an accent, an image, its text and attachments. They are put in another order
 * by their handles.
 */
export function Sections({
  sections,
  editorKey,
  about,
  fields,
  onChange,
}: {
  sections: Section[];
  /** Fields that can be put into their texts, by name, each with its label. */
  fields?: Record<string, string>;
  /** Changes when texts are replaced from outside, so that the editors begin anew. */
  editorKey: number;
  about: (field: string) => string | undefined;
  onChange: (sections: Section[]) => void;
}) {
  const set = (at: number, part: Partial<Section>): void =>
    onChange(sections.map((section, i) => (i === at ? { ...section, ...part } : section)));
  const many = sections.length > 1;
  const numberOf = (id: string): number => sections.findIndex((section) => section.id === id) + 1;
  return (
    <div className="flex flex-col gap-5">
      <Sortable
        ids={sections.map((section) => section.id)}
        nameOf={(id) => `section ${numberOf(id)}`}
        onOrder={(ids) =>
          onChange([...sections].sort((one, other) => ids.indexOf(one.id) - ids.indexOf(other.id)))
        }
      >
        {sections.map((section, i) => (
          <SectionEdit
            key={section.id}
            section={section}
            at={i}
            many={many}
            editorKey={editorKey}
            about={about}
            fields={fields}
            onChange={(part) => set(i, part)}
            onTakeOut={() => onChange(sections.filter((each) => each.id !== section.id))}
          />
        ))}
      </Sortable>
      {sections.length < MAX_SECTIONS ? (
        <div>
          <button
            type="button"
            className="btn btn-outline btn-sm"
            onClick={() => onChange([...sections, emptySection(freshId(sections))])}
          >
            Add a section
          </button>
        </div>
      ) : null}
    </div>
  );
}

/** One section: what it looks like, its text, and what is attached to it. */
function SectionEdit({
  section,
  at,
  many,
  editorKey,
  about,
  fields,
  onChange,
  onTakeOut,
}: {
  section: Section;
  at: number;
  many: boolean;
  editorKey: number;
  about: (field: string) => string | undefined;
  fields: Record<string, string> | undefined;
  onChange: (part: Partial<Section>) => void;
  onTakeOut: () => void;
}) {
  const { ref, style, handle } = useInOrder(section.id);
  return (
    <section
      aria-label={many ? `Section ${at + 1}` : 'The only section'}
      ref={ref}
      style={style}
      className={`section-edit accent-${section.accent}`}
    >
      {many || section.heading !== '' || section.accent !== 'none' ? (
        <div className="mb-2 flex flex-wrap items-end gap-2">
          {many ? handle : null}
          <label className="flex grow flex-col gap-1 text-sm">
            Heading
            <input
              className="input w-full font-display text-lg font-semibold"
              value={section.heading}
              maxLength={MAX_HEADING}
              dir="auto"
              onChange={(event) => onChange({ heading: event.target.value })}
            />
          </label>
          <label className="flex flex-col gap-1 text-sm">
            Accent
            <select
              className="select"
              value={section.accent}
              onChange={(event) =>
                onChange({ accent: ACCENTS.find((each) => each === event.target.value) ?? 'none' })
              }
            >
              {ACCENTS.map((each) => (
                <option key={each}>{each}</option>
              ))}
            </select>
          </label>
          {many ? (
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              aria-label={`Take section ${at + 1} out`}
              onClick={onTakeOut}
            >
              Take out
            </button>
          ) : null}
        </div>
      ) : null}
      <Editor
        key={`${section.id}-${editorKey}`}
        document={section.document}
        label={many ? `Text of section ${at + 1}` : 'Text'}
        {...(fields ? { fields } : {})}
        onChange={(document) => onChange({ document })}
      />
      {about(`sections.${section.id}`) === undefined ? null : (
        <p className="text-error">{about(`sections.${section.id}`)}</p>
      )}
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <ImageField
          image={section.image}
          problem={about(`sections.${section.id}.alt`)}
          onChange={(image) => onChange({ image })}
        />
        {section.image ? (
          <GalleryField
            images={section.gallery}
            about={(at) => about(`sections.${section.id}.gallery.${at}.alt`)}
            onChange={(gallery) => onChange({ gallery })}
          />
        ) : null}
        <VideoField
          video={section.video}
          about={(field) => about(`sections.${section.id}.video.${field}`)}
          onChange={(video) => onChange({ video })}
        />
        <FilesField files={section.files} onChange={(files) => onChange({ files })} />
      </div>
    </section>
  );
}
