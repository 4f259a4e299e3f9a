import type { Timing } from '../../core/plan/plan.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import { WEEKLY } from '../../core/timing/rule.ts';
import { Moment } from '../../ui/Moment.tsx';
import { BoardBoxes } from './BoardBoxes.tsx';
import { Bands } from './Coming.tsx';
import type { PanelProps } from './draft.ts';
import { HourHint } from './HourHint.tsx';
import { MomentFields, WallFields, wallIn } from './MomentFields.tsx';
import { PlaceBoxes } from './PlaceBoxes.tsx';
import { BeforeFields, PassedField, RecurringFields, Resting } from './timingParts.tsx';

/** Mail on top of the inbox, linked contacts, the boards it is posted to, and the outside places it travels to. */
export function HowPanel({ plan, choices, onChange }: PanelProps) {
  return (
    <div className="grid gap-6 sm:grid-cols-[15rem_1fr]">
      <fieldset>
        <legend className="mb-1 font-semibold">To each person</legend>
        <p className="text-sm text-quiet">Everybody chosen gets it in the inbox.</p>
        <label className="flex min-h-11 cursor-pointer items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-primary"
            checked={plan.mail}
            onChange={(event) => onChange({ ...plan, mail: event.target.checked })}
          />
          and by mail
        </label>
        <label className="flex min-h-11 cursor-pointer items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-primary"
            checked={plan.contacts}
            onChange={(event) => onChange({ ...plan, contacts: event.target.checked })}
          />
          with a copy to their linked contacts
        </label>
      </fieldset>
      <div className="flex flex-col gap-4">
        <fieldset>
          <legend className="mb-1 font-semibold">And on boards</legend>
          <BoardBoxes
            boards={choices.boards}
            chosen={plan.boards}
            onChange={(boards) => onChange({ ...plan, boards })}
          />
        </fieldset>
        <PlaceBoxes
          places={choices.outside}
          chosen={plan.outside}
          onChange={(outside) => onChange({ ...plan, outside })}
        />
      </div>
    </div>
  );
}

/** Now; at an instant; where each reader is; before the event; or again and again. */
export function WhenPanel({
  plan,
  choices,
  zone,
  nowMs,
  onChange,
  forecast,
  hasEvent,
}: PanelProps & { forecast: Forecast; hasEvent: boolean }) {
  const { timing } = plan;
  const tomorrow = wallIn(zone, nowMs, 1, '09:00');
  const wall =
    timing.kind === 'at' || timing.kind === 'local'
      ? timing.wall
      : timing.kind === 'recurring'
        ? timing.start
        : tomorrow;
  const set = (next: Timing): void => onChange({ ...plan, timing: next });
  const kinds: { kind: Timing['kind']; words: string; choose: () => void }[] = [
    {
      kind: 'now',
      words: 'Now, after ten seconds in which it can be taken back',
      choose: () => set({ kind: 'now' }),
    },
    { kind: 'at', words: 'At a date and time', choose: () => set({ kind: 'at', wall, zone }) },
    {
      kind: 'local',
      words: 'At a time where each reader is',
      choose: () => set({ kind: 'local', wall, passed: 'at once' }),
    },
    {
      kind: 'before event',
      words: `Before the event${hasEvent ? '' : ' (the announcement tells of none yet)'}`,
      choose: () => set({ kind: 'before event', minutes: 15 }),
    },
    {
      kind: 'recurring',
      words: 'Again and again',
      choose: () => set({ kind: 'recurring', start: wall, zone, rule: WEEKLY, passed: 'not' }),
    },
  ];
  const { span } = forecast;
  return (
    <div className="flex flex-col gap-2">
      <div className="grid gap-x-6 sm:grid-cols-2">
        {kinds.map(({ kind, words, choose }) => (
          <label key={kind} className="flex min-h-11 cursor-pointer items-center gap-2">
            <input
              type="radio"
              name="timing"
              className="radio radio-primary"
              checked={timing.kind === kind}
              onChange={choose}
            />
            {words}
          </label>
        ))}
      </div>
      {timing.kind === 'at' ? (
        <>
          <MomentFields
            moment={timing}
            choices={choices}
            onChange={(moment) => set({ kind: 'at', ...moment })}
          />
          {span !== null && timing.zone !== zone ? (
            <p className="text-quiet">
              That is <Moment at={span.firstMs} zone={zone} nowMs={nowMs} /> your time.
            </p>
          ) : null}
          {forecast.clockNote === null ? null : <p className="text-info">{forecast.clockNote}</p>}
        </>
      ) : null}
      {timing.kind === 'local' ? (
        <>
          <div className="flex flex-wrap items-end gap-3">
            <WallFields wall={timing.wall} onChange={(next) => set({ ...timing, wall: next })} />
            <PassedField passed={timing.passed} onChange={(passed) => set({ ...timing, passed })} />
          </div>
          {plan.boards.length > 0 ? (
            <p className="text-sm text-quiet">
              A board has no clock of its own: there it stands once the last zone has it.
            </p>
          ) : null}
          <Bands forecast={forecast} zone={zone} />
        </>
      ) : null}
      {timing.kind === 'before event' ? (
        <BeforeFields
          timing={timing}
          spanMs={hasEvent ? (span?.firstMs ?? null) : null}
          zone={zone}
          nowMs={nowMs}
          onSet={set}
        />
      ) : null}
      {timing.kind === 'recurring' ? (
        <RecurringFields timing={timing} choices={choices} zone={zone} forecast={forecast} onSet={set} />
      ) : null}
      <HourHint
        onTake={
          timing.kind === 'at' || timing.kind === 'local'
            ? (hour) =>
                set({ ...timing, wall: `${timing.wall.slice(0, 11)}${String(hour).padStart(2, '0')}:00` })
            : null
        }
      />
      <Resting forecast={forecast} zone={zone} nowMs={nowMs} />
    </div>
  );
}
