import { change, type Database } from '../server/database/connection.ts';
import { bringIn } from '../server/followed/reading.ts';
import { insertFollowed } from '../server/followed/store.ts';
import { AS_PLANNED, siteCalendar } from '../standins/conditions/calendar.ts';
import type { DemoPeople } from './people.ts';

const SITES = 'The collecting sites';

/** A calendar elsewhere that the demo follows, with what it says when all is as planned. */
export async function layFollowed(
  db: Database,
  people: DemoPeople,
  groups: ReadonlyMap<string, number>,
): Promise<void> {
  const id = await insertFollowed(db, {
    name: SITES,
    url: 'http://localhost/calendar.ics',
    everyMinutes: 5,
    audience: { kind: 'group', id: groups.get('Field collectors on the road') ?? 0 },
    remindMinutes: 1440,
    madeBy: people.byMail('maud'),
  });
  await bringIn(db, id, { text: siteCalendar(AS_PLANNED), etag: null, modified: null }, true);
}

/** Tells the demo where the stand-in answers this time. */
export async function placeSiteCalendar(db: Database, origin: string): Promise<void> {
  await change(db, 'UPDATE followed_calendars SET url = ? WHERE name = ?', [`${origin}/calendar.ics`, SITES]);
}
