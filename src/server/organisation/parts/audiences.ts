import { audienceSchema } from '../../../core/audience/expression.ts';
import { freeName, sameName } from '../../../core/organisation/parts.ts';
import { saveAudience } from '../../saved-audiences/service.ts';
import { savedAudiences } from '../../saved-audiences/store.ts';
import { partOf, readAs, readAudienceOf, type Bringing, type FoundPart } from './bringing.ts';

/** The kept audiences of an archive beside those here. */
export async function audienceParts(by: Bringing): Promise<FoundPart[]> {
  const here = new Map((await savedAudiences(by.db)).map((each) => [sameName(each.name), each]));
  return (await by.contents.all('saved_audiences')).map(({ id, name, expression }) => {
    const audience = readAudienceOf(expression);
    const { document, needs, why } = by.resolving.resolve(audience);
    const mine = here.get(sameName(name));
    const same =
      mine &&
      document !== null &&
      JSON.stringify(readAs(audienceSchema, document)) === JSON.stringify(mine.audience);
    const beside = freeName(name, (tried) => here.has(sameName(tried)), 120);
    return partOf('audience', id, {
      name,
      state: why.length > 0 ? 'clash' : mine ? (same ? 'same' : 'clash') : 'new',
      says: [],
      why: [
        ...why,
        ...(mine && !same && why.length === 0 ? ['One of this name says something else here.'] : []),
      ],
      needs,
      beside: mine && !same && why.length === 0 ? beside : null,
      bring: async (now) => {
        const called = mine ? beside : name;
        const saved = await saveAudience(now.db, now.actor, {
          name: called,
          audience: readAs(audienceSchema, now.resolving.resolve(audience).document),
        });
        const made = saved.find((each) => each.name === called);
        return { id: made?.id ?? 0, name: called, path: '/write' };
      },
    });
  });
}
