import ical, { ICalEventRepeatingFreq, ICalEventStatus, ICalWeekday } from 'ical-generator';

/** How the calendar of the collecting sites stands, as it was changed by hand. */
export interface SiteCalendar {
  /** The hour of the walk along the river, on the clock of Madrid. */
  hour: number;
  /** Whether the walks are called off. */
  off: boolean;
}
export const AS_PLANNED: SiteCalendar = { hour: 9, off: false };

/** The calendar of the collecting sites as an iCalendar text: a walk every Wednesday, and a look at the gauges every month. */
export function siteCalendar({ hour, off }: SiteCalendar): string {
  const calendar = ical({ name: 'The collecting sites', prodId: '//sites.example//calendar//EN' });
  const zone = 'Europe/Madrid';
  const at = (date: string, of: number): string => `${date}T${String(of).padStart(2, '0')}:00:00`;
  calendar.createEvent({
    id: 'river-walk@sites.example',
    summary: 'River walk',
    description: 'Along the gauges from the weir to the ford. Boots.',
    location: 'The weir at Sant Elm',
    timezone: zone,
    start: at('2026-01-07', hour),
    end: at('2026-01-07', hour + 2),
    repeating: { freq: ICalEventRepeatingFreq.WEEKLY, byDay: [ICalWeekday.WE] },
    status: off ? ICalEventStatus.CANCELLED : ICalEventStatus.CONFIRMED,
  });
  calendar.createEvent({
    id: 'gauges@sites.example',
    summary: 'Reading of the gauges',
    location: 'The ford',
    timezone: zone,
    start: at('2026-01-05', 7),
    end: at('2026-01-05', 8),
    repeating: { freq: ICalEventRepeatingFreq.MONTHLY, byDay: [ICalWeekday.MO], bySetPos: 1 },
  });
  return calendar.toString();
}
