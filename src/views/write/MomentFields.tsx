import { DateField, TimeField } from '../../ui/DateField.tsx';
import type { Moment } from '../../core/timing/wallTime.ts';
import type { Choices } from './draft.ts';

/** The date in a zone so many days after an instant, at an hour there. */
export function wallIn(zone: string, ms: number, days: number, time: string): string {
  const date = new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short' }).format(ms);
  // Days of the calendar: on the day the clock changes 24 hours are not a day.
  const [year = 0, month = 1, day = 1] = date.split('-').map(Number);
  return `${new Date(Date.UTC(year, month - 1, day + days)).toISOString().slice(0, 10)}T${time}`;
}

/** A date and a time of day. A field that is being cleared is no time yet; the last whole one stands until it is. */
export function WallFields({ wall, onChange }: { wall: string; onChange: (wall: string) => void }) {
  const [date = '', time = ''] = wall.split('T');
  const set = (nextDate: string, nextTime: string): void => {
    if (/^\d{4}-\d{2}-\d{2}$/.test(nextDate) && /^\d{2}:\d{2}$/.test(nextTime))
      onChange(`${nextDate}T${nextTime}`);
  };
  return (
    <>
      <DateField label="Date" className="w-44" value={date} onChange={(next) => set(next, time)} />
      <TimeField label="Time" className="w-32" value={time} onChange={(next) => set(date, next)} />
    </>
  );
}

export function ZoneField({
  zone,
  choices,
  onChange,
}: {
  zone: string;
  choices: Pick<Choices, 'zones' | 'stationZones'>;
  onChange: (zone: string) => void;
}) {
  return (
    <label className="flex flex-col gap-1">
      Zone
      <select className="select" value={zone} onChange={(event) => onChange(event.target.value)}>
        {choices.stationZones.length > 0 ? (
          <optgroup label="Stations">
            {choices.stationZones.map((station) => (
              <option key={station.name} value={station.zone}>
                {station.name} ({station.zone})
              </option>
            ))}
          </optgroup>
        ) : null}
        <optgroup label="All zones">
          {choices.zones.map((each) => (
            <option key={each} value={each}>
              {each}
            </option>
          ))}
        </optgroup>
      </select>
    </label>
  );
}

/** A date and time in a named zone. */
export function MomentFields({
  moment,
  choices,
  onChange,
}: {
  moment: Moment;
  choices: Choices;
  onChange: (moment: Moment) => void;
}) {
  return (
    <div className="flex flex-wrap gap-3">
      <WallFields wall={moment.wall} onChange={(wall) => onChange({ wall, zone: moment.zone })} />
      <ZoneField
        zone={moment.zone}
        choices={choices}
        onChange={(zone) => onChange({ wall: moment.wall, zone })}
      />
    </div>
  );
}
