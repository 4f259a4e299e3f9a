import { setAttributeForm } from '../server/people/kindsStore.ts';
import type { Role, Standing } from '../core/audience/expression.ts';
import type { Database } from '../server/database/connection.ts';
import { stations as stationRows } from '../server/people/store.ts';
import { PARTICULAR, PLACES } from './names.ts';
import { pick, seeded } from './random.ts';

export const DEMO_DOMAIN = 'thistledown.example';
const DAY_MS = 86_400_000;
const PEOPLE = 240;

interface Made {
  name: string;
  mail: string | null;
  role: Role;
  standing: Standing;
  place: string;
  occupation: string;
  joinedDaysAgo: number;
  mailStopped: boolean;
}

const OCCUPATIONS = [
  'volunteer',
  'volunteer',
  'volunteer',
  'germination technician',
  'germination technician',
  'field collector',
  'field collector',
  'driver',
  'curator',
] as const;

/** The people the sign-in page offers come first, so that they have the same ids at every start. */
const NAMED: Omit<Made, 'joinedDaysAgo' | 'mailStopped' | 'standing'>[] = [
  { name: 'Maud Fenwright', mail: 'maud', role: 'coordinator', place: 'Marrow Fen', occupation: 'curator' },
  {
    name: 'Jago Quillfeather',
    mail: 'jago',
    role: 'coordinator',
    place: 'Marrow Fen',
    occupation: 'curator',
  },
  { name: 'Núria Ferragut', mail: 'nuria', role: 'editor', place: 'Sant Elm', occupation: 'curator' },
  { name: 'Aroha Te Awhina', mail: 'aroha', role: 'editor', place: 'Tarn Hollow', occupation: 'curator' },
  { name: 'Otieno Barasi', mail: 'otieno', role: 'member', place: 'Kestrel Gorge', occupation: 'curator' },
  { name: 'Kailani Mahoe-Lani', mail: 'kailani', role: 'member', place: 'Cinder Bay', occupation: 'curator' },
  {
    name: 'Wren Ashdown',
    mail: 'wren',
    role: 'member',
    place: 'Marrow Fen',
    occupation: 'germination technician',
  },
  {
    name: 'Sarita Thapali',
    mail: 'sarita',
    role: 'member',
    place: 'Oru Terrace',
    occupation: 'field collector',
  },
  { name: 'Keola Palakiko', mail: 'keola', role: 'member', place: 'Cinder Bay', occupation: 'volunteer' },
  { name: 'Marli Saltbrook', mail: 'marli', role: 'member', place: 'Mallee Reach', occupation: 'driver' },
];

function invent(): Made[] {
  const random = seeded(20_260_401);
  const made: Made[] = NAMED.map((person) => ({
    ...person,
    mail: `${person.mail}@${DEMO_DOMAIN}`,
    standing: 'active',
    joinedDaysAgo: 700 + Math.floor(random() * 2000),
    mailStopped: false,
  }));
  const add = (name: string, place: string): void => {
    const i = made.length;
    const roll = random();
    made.push({
      name,
      // A few have no address, and one has an address that no longer exists.
      mail: i % 17 === 5 ? null : i === 30 ? `refused.${i}@${DEMO_DOMAIN}` : `person.${i}@${DEMO_DOMAIN}`,
      role: 'member',
      standing: i % 29 === 3 ? 'left' : i % 23 === 7 ? 'on leave' : 'active',
      place,
      occupation: pick(random, OCCUPATIONS),
      joinedDaysAgo: roll < 0.1 ? Math.floor(random() * 55) + 2 : 70 + Math.floor(random() * 2500),
      mailStopped: i % 41 === 9,
    });
  };
  for (const { name, place } of PARTICULAR) add(name, place);
  while (made.length < PEOPLE) {
    const place = PLACES[made.length % PLACES.length] ?? PLACES[0];
    add(`${pick(random, place.given)} ${pick(random, place.family)}`, place.name);
  }
  // Seven trustees, from here and there.
  made.forEach((person, i) => {
    if (i > 12 && i % 33 === 1) person.occupation = 'trustee';
  });
  return made;
}

export interface DemoPeople {
  stations: Map<string, number>;
  /** Ids of those who have not left, by occupation. */
  idsBy: (occupation: string) => number[];
  all: { id: number; name: string; place: string; left: boolean }[];
  byMail: (local: string) => number;
}

/** Writes stations and people. */
export async function layPeople(db: Database, nowMs: number): Promise<DemoPeople> {
  await db('stations').insert(PLACES.map(({ name, zone }) => ({ name, zone })));
  const rows = await stationRows(db);
  const stations = new Map(rows.map(({ id, name }) => [name, id]));
  const made = invent();
  const zones = new Map(PLACES.map((place) => [place.name, place.zone]));
  await db('people').insert(
    made.map((person, i) => ({
      id: i + 1,
      name: person.name,
      mail: person.mail,
      role: person.role,
      standing: person.standing,
      station_id: stations.get(person.place),
      occupation: person.occupation,
      zone: zones.get(person.place) ?? 'UTC',
      joined_on: new Date(nowMs - person.joinedDaysAgo * DAY_MS).toISOString().slice(0, 10),
      left_at: person.standing === 'left' ? new Date(nowMs - (10 + (i % 40)) * DAY_MS) : null,
      mail_stopped_at: person.mailStopped ? new Date(nowMs - 20 * DAY_MS) : null,
    })),
  );
  const random = seeded(77_001);
  await setAttributeForm(db, null, { name: 'licence', kind: 'choice', choices: ['lorry', 'van'] });
  await db('person_attributes').insert(
    made.flatMap((person, i) => [
      ...(person.occupation === 'driver'
        ? [{ person_id: i + 1, name: 'licence', value: random() < 0.4 ? 'lorry' : 'van' }]
        : []),
      ...(random() < 0.5
        ? [{ person_id: i + 1, name: 'shift', value: random() < 0.5 ? 'early' : 'late' }]
        : []),
    ]),
  );
  // One moved house, and mail to the old address comes back.
  const moved = made.findIndex(
    (person, i) => i > 40 && person.mail !== null && person.standing === 'active' && !person.mailStopped,
  );
  await db('people')
    .where({ id: moved + 1 })
    .update({
      mail_failing: made[moved]?.mail ?? null,
      mail_failing_at: new Date(nowMs - 3 * DAY_MS),
      mail_failing_reason: '550 5.1.1 No such mailbox here',
    });
  // Some like to be left in peace at night; the people the sign-in page offers do not mind.
  const quietOnes = made.flatMap((_, i) => (i > 9 && i % 9 === 2 ? [i + 1] : []));
  await db('people').whereIn('id', quietOnes).update({ quiet_from: '21:00', quiet_to: '07:00' });
  const young = made.flatMap((person, i) =>
    i > 9 && person.occupation === 'volunteer' && person.standing === 'active' && i % 4 === 0 ? [i + 1] : [],
  );
  await db('people').insert(
    young.slice(0, 12).map((id, i) => ({
      id: PEOPLE + 1 + i,
      name: `${made[id - 1]?.name.split(' ')[0] ?? ''}’s ${['mother', 'father', 'guardian'][i % 3]}`,
      mail: i % 6 === 5 ? null : `linked.${i + 1}@${DEMO_DOMAIN}`,
      role: 'member',
      zone: made[id - 1] ? (zones.get(made[id - 1]?.place ?? '') ?? 'UTC') : 'UTC',
      joined_on: new Date(nowMs - 300 * DAY_MS).toISOString().slice(0, 10),
      linked_to: id,
      relation: ['mother', 'father', 'guardian'][i % 3],
    })),
  );
  const all = made.map((person, i) => ({
    id: i + 1,
    name: person.name,
    place: person.place,
    left: person.standing === 'left',
  }));
  return {
    stations,
    all,
    idsBy: (occupation) =>
      all.filter((_, i) => made[i]?.occupation === occupation).map((person) => person.id),
    byMail: (local) => made.findIndex((person) => person.mail === `${local}@${DEMO_DOMAIN}`) + 1,
  };
}
