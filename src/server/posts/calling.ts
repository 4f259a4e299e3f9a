import { callsOf, resolveMentions, type Doc } from '../../core/content/document.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { BoardForReader } from '../boards/service.ts';
import { whyNotCalling } from '../boards/callable.ts';
import type { Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { namesOfPeople } from '../people/store.ts';
import { Problem } from '../problem.ts';

/**
 * Resolves whom a text calls on: each name as it is in the directory, whatever the text said it was. Calling on everybody
 * needs the right to; a whole group is called only where it is there for that, or by those who may send to it. Who is called is told when the text is up.
 */
export async function resolveCalls(
  db: Database,
  actor: Actor,
  board: BoardForReader,
  doc: Doc,
): Promise<Doc> {
  const { mentions } = callsOf([doc]);
  if (mentions.length === 0) return doc;
  const [names, now] = await Promise.all([
    namesOfPeople(
      db,
      mentions.filter((each) => each.kind === 'person').map((each) => each.id),
    ),
    audienceContext(db),
  ]);
  return resolveMentions(doc, (mention) => {
    const why = whyNotCalling(actor, [board], mention, now.groups);
    if (why !== null) throw new Problem(403, why);
    switch (mention.kind) {
      case 'person': {
        const name = names.get(mention.id);
        return name === undefined ? null : { ...mention, label: name };
      }
      case 'everybody':
        return { kind: 'everybody', id: board.id, label: `everybody on ${board.name}` };
      case 'group': {
        const group = now.groups.get(mention.id);
        return group ? { ...mention, label: group.name } : null;
      }
    }
  });
}
