import type { LinkPreview } from '../../core/boards/board.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { ownPath } from '../links/own.ts';
import { announcementsAt, answersAt, boardsAt, postsAt, seriesAt, type Previewed } from './store.ts';

const PATTERN = /^\/(boards|posts|for-me|shelf|issues)\/([1-9]\d{0,14})\/?$/;
type Place = 'boards' | 'posts' | 'for-me' | 'shelf' | 'issues';

/**
 * What the links of some texts lead to, by their address: only pages of this application, and only what this person
 * may see. A link to anything else stays a link.
 */
export async function previewsFor(
  db: Database,
  actor: Actor,
  hrefs: readonly string[],
): Promise<Map<string, LinkPreview>> {
  const wanted = new Map<Place, Map<number, string[]>>();
  for (const href of new Set(hrefs)) {
    const match = PATTERN.exec(ownPath(href) ?? '');
    if (!match) continue;
    const place = match[1] as Place;
    const id = Number(match[2]);
    const ids = wanted.get(place) ?? new Map<number, string[]>();
    ids.set(id, [...(ids.get(id) ?? []), href]);
    wanted.set(place, ids);
  }
  const previews = new Map<string, LinkPreview>();
  if (wanted.size === 0) return previews;
  const READ: Record<Place, (ids: number[]) => Promise<Previewed[]>> = {
    boards: (ids) => boardsAt(db, actor, ids),
    posts: (ids) => postsAt(db, actor, ids),
    'for-me': (ids) => announcementsAt(db, actor.id, ids),
    shelf: (ids) =>
      decide(actor, { kind: 'see the shelf' }).outcome === 'allowed'
        ? answersAt(db, ids)
        : Promise.resolve([]),
    issues: (ids) => seriesAt(db, actor, ids),
  };
  for (const [place, ids] of wanted)
    for (const found of await READ[place]([...ids.keys()].slice(0, 40)))
      for (const href of ids.get(found.id) ?? [])
        previews.set(href, {
          path: `/${place}/${found.id}`,
          title: found.title,
          detail: found.detail,
        });
  return previews;
}
