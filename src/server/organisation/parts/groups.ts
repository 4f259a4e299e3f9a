import { audienceSchema } from '../../../core/audience/expression.ts';
import { GROUP_WAYS, type GroupWays } from '../../../core/groups/group.ts';
import { freeName, sameName } from '../../../core/organisation/parts.ts';
import { count, people } from '../../../core/words.ts';
import { addMembers, alterGroup, makeGroup } from '../../groups/making.ts';
import { emit } from '../../events/store.ts';
import { allGroups } from '../../groups/store.ts';
import { ownersOfGroups, setOwner } from '../../groups/ownerStore.ts';
import { setWaysOfGroup, waysOfGroup } from '../../groups/wayStore.ts';
import type { RowOf } from './archiveParts.ts';
import { partOf, readAs, readAudienceOf, type Bringing, type FoundPart } from './bringing.ts';
import { membersAmong } from './partsStore.ts';

const waysThere = (row: RowOf<'groups'>): GroupWays => ({
  about: row.about,
  needsClearance: row.needs_clearance,
  bundling: row.bundling ?? null,
  joining: row.joining,
  ownerBrings: row.owner_brings,
  callable: row.callable,
});

/** People of the archive by the group they are in or look after. */
export async function byGroup(
  by: Bringing,
  table: 'group_members' | 'group_owners',
): Promise<Map<number, number[]>> {
  const found = new Map<number, number[]>();
  for await (const { group_id, person_id } of by.contents.each(table)) {
    const some = found.get(group_id);
    if (some) some.push(person_id);
    else found.set(group_id, [person_id]);
  }
  return found;
}

const hereOf = (found: readonly number[], there: readonly number[]): string =>
  found.length === there.length
    ? people(there.length)
    : `${found.length.toLocaleString('en-GB')} of its ${people(there.length)}; the others are not here`;

/** The groups of an archive beside those here. People are put in; nobody is taken out. */
export async function groupParts(by: Bringing): Promise<FoundPart[]> {
  const groups = await allGroups(by.db);
  const taken = new Set(groups.map(({ name }) => sameName(name)));
  const [members, owners, ownersHere] = await Promise.all([
    byGroup(by, 'group_members'),
    byGroup(by, 'group_owners'),
    ownersOfGroups(by.db),
  ]);
  const parts: FoundPart[] = [];
  for (const row of await by.contents.all('groups')) {
    if (row.archived_at) continue;
    const { id, name, kind } = row;
    const rule = kind === 'live' ? readAudienceOf(row.rule) : null;
    const { document, needs, why } = by.resolving.resolve(rule);
    const there = members.get(id) ?? [];
    const found = by.resolving.people(there);
    const looking = by.resolving.people(owners.get(id) ?? []);
    const mine = groups.find((group) => sameName(group.name) === sameName(name));
    const ways = waysThere(row);
    const says: string[] = [];
    const against: string[] = [];
    if (!mine) says.push(...(kind === 'fixed' ? [hereOf(found, there)] : ['by its rule']));
    else if (mine.archived) against.push('One of this name is archived here.');
    else if (mine.kind !== kind)
      against.push(
        kind === 'fixed'
          ? 'It is picked by hand there, and by a rule here.'
          : 'It is by a rule there, and picked by hand here.',
      );
    else {
      const now = await waysOfGroup(by.db, mine.id);
      const inIt = kind === 'fixed' ? await membersAmong(by.db, mine.id) : new Set<number>();
      const more = kind === 'fixed' ? found.filter((person) => !inIt.has(person)).length : 0;
      if (more > 0) says.push(`${people(more)} more`);
      if (
        mine.kind === 'live' &&
        (document === null || JSON.stringify(readAs(audienceSchema, document)) !== JSON.stringify(mine.rule))
      )
        says.push('another rule');
      for (const [way, words] of Object.entries(GROUP_WAYS))
        if (now?.[way as keyof GroupWays] !== ways[way as keyof GroupWays]) says.push(words);
      const already = new Set((ownersHere.get(mine.id) ?? []).map((owner) => owner.id));
      const further = looking.filter((person) => !already.has(person)).length;
      if (further > 0) says.push(count(further, 'more who looks after it', 'more who look after it'));
    }
    const beside = freeName(name, (tried) => taken.has(sameName(tried)), 120);
    const clash = why.length > 0 || against.length > 0;
    parts.push(
      partOf('group', id, {
        name,
        state: clash ? 'clash' : !mine ? 'new' : says.length === 0 ? 'same' : 'changed',
        says,
        why: [...why, ...against],
        needs,
        beside: why.length === 0 && mine && (against.length > 0 || says.length > 0) ? beside : null,
        bring: async (now, aside) => {
          const rules = rule && readAs(audienceSchema, now.resolving.resolve(rule).document);
          const called = mine && aside ? beside : name;
          let to = mine?.id ?? 0;
          if (!mine || aside) to = await makeGroup(now.db, now.actor, { name: called, rule: rules });
          else if (rules && mine.kind === 'live' && JSON.stringify(rules) !== JSON.stringify(mine.rule))
            await alterGroup(now.db, now.actor, to, { rule: rules });
          for (let i = 0; kind === 'fixed' && i < found.length; i += 1_000)
            await addMembers(now.db, now.actor, to, { ids: found.slice(i, i + 1_000), lines: [] });
          await setWaysOfGroup(now.db, to, ways);
          for (const person of looking) await setOwner(now.db, to, person, true);
          await emit(now.db, 'group.changed', { group: to });
          return { id: to, name: mine && !aside ? mine.name : called, path: `/groups/${to}` };
        },
      }),
    );
  }
  return parts;
}
