import { freeName, sameName } from '../../../core/organisation/parts.ts';
import { changeSender, makeSender } from '../../senders/service.ts';
import { sendersInUse } from '../../senders/store.ts';
import {
  partOf,
  readPictureOf,
  withoutKeys,
  withUploads,
  type Bringing,
  type FoundPart,
} from './bringing.ts';

/** The named senders of an archive beside those here. */
export async function senderParts(by: Bringing): Promise<FoundPart[]> {
  const here = new Map((await sendersInUse(by.db)).map((sender) => [sameName(sender.name), sender]));
  return (await by.contents.all('senders')).map(({ id, name, picture: stored }) => {
    const picture = readPictureOf(stored);
    const mine = here.get(sameName(name));
    const same = mine && withoutKeys(mine.picture) === withoutKeys(picture);
    return partOf('sender', id, {
      name,
      state: mine ? (same ? 'same' : 'changed') : 'new',
      says: mine
        ? same
          ? []
          : [picture ? 'another picture' : 'no picture']
        : [picture ? 'with its picture' : 'without a picture'],
      why: [],
      needs: [],
      beside: mine && !same ? freeName(name, (tried) => here.has(sameName(tried)), 80) : null,
      bring: async (now, beside) => {
        const shown = await withUploads(now, picture);
        if (mine && !beside) {
          await changeSender(now.db, now.actor, mine.id, { name: mine.name, picture: shown });
          return { id: mine.id, name: mine.name, path: '/gateways' };
        }
        const called = mine ? freeName(name, (tried) => here.has(sameName(tried)), 80) : name;
        const made = await makeSender(now.db, now.actor, { name: called, picture: shown });
        return { id: made.id, name: called, path: '/gateways' };
      },
    });
  });
}
