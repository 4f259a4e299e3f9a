import type { EventDetails } from '../../core/content/event.ts';
import { wallAt } from '../../core/timing/wallTime.ts';
import type { DateRow } from './dateStore.ts';

/** A date of the calendar as the event of an announcement, whose readers say in it whether they come. */
export const eventOfDate = (date: DateRow): EventDetails => ({
  wall: wallAt(date.startMs, date.zone),
  zone: date.zone,
  minutes: date.minutes,
  place: date.place,
  link: date.link,
  signUp: false,
  sessionDateId: date.id,
});
