import type { Content, Problem } from '../../core/content/announcement.ts';
import type { PlaceChoice } from '../../core/gateways/hookOut.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { reasonOf } from '../aside/store.ts';
import type { Database } from '../database/connection.ts';
import { outsidePlaces, type HookOutRow } from './outStore.ts';
import { draftBody } from './travelling.ts';

/** The outside places announcements may travel to, by name, and where somebody may not send, why. */
export async function placeChoices(db: Database, actor: Actor): Promise<PlaceChoice[]> {
  return (await outsidePlaces(db)).map(({ id, hook }) => {
    const decision = decide(actor, {
      kind: 'address',
      audience: null,
      boards: [],
      outside: [ruleOf(hook)],
    });
    return { id, name: hook.name, denied: decision.outcome === 'denied' ? decision.reason : null };
  });
}

/** Who may send to an outside place, as rights see it. */
export const ruleOf = ({ name, place }: HookOutRow['hook']): { name: string; editors: boolean } => ({
  name,
  editors: place?.editors ?? false,
});

/** What is to be known of outside places that are handed nothing at present. */
export const placeWarnings = (places: readonly HookOutRow[]): Problem[] =>
  places.flatMap(({ hook: { name }, state }) =>
    state === 'on'
      ? []
      : [
          {
            field: 'outside',
            detail:
              state === 'off'
                ? `${name} is switched off under Gateways: it gets nothing of this.`
                : `${name} has paused: it gets this once its way out is switched on again.`,
          },
        ],
  );

/** What an outside place would be handed of a draft, or why that cannot be written. */
export interface DraftBody {
  name: string;
  body: string | null;
  problem: string | null;
}

/** What each of some outside places would be handed of a draft. */
export async function draftBodies(
  db: Database,
  placeIds: readonly number[],
  draft: { content: Content; author: string; dueMs: number },
  publicUrl: string,
): Promise<DraftBody[]> {
  if (placeIds.length === 0) return [];
  const chosen = (await outsidePlaces(db)).filter(({ id }) => placeIds.includes(id));
  return Promise.all(
    chosen.map(async ({ hook: { name, place } }): Promise<DraftBody> => {
      try {
        return {
          name,
          body: await draftBody(db, place?.template ?? 'null', draft, publicUrl),
          problem: null,
        };
      } catch (error) {
        return { name, body: null, problem: `It could not be written: ${reasonOf(error)}` };
      }
    }),
  );
}
