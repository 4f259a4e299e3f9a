import { useRef, useState } from 'react';
import {
  ACCENTS,
  emptySection,
  MAX_HEADING,
  MAX_SECTIONS,
  type Section,
} from '../../core/content/section.ts';
import { FilesField, ImageField } from '../../ui/Attached.tsx';
import { Editor } from '../../ui/Editor.tsx';

/** An id no section of this run has yet. */
function freshId(sections: readonly Section[]): string {
  const taken = new Set(sections.map((section) => section.id));
  for (let n = sections.length + 1; ; n++) if (!taken.has(`s${n}`)) return `s${n}`;
}

function moved(sections: readonly Section[], from: number, to: number): Section[] {
  const next = [...sections];
  const [section] = next.splice(from, 1);
  if (section) next.splice(to, 0, section);
  return next;
}

/**
 * The run of sections: each with a heading, an accent, an image, its text and attachments. They are put in another order
 * by dragging the handle, or with its arrow keys.
 */
export function Sections({
  sections,
  editorKey,
  about,
  onChange,
}: {
  sections: Section[];
  /** Changes when texts are replaced from outside, so that the editors begin anew. */
  editorKey: number;
  about: (field: string) => string | undefined;
  onChange: (sections: Section[]) => void;
}) {
  const [dragged, setDragged] = useState<number | null>(null);
  const [over, setOver] = useState<number | null>(null);
  const [said, setSaid] = useState('');
  const handles = useRef(new Map<string, HTMLButtonElement>());
  const set = (at: number, part: Partial<Section>): void =>
    onChange(sections.map((section, i) => (i === at ? { ...section, ...part } : section)));
  const move = (from: number, to: number): void => {
    if (to < 0 || to >= sections.length || to === from) return;
    const { id } = sections[from] ?? {};
    onChange(moved(sections, from, to));
    setSaid(`Section ${from + 1} is now section ${to + 1}.`);
    requestAnimationFrame(() => {
      if (id !== undefined) handles.current.get(id)?.focus();
    });
  };
  const many = sections.length > 1;
  return (
    <div className="flex flex-col gap-5">
      <p role="status" className="sr-only">
        {said}
      </p>
      {sections.map((section, i) => (
        <section
          key={section.id}
          aria-label={many ? `Section ${i + 1}` : 'The only section'}
          className={`section-edit accent-${section.accent} ${over === i && dragged !== null && dragged !== i ? 'outline-2 outline-dashed outline-primary' : ''}`}
          onDragOver={(event) => {
            if (dragged === null) return;
            event.preventDefault();
            setOver(i);
          }}
          onDrop={(event) => {
            if (dragged === null) return;
            event.preventDefault();
            move(dragged, i);
            setDragged(null);
            setOver(null);
          }}
        >
          {many || section.heading !== '' || section.accent !== 'none' ? (
            <div className="mb-2 flex flex-wrap items-end gap-2">
              {many ? (
                <button
                  type="button"
                  ref={(element) => {
                    if (element) handles.current.set(section.id, element);
                    else handles.current.delete(section.id);
                  }}
                  draggable
                  className="btn btn-ghost btn-sm cursor-grab px-2"
                  aria-label={`Move section ${i + 1} of ${sections.length}: drag it, or use the arrow keys`}
                  onDragStart={(event) => {
                    event.dataTransfer.effectAllowed = 'move';
                    event.dataTransfer.setData('text/plain', section.id);
                    setDragged(i);
                  }}
                  onDragEnd={() => {
                    setDragged(null);
                    setOver(null);
                  }}
                  onKeyDown={(event) => {
                    if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return;
                    event.preventDefault();
                    move(i, event.key === 'ArrowUp' ? i - 1 : i + 1);
                  }}
                >
                  <svg width="12" height="20" viewBox="0 0 12 20" aria-hidden="true">
                    <path d="M6 1 10 6 2 6Z M6 19 10 14 2 14Z" fill="currentColor" />
                  </svg>
                </button>
              ) : null}
              <label className="flex grow flex-col gap-1 text-sm">
                Heading
                <input
                  className="input w-full font-display text-lg font-semibold"
                  value={section.heading}
                  maxLength={MAX_HEADING}
                  dir="auto"
                  onChange={(event) => set(i, { heading: event.target.value })}
                />
              </label>
              <label className="flex flex-col gap-1 text-sm">
                Accent
                <select
                  className="select"
                  value={section.accent}
                  onChange={(event) =>
                    set(i, { accent: ACCENTS.find((each) => each === event.target.value) ?? 'none' })
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
                  aria-label={`Take section ${i + 1} out`}
                  onClick={() => onChange(sections.filter((each) => each.id !== section.id))}
                >
                  Take out
                </button>
              ) : null}
            </div>
          ) : null}
          <Editor
            key={`${section.id}-${editorKey}`}
            document={section.document}
            label={many ? `Text of section ${i + 1}` : 'Text'}
            onChange={(document) => set(i, { document })}
          />
          {about(`sections.${section.id}`) === undefined ? null : (
            <p className="text-error">{about(`sections.${section.id}`)}</p>
          )}
          <div className="mt-2 flex flex-wrap items-center gap-2">
            <ImageField
              image={section.image}
              problem={about(`sections.${section.id}.alt`)}
              onChange={(image) => set(i, { image })}
            />
            <FilesField files={section.files} onChange={(files) => set(i, { files })} />
          </div>
        </section>
      ))}
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
