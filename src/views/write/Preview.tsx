import { useContext, useEffect, useState } from 'react';
import { Moment } from '../../ui/Moment.tsx';
import { FilesOf } from '../../ui/filesOf.ts';
import type { Content } from '../../core/content/announcement.ts';
import { eventSpan, shownEvent } from '../../core/content/event.ts';
import type { Reader } from '../../core/content/field.ts';
import { fillFor, sectionsHtml } from '../../core/content/html.ts';
import { imagePath, partsOf } from '../../core/content/section.ts';
import { excerpt, lengthOf, PUSH_TEXT, PUSH_TITLE } from '../../core/content/text.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { numbered } from '../../core/series/series.ts';
import { EventLine } from '../../ui/EventLine.tsx';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { Matter, MatterButton } from '../../ui/Matter.tsx';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { pathWith, useServer } from '../../ui/server.ts';
import { Tabs } from '../../ui/Tabs.tsx';
import { writtenKind } from './asks/kinds.ts';
import type { Choices } from './draft.ts';

const VIEWS = ['board', 'phone', 'mail', 'mail as text', 'push'] as const;
type View = (typeof VIEWS)[number];

/** What is asked, as the reader sees it; nothing of it can be pressed. */
function AskPreview({ ask, zone, nowMs }: { ask: Plan['ask']; zone: string; nowMs: number }) {
  if (ask.kind === 'nothing') return null;
  const { Preview: AskShown } = writtenKind(ask.kind);
  return (
    <div className="mt-4 border-l-4 border-primary pl-4">
      <AskShown ask={ask} zone={zone} nowMs={nowMs} />
    </div>
  );
}

/** One part of the announcement as a board or an inbox shows it. */
function Shown({
  content,
  sections,
  part,
  last,
  plan,
  reader,
  choices,
  nowMs,
}: {
  content: Content;
  sections: Content['sections'];
  part: string;
  /** Whether it is the last part, under which event and button stand. */
  last: boolean;
  plan: Plan;
  reader: Reader | null;
  choices: Choices;
  nowMs: number;
}) {
  const draft = useContext(FilesOf);
  const series = choices.series.find((each) => each.id === content.issue?.seriesId);
  const title = numbered(content.title.trim(), series?.nextNumber ?? null);
  const event = shownEvent(content.event);
  return (
    <>
      {series?.banner ? (
        <img
          src={imagePath(series.banner, 'page')}
          alt={series.banner.alt}
          className="mb-3 h-auto max-w-full"
        />
      ) : null}
      <ImportanceWord importance={content.importance} />
      <h2 className="text-xl" dir="auto">
        {title || <span className="text-quiet">Without a title</span>}
        {part === '' ? null : <span className="text-base font-normal text-quiet"> {part}</span>}
      </h2>
      <p className="mb-3 text-sm text-quiet" dir="auto">
        {content.byline}
      </p>
      <Matter
        html={sectionsHtml(sections, fillFor(reader), {
          kind: 'page',
          level: 3,
          address: (path) => path + draft,
        })}
      />
      {event && last ? <EventLine event={event} zone={reader?.zone ?? event.zone} nowMs={nowMs} /> : null}
      <MatterButton button={last && content.button?.label ? { ...content.button, url: '#preview' } : null} />
      {last ? <AskPreview ask={plan.ask} zone={reader?.zone ?? 'UTC'} nowMs={nowMs} /> : null}
    </>
  );
}

function Push({ content, title, reader }: { content: Content; title: string; reader: Reader | null }) {
  const over = lengthOf(title) > PUSH_TITLE;
  return (
    <div>
      <div className="floating max-w-sm border border-base-300 bg-base-100 p-4">
        <p className="text-sm text-quiet">Clear Bell</p>
        <p className="truncate font-semibold" dir="auto">
          {title}
        </p>
        <p className="line-clamp-3 text-sm" dir="auto">
          {excerpt(content.sections, PUSH_TEXT, fillFor(reader))}
        </p>
      </div>
      {over ? (
        <p className="mt-2 text-warning">
          The title has {lengthOf(title)} characters; phones cut it after about {PUSH_TITLE}.
        </p>
      ) : null}
    </div>
  );
}

/** What the reader sees: by each way, by day and by night, as any reader. */
export function Preview({
  draftId,
  savedRevision,
  content,
  plan,
  choices,
  nowMs,
  me,
}: {
  draftId: number;
  /** Rises with every save: the mail is rendered by the server from what is saved. */
  savedRevision: number;
  content: Content;
  plan: Plan;
  choices: Choices;
  nowMs: number;
  me: { id: number; name: string };
}) {
  const [view, setView] = useState<View>('board');
  const [theme, setTheme] = useState<'' | 'day' | 'night'>('');
  const [person, setPerson] = useState(me);
  const { data: reader = null } = useServer(
    pathWith(`/api/announcements/${draftId}/reader`, { person: person.id, v: savedRevision }),
    { keepPrevious: true },
  );
  const [text, setText] = useState('');
  const shownAs = reader && {
    ...reader,
    eventMs: content.event ? eventSpan(content.event).startMs : null,
  };
  const mailUrl = (part: 'html' | 'text'): string =>
    `/api/announcements/${draftId}/mail?person=${person.id}&part=${part}&v=${savedRevision}`;
  const textUrl = mailUrl('text');
  useEffect(() => {
    if (view !== 'mail as text') return undefined;
    let current = true;
    fetch(textUrl).then(
      async (response) => {
        const found = await response.text();
        if (current) setText(response.ok ? found : '');
      },
      () => undefined,
    );
    return () => {
      current = false;
    };
  }, [view, textUrl]);

  const board = choices.boards.find((each) => plan.boards.includes(each.id));
  const parts =
    view === 'board' && board ? partsOf(content.sections, board.sectionLimit) : [content.sections];
  const series = choices.series.find((each) => each.id === content.issue?.seriesId);
  const title = numbered(content.title.trim(), series?.nextNumber ?? null) || 'Without a title';
  return (
    <Tabs
      label="What the reader sees by"
      tabs={VIEWS}
      value={view}
      onChange={setView}
      besides={
        <>
          <div className="my-2 flex flex-wrap items-end justify-between gap-2 text-sm">
            <div className="min-w-44 grow">
              <NameSearch
                label={`As ${person.name} sees it. As somebody else:`}
                onChoose={(found) => setPerson({ id: found.id, name: found.name })}
              />
            </div>
            <label className="flex flex-col gap-1">
              Colours
              <select
                className="select"
                value={theme}
                onChange={(event) => setTheme(event.target.value as typeof theme)}
              >
                <option value="">mine</option>
                <option value="day">day</option>
                <option value="night">night</option>
              </select>
            </label>
          </div>
          {shownAs ? (
            <p className="mb-2 text-sm text-quiet">
              It reaches them <Moment at={shownAs.atMs} zone={shownAs.zone} nowMs={nowMs} />, their time.
            </p>
          ) : null}
        </>
      }
    >
      <div data-theme={theme === '' ? undefined : theme} className="bg-base-200 text-base-content">
        {view === 'mail' ? (
          <iframe
            // A frame whose address changes while it still loads can stay with the old one: each address has a frame of its own.
            key={mailUrl('html')}
            title="The mail"
            src={mailUrl('html')}
            sandbox=""
            className="h-[34rem] w-full border border-base-300 bg-white"
          />
        ) : view === 'mail as text' ? (
          <pre className="max-h-[34rem] overflow-auto border border-base-300 bg-base-100 p-4 font-mono text-sm whitespace-pre-wrap">
            {text}
          </pre>
        ) : view === 'push' ? (
          <Push content={content} title={title} reader={shownAs} />
        ) : (
          <div className={view === 'phone' ? 'mx-auto max-w-[22rem]' : ''}>
            {parts.map((sections, i) => (
              <article
                // A part is its place in the run.
                key={i}
                className={`mb-3 border border-base-300 bg-base-100 ${view === 'phone' ? 'p-4' : 'p-5'}`}
              >
                <Shown
                  content={content}
                  sections={sections}
                  part={parts.length > 1 ? `${i + 1} of ${parts.length}` : ''}
                  last={i === parts.length - 1}
                  plan={
                    view === 'board' && plan.audience === null ? { ...plan, ask: { kind: 'nothing' } } : plan
                  }
                  reader={shownAs}
                  choices={choices}
                  nowMs={nowMs}
                />
              </article>
            ))}
          </div>
        )}
      </div>
    </Tabs>
  );
}
