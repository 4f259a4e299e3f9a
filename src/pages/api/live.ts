import { z } from 'zod';
import { TOPIC } from '../../core/events/topics.ts';
import { decide } from '../../core/rights/decide.ts';
import { requireAskSeen } from '../../server/asks/service.ts';
import { openAnnouncement } from '../../server/announcements/service.ts';
import { requireOwn } from '../../server/automations/service.ts';
import { requireCalendar } from '../../server/calendar/visible.ts';
import { visibleBoard } from '../../server/boards/service.ts';
import { requireGateways, requireHookIn } from '../../server/gateways/inService.ts';
import { requireHookOut } from '../../server/gateways/outService.ts';
import { endpoint } from '../../server/http/endpoint.ts';
import { requireGroupSeen } from '../../server/groups/making.ts';
import { liveStream } from '../../server/http/live.ts';
import { visiblePost } from '../../server/posts/opening.ts';
import { Problem } from '../../server/problem.ts';
import { sendPage } from '../../server/sends/page.ts';

/** A board with thirty posts that each ask for something listens for all of them. */
const MOST_TOPICS = 60;

const topicSchema = z
  .string()
  .regex(TOPIC, 'There is no such topic. Name one such as arrivals, or board:12.');

/** Server-sent events for the topics asked for, each of which the caller must be allowed to see. */
export const GET = endpoint(async ({ db, session, context }) => {
  const wanted = z.array(topicSchema).max(MOST_TOPICS).parse(context.url.searchParams.getAll('topic'));
  for (const topic of wanted) {
    const [kind, id] = topic.split(':');
    if (kind === 'desk' || kind === 'people' || kind === 'automations' || kind === 'sheet') {
      const decision = decide(session.actor, { kind: 'see the desk' });
      if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
    } else if (kind === 'person') {
      if (Number(id) !== session.actor.id) throw new Problem(403, 'That is somebody else.');
    } else if (kind === 'board') await visibleBoard(db, session.actor, Number(id));
    else if (kind === 'post') await visiblePost(db, session.actor, Number(id));
    // Whoever is asked follows the same happenings as whoever asks, and fetches what they may see of them.
    else if (kind === 'roll') await requireAskSeen(db, session.actor, Number(id));
    else if (kind === 'occurrence') await sendPage(db, session.actor, Number(id));
    else if (kind === 'group') await requireGroupSeen(db, session.actor, Number(id));
    else if (kind === 'session') requireCalendar(session.actor);
    else if (kind === 'automation') await requireOwn(db, session.actor, Number(id));
    else if (kind === 'gateways') await requireGateways(db, session.actor);
    else if (kind === 'hook-in') await requireHookIn(db, session.actor, Number(id));
    else if (kind === 'hook-out') await requireHookOut(db, session.actor, Number(id));
    else if (kind === 'draft') await openAnnouncement(db, session.actor, Number(id));
  }
  const age = Number(context.url.searchParams.get('age') ?? 0);
  return liveStream(
    wanted,
    session.hash,
    context.request.signal,
    Number.isFinite(age) ? Math.max(0, age) : 0,
  );
});
