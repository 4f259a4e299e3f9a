import { isAboutPerson, type Automation } from '../../core/automation/automation.ts';
import {
  callsIn,
  NOBODY_CALLED,
  tellsNoOther,
  type Call,
  type Called,
  type Mention,
} from '../../core/automation/calls.ts';
import type { Item } from '../../core/automation/items.ts';
import { callsOf, resolveMentions, type Doc } from '../../core/content/document.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { whyNotCalling } from '../boards/callable.ts';
import type { BoardForReader } from '../boards/service.ts';
import type { Reaching, Where } from './where.ts';

type Content = Automation['content'];

interface CalledOn {
  mentions: Mention[];
  calls: ReadonlySet<Call>;
}

/** Whom some content calls on: a replay asks for each of a hundred thousand causes. */
const read = new WeakMap<Content, CalledOn>();

function calledOn(content: Content): CalledOn {
  const known = read.get(content);
  if (known) return known;
  const docs: Doc[] = content.sections.map(({ document }) => document);
  const found = { mentions: callsOf(docs).mentions, calls: callsIn(docs) };
  read.set(content, found);
  return found;
}

/**
 * What an automation says with everybody and every group it names called as they are called now; whoever has left, and a group
 * that is gone, stands as plain words.
 */
export async function withCalled(around: Pick<Reaching, 'read' | 'now'>, content: Content): Promise<Content> {
  const { mentions } = calledOn(content);
  if (mentions.length === 0) return content;
  const ids = mentions.flatMap((each) => (each.kind === 'person' ? [each.id] : []));
  const people = new Map(
    await Promise.all(ids.map(async (id) => [id, await around.read.nameOf(id)] as const)),
  );
  const asNow = (mention: Mention): Mention | null => {
    if (mention.kind === 'everybody') return mention;
    const name = mention.kind === 'person' ? people.get(mention.id) : around.now.groups.get(mention.id)?.name;
    return name === undefined ? null : { ...mention, label: name };
  };
  return {
    ...content,
    sections: content.sections.map((section) => ({
      ...section,
      document: resolveMentions(section.document, asNow),
    })),
  };
}

/** Whom the calls of an automation mean, of something it says somewhere. */
export async function calledIn(
  around: Pick<Reaching, 'read' | 'automation' | 'boards'>,
  content: Content,
  item: Item,
  { personId, boards }: Where,
): Promise<Called> {
  if (calledOn(content).calls.size === 0) return NOBODY_CALLED;
  const { when, tell } = around.automation;
  const about = isAboutPerson(when) && tellsNoOther(tell) ? (item.rows[0]?.id ?? null) : null;
  const id = personId ?? about;
  const name = id === null ? undefined : await around.read.nameOf(id);
  return {
    'mention.person': id === null || name === undefined ? [] : [{ kind: 'person', id, label: name }],
    'mention.everybody': boards.flatMap((board): Mention[] => {
      const on = around.boards.get(board)?.name;
      return on === undefined ? [] : [{ kind: 'everybody', id: board, label: `everybody on ${on}` }];
    }),
  };
}

/**
 * Why somebody may not call on all of those a text calls on, on the boards it goes up on, as their rights are now; null where
 * they may. Where it goes up on no board nobody is called besides those it tells.
 */
export function whyNotCalled(
  { owner, now, boards }: { owner: Actor; now: AudienceContext; boards: ReadonlyMap<number, BoardForReader> },
  on: readonly number[],
  content: Content,
): string | null {
  const { mentions, calls } = calledOn(content);
  const everybody = calls.has('mention.everybody') ? [{ kind: 'everybody' as const, id: 0 }] : [];
  if (mentions.length + everybody.length === 0) return null;
  const among = on.flatMap((id) => boards.get(id) ?? []);
  return (
    [...mentions, ...everybody]
      .map((mention) => whyNotCalling(owner, among, mention, now.groups))
      .find((why) => why !== null) ?? null
  );
}
