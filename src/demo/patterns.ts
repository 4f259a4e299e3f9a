import type { Actor } from '../core/rights/decide.ts';
import { actorOf } from '../server/accounts/actor.ts';
import type { Database } from '../server/database/connection.ts';
import { keepPattern, lookAtPlace } from '../server/patterns/keeping.ts';
import type { DemoPeople } from './people.ts';

/** What the network sets up again and again, kept from places that are set up well. */
export async function layPatterns(
  db: Database,
  people: DemoPeople,
  boards: ReadonlyMap<string, number>,
): Promise<void> {
  const maud = await actorOf(db, people.byMail('maud'));
  if (!maud) throw new Error('The demo has no coordinator');
  await keep(db, maud, boards.get('Sant Elm') ?? 0, {
    name: 'A station',
    about: 'What every station begins with: its people, its board, and a welcome to whoever joins.',
    called: 'Sant Elm',
  });
  await keep(db, maud, boards.get('Catalogue working party') ?? 0, {
    name: 'A working party',
    about: 'A few people with one task: picked by hand, a board where posts are looked at first.',
    called: 'Catalogue working party',
  });
}

async function keep(
  db: Database,
  actor: Actor,
  boardId: number,
  said: { name: string; about: string; called: string },
): Promise<void> {
  const look = await lookAtPlace(db, actor, boardId);
  await keepPattern(db, actor, {
    ...said,
    boardId,
    parts: look.parts.filter(({ kept }) => kept).map(({ key }) => key),
    blanks: look.blanks.filter(({ asked }) => asked).map(({ key }) => key),
  });
}
