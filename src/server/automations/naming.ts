import type { Audience } from '../../core/audience/expression.ts';
import type { Automation } from '../../core/automation/automation.ts';
import type { AutomationNames } from '../../core/automation/words.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { boardsSeenBy } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';
import { allHooksIn } from '../gateways/inStore.ts';
import { outsidePlaces } from '../gateways/outStore.ts';
import { allSheets } from '../sheets/store.ts';
import { allSources } from '../sources/store.ts';
import { allSenders } from '../senders/store.ts';
import { sessionTitles } from '../calendar/store.ts';

const audiencesOf = ({ tell }: Automation): (Audience | null)[] => [
  tell.to?.kind === 'audience' ? tell.to.audience : null,
  tell.otherwise?.audience ?? null,
];

/** The names some automations are read with. */
export async function readingNames(
  db: Database,
  actor: Actor,
  automations: readonly Automation[],
): Promise<AutomationNames> {
  const now = await audienceContext(db);
  const [names, boards, sheets, senders, sources, hooks, places, sessions] = await Promise.all([
    audienceNames(db, now, automations.flatMap(audiencesOf)),
    boardsSeenBy(db, actor),
    allSheets(db),
    allSenders(db),
    allSources(db),
    allHooksIn(db),
    outsidePlaces(db),
    sessionTitles(
      db,
      automations.flatMap(({ when }) => (when.kind === 'session' ? [when.sessionId] : [])),
    ),
  ]);
  const by = (list: readonly { id: number; name: string }[]): ((id: number) => string | undefined) => {
    const map = new Map(list.map((each) => [each.id, each.name]));
    return (id) => map.get(id);
  };
  return {
    ...names,
    group: (id) => now.groups.get(id)?.name,
    board: by(boards),
    outside: by(places.map(({ id, hook }) => ({ id, name: hook.name }))),
    sheet: by(sheets),
    sender: by(senders),
    source: by(sources),
    calendarSession: (id) => sessions.get(id),
    hook: by(hooks.map(({ id, hook }) => ({ id, name: hook.name }))),
  };
}
