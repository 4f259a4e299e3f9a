import { outcomeWords } from '../../../core/asks/poll/count/outcome.ts';
import type { Poll } from '../../../core/asks/poll/poll.ts';
import { zoneWords } from '../../../core/timing/words.ts';
import type { Database } from '../../database/connection.ts';
import { emit } from '../../events/store.ts';
import { notifyEverybody } from '../../notices/notify.ts';
import { organisation } from '../../people/store.ts';
import { postsOfOccurrence } from '../../posts/occurrencePostStore.ts';
import { insertReply } from '../../replies/store.ts';
import type { Occurrence } from '../../sends/occurrenceStore.ts';
import { tallies, zonesOnRoll } from '../store.ts';
import { pollOptions } from './ballotStore.ts';
import { outcomeShown } from './outcome.ts';

/** Posts what came of a poll: as a reply under its posts on boards, and as a notice to those who were asked. */
export async function postOutcome(trx: Database, occurrence: Occurrence, poll: Poll): Promise<void> {
  const { id } = occurrence;
  const [options, counted, home] = await Promise.all([
    pollOptions(trx, id, poll),
    tallies(trx, [id]),
    organisation(trx),
  ]);
  const asked = counted.get(id)?.asked ?? 0;
  const { outcome, hidden } = await outcomeShown(trx, id, poll, options, { closed: true, asked });
  const homeZone = home?.zone ?? 'UTC';
  const wordsIn = (zone: string): string =>
    outcome ? outcomeWords(poll, options, outcome, asked, zone) : (hidden ?? 'There is no result to show.');
  // On a board it is read on every clock, so the one it is told on is named.
  const named = poll.kind === 'dates' && outcome ? ` Times are those of ${zoneWords(homeZone)}.` : '';
  const text = `The poll “${poll.question.trim()}” has closed. ${wordsIn(homeZone)}${named}`;
  const document = {
    type: 'doc' as const,
    content: [{ type: 'paragraph' as const, content: [{ type: 'text' as const, text }] }],
  };
  for (const post of await postsOfOccurrence(trx, id)) {
    const reply = await insertReply(trx, {
      postId: post.id,
      authorId: occurrence.createdBy,
      document,
      files: [],
      key: `outcome-${id}-${post.id}`,
    });
    // A post that was taken down or takes no replies any more has the outcome in its box alone.
    if (reply === undefined) continue;
    await emit(trx, 'reply.recorded', { reply, post: post.id, board: post.boardId });
  }
  // A notice is read by one person, so dates in it are on that person's clock.
  const zones = poll.kind === 'dates' ? await zonesOnRoll(trx, id) : [null];
  for (const zone of zones)
    await notifyEverybody(
      trx,
      {
        sql: `p.id IN (SELECT r.person_id FROM roll r WHERE r.occurrence_id = ?)${zone === null ? '' : ' AND p.zone = ?'}`,
        bindings: zone === null ? [id] : [id, zone],
      },
      {
        kind: 'outcome',
        title: `The poll has closed: ${poll.question.trim()}`,
        text: wordsIn(zone ?? homeZone),
        path: `/for-me/${id}`,
        why: 'You were asked in this poll.',
        dedupeKey: `outcome:${id}`,
      },
    );
}
