import { requireLookingAfterPeople } from '../accounts/require.ts';
import { writeCard } from '../../core/imports/cards.ts';
import type { Known } from '../../core/imports/comparing.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { csvStream } from '../http/csvStream.ts';
import { everybodyKnown } from '../imports/store.ts';
import { kindsOfPeople, organisation } from './store.ts';

/** Everybody who is here, page by page: no linked contacts, and none who have left. */
async function* present(db: Database): AsyncGenerator<Known[]> {
  for await (const page of everybodyKnown(db)) yield page.filter((known) => !known.left && !known.contact);
}

/** The directory as a CSV that can be imported again. */
export async function peopleCsv(db: Database, actor: Actor): Promise<ReadableStream<Uint8Array>> {
  requireLookingAfterPeople(actor);
  const attributes = (await kindsOfPeople(db)).attributes.map(({ name }) => name);
  async function* lines(): AsyncGenerator<string[][]> {
    for await (const page of present(db))
      yield page.map((known) => [
        known.name,
        known.sortName,
        known.greeting,
        known.mail ?? '',
        known.station ?? '',
        known.occupation,
        known.zone,
        known.joinedOn,
        known.guestUntil ?? '',
        ...attributes.map((name) => known.attributes[name] ?? ''),
      ]);
  }
  return csvStream(
    [
      'Name',
      'Name to sort by',
      'How to greet them',
      'Mail',
      'Station',
      'Occupation',
      'Time zone',
      'Joined on',
      'Guest until',
      ...attributes,
    ],
    lines(),
  );
}

/**
 * The directory as vCards 4.0 (RFC 6350).
 *
 * @param origin the address of this Clear Bell, by which a card is told from those of another
 */
export async function peopleCards(
  db: Database,
  actor: Actor,
  origin: string,
): Promise<ReadableStream<Uint8Array>> {
  requireLookingAfterPeople(actor);
  const name = (await organisation(db))?.name ?? '';
  const pages = present(db);
  const encoder = new TextEncoder();
  return new ReadableStream({
    async pull(controller) {
      const page = await pages.next();
      if (page.done) {
        controller.close();
        return;
      }
      const cards = page.value.map((known) =>
        writeCard({
          uid: `${origin}/person/${known.id}`,
          name: known.name,
          sortName: known.sortName,
          greeting: known.greeting,
          mail: known.mail,
          organisation: name,
          station: known.station ?? '',
          occupation: known.occupation,
          zone: known.zone,
        }),
      );
      if (cards.length > 0) controller.enqueue(encoder.encode(cards.join('')));
    },
  });
}
