import type { When } from '../../core/automation/automation.ts';
import type { Row } from '../../core/automation/items.ts';
import { greetingOf } from '../../core/people/names.ts';
import { dateAt, dayAfter } from '../../core/timing/wallTime.ts';
import type { Around } from './around.ts';

/** The people an automation is about as rows with what is known of each; who has left is left out, unless it is about that. */
export async function personRows(
  around: Around,
  people: readonly number[],
  group: string,
  when: When,
  atMs: number,
): Promise<Row[]> {
  const found: Row[] = [];
  for (const person of await Promise.all(people.map((id) => around.person(id)))) {
    // Of somebody who has left others can still be told that they went.
    if (!person || (person.standing === 'left' && when.kind !== 'leaves')) continue;
    const values = new Map([
      ['person.name', person.name],
      ['person.first name', greetingOf(person)],
      ['person.station', person.stationName ?? ''],
      ['person.occupation', person.occupation],
      ['person.group', group],
    ]);
    if (when.kind === 'person date') {
      const day = dayAfter(dateAt(atMs, person.zone), -when.span);
      const date = when.of ? await around.dateOf(person.id, when.of.name) : person.joinedOn;
      // It was taken out meanwhile: there is nothing to say of it.
      if (date === undefined) continue;
      values.set(when.of ? 'person.date' : 'person.joined', date);
      values.set('person.years', String(Number(day.slice(0, 4)) - Number(date.slice(0, 4))));
    }
    found.push({ id: person.id, values });
  }
  return found;
}
