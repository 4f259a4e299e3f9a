import { completedLink } from '../../core/content/link.ts';
import type { EventDetails } from '../../core/content/event.ts';
import type { Choices } from './draft.ts';
import { WallFields, wallIn, ZoneField } from './MomentFields.tsx';

/** The event an announcement invites to, or none. */
export function EventFields({
  event,
  choices,
  zone,
  nowMs,
  about,
  onChange,
}: {
  event: EventDetails | null;
  choices: Choices;
  zone: string;
  nowMs: number;
  about: (field: string) => string | undefined;
  onChange: (event: EventDetails | null) => void;
}) {
  return (
    <fieldset>
      <label className="flex min-h-11 cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={event !== null}
          onChange={(change) =>
            onChange(
              change.target.checked
                ? {
                    wall: wallIn(zone, nowMs, 7, '10:00'),
                    zone,
                    minutes: 60,
                    place: '',
                    link: '',
                    signUp: false,
                  }
                : null,
            )
          }
        />
        An event, for the reader’s calendar
      </label>
      {event ? (
        <div className="flex flex-wrap items-end gap-3">
          <WallFields wall={event.wall} onChange={(wall) => onChange({ ...event, wall })} />
          <ZoneField
            zone={event.zone}
            choices={choices}
            onChange={(next) => onChange({ ...event, zone: next })}
          />
          <label className="flex flex-col gap-1">
            Minutes
            <input
              type="number"
              className="input w-24"
              min={5}
              max={10_080}
              value={event.minutes}
              onChange={(change) => {
                const minutes = Math.trunc(Number(change.target.value));
                if (minutes >= 5 && minutes <= 10_080) onChange({ ...event, minutes });
              }}
            />
          </label>
          <label className="flex min-w-56 grow flex-col gap-1">
            Place
            <input
              className="input w-full"
              value={event.place}
              maxLength={200}
              dir="auto"
              aria-invalid={about('event.place') !== undefined}
              onChange={(change) => onChange({ ...event, place: change.target.value })}
            />
            {about('event.place') === undefined ? null : (
              <span className="text-error">{about('event.place')}</span>
            )}
          </label>
          <label className="flex min-w-56 grow flex-col gap-1">
            Or a link to join by
            <input
              className="input w-full"
              value={event.link}
              aria-invalid={about('event.link') !== undefined}
              onChange={(change) => onChange({ ...event, link: change.target.value })}
              onBlur={() => {
                const link = completedLink(event.link);
                if (link !== event.link) onChange({ ...event, link });
              }}
            />
            {about('event.link') === undefined ? null : (
              <span className="text-error">{about('event.link')}</span>
            )}
          </label>
          {event.sessionDateId === undefined ? null : (
            <p className="w-full text-quiet">
              It is{' '}
              <a className="link-quiet" href={`/calendar/dates/${event.sessionDateId}`}>
                a date of the calendar
              </a>
              : its readers say in it, and from their mail, whether they come. A move in the calendar is told
              to them by itself.
            </p>
          )}
          <label className="flex min-h-11 w-full cursor-pointer items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              checked={event.signUp}
              onChange={(change) => onChange({ ...event, signUp: change.target.checked })}
            />
            Each reader gets a link of their own to pass on, and we see who signed up under whose
          </label>
        </div>
      ) : null}
    </fieldset>
  );
}
