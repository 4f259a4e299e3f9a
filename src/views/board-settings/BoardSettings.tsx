import { useMemo } from 'react';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { ArchiveSection, Deeds, PatternSection } from './ends.tsx';
import { Links } from './Links.tsx';
import { Moderators } from './Moderators.tsx';
import { SwitchFields } from './SwitchFields.tsx';
import { TextSetting } from './TextSetting.tsx';
import { useBoardChanges, type Settings } from './useBoardChanges.ts';
import { WhosePlace } from './WhosePlace.tsx';

/** A board's settings: for those who moderate it to change, for everybody else who sees it to read. */
export default function BoardSettings({
  first,
  coordinator,
  zone,
}: {
  first: Settings;
  coordinator: boolean;
  zone: string;
}) {
  const awake = useAwake();
  const path = `/api/boards/${first.id}/settings` as const;
  const topics = useMemo(() => [`board:${first.id}`], [first.id]);
  const { data: settings = first } = useServer(path, { first, topics });
  const { id } = settings;
  const { problem, setProblem, changeSettings, appoint } = useBoardChanges(settings);
  const wrong = (field: string): string | undefined =>
    problem instanceof ApiProblem ? problem.about(field) : undefined;
  const locked = settings.denied !== null || !awake;
  const told = ['name', 'about', 'sectionLimit', 'pinLimit'].some((field) => wrong(field) !== undefined);
  return (
    <>
      <p className="mb-2 text-sm">
        <a className="link-quiet" href={`/boards/${id}`}>
          {settings.name}
        </a>
      </p>
      <h1 className="mb-3">Settings</h1>
      {settings.denied === null ? null : (
        <p className="mb-4 border-l-4 border-info bg-base-100 px-4 py-3">
          {settings.denied} You can read them.
        </p>
      )}
      <div aria-live="polite">
        {problem === undefined || told ? null : <Notice tone="error">{wordsOf(problem)}</Notice>}
      </div>
      <div className="flex flex-col gap-5">
        <TextSetting
          label="Name"
          value={settings.name}
          disabled={locked}
          problem={wrong('name')}
          onSave={(name) => void changeSettings({ name })}
        />
        <TextSetting
          label="What it is for"
          value={settings.about}
          disabled={locked}
          problem={wrong('about')}
          onSave={(about) => void changeSettings({ about })}
        />
        <WhosePlace
          settings={settings}
          coordinator={coordinator}
          locked={locked}
          onProblem={setProblem}
          onChange={changeSettings}
        />

        {coordinator ? (
          <label className="flex min-h-11 cursor-pointer items-center gap-3">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              disabled={locked}
              checked={settings.contactsRead}
              onChange={(event) => void changeSettings({ contactsRead: event.target.checked })}
            />
            Linked contacts of its readers (relatives, delegates) may read it by a link of their own
          </label>
        ) : null}

        <SwitchFields settings={settings} locked={locked} wrong={wrong} onChange={changeSettings} />

        <Moderators
          boardId={id}
          moderators={settings.moderators}
          owner={settings.owner}
          locked={locked}
          coordinator={coordinator}
          onAppoint={(person, moderates) => void appoint(person, moderates)}
          onOwner={(person) =>
            void changeSettings({ ownerId: person.id }, `${person.name} owns the board now.`)
          }
        />

        <Links
          links={settings.links}
          disabled={locked}
          onSave={async (links) => {
            await request('PUT', `/api/boards/${id}/links`, { links });
            await refetch(path);
            void done('Saved.');
          }}
        />

        <PatternSection settings={settings} />
        <ArchiveSection settings={settings} onChange={changeSettings} />

        <Deeds deeds={settings.deeds} zone={zone} />
      </div>
    </>
  );
}
