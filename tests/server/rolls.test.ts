import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { EMPTY_POLL, type Poll } from '../../src/core/asks/poll/poll.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import type { Session } from '../../src/server/accounts/service.ts';
import { answer } from '../../src/server/asks/answering.ts';
import { printedRoll } from '../../src/server/asks/printed.ts';
import { ballotsCsv, ballotsPage } from '../../src/server/asks/results.ts';
import { acknowledge, closeByHand } from '../../src/server/asks/service.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { appointOwner } from '../../src/server/groups/service.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  coordinator,
  freshDatabase,
  refusal,
  SECRET,
  sendNow,
  toGroups,
} from './world.ts';

let db: Database;
let voters: number[];
let group: number;
const session: Session = { actor: coordinator, name: 'Maud', zone: 'Europe/London', owns: false };
const member = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });

beforeAll(async () => {
  ({ db } = await freshDatabase('rolls'));
  voters = await addPeople(db, 60);
  group = await addGroup(db, 'Voters', voters);
});
afterAll(() => db.destroy());

/** Asks all of the group in a poll, and has each of them but the last ten vote. */
async function voted(part: Partial<Poll>): Promise<number> {
  const ask = {
    kind: 'poll' as const,
    deadline: null,
    within: null,
    chase: null,
    joiners: false,
    poll: {
      ...EMPTY_POLL,
      question: 'Tea, or "coffee"?',
      options: ['Tea, black', '=1+1'].map((label) => ({ label, at: null })),
      ...part,
    },
  };
  const id = await sendNow(db, { audience: toGroups([group]), ask });
  await expandNow(db, id);
  await Promise.all(
    voters.map((person, at) => answer(db, SECRET, person, id, { choices: [at % 3 === 0 ? 2 : 1] }, 'page')),
  );
  return id;
}
const csvOf = async (stream: ReadableStream<Uint8Array>): Promise<string[]> =>
  (await new Response(stream).text())
    .replace(/^\uFEFF/, '')
    .trim()
    .split('\r\n');

describe('who chose what', () => {
  it('in a named poll is read page by page in order of their names, none twice and none left out, and saved as it is', async () => {
    const id = await voted({});
    const first = await ballotsPage(db, session, id, null);
    expect([first.ballots.length, first.next === null]).toEqual([50, false]);
    const second = await ballotsPage(db, session, id, first.next);
    expect([second.ballots.length, second.next]).toEqual([10, null]);
    const all = [...first.ballots, ...second.ballots];
    expect(all.map(({ personId }) => personId)).toEqual([...voters].sort((a, b) => a - b));
    expect(all[0]?.words).toBe('=1+1');
    expect(all[1]?.words).toBe('Tea, black');
    const [heading, ...lines] = await csvOf(await ballotsCsv(db, session, id));
    expect(heading).toBe('Name,Station,"Tea, or ""coffee""?"');
    expect(lines).toHaveLength(60);
    // A spreadsheet would work out what begins like a sum.
    expect(lines[0]).toMatch(/,"'=1\+1"$/);
    expect(lines[1]).toMatch(/,"Tea, black"$/);
  });

  it('is not for whoever looks after a group of it, nor for those who were asked, nor of what is no poll', async () => {
    const id = await voted({});
    await appointOwner(db, coordinator, group, voters[0]!, true);
    const asSeenBy = (at: number) => ballotsPage(db, { ...session, actor: member(voters[at]!) }, id, null);
    expect((await refusal(asSeenBy(0))).message).toBe('What was voted is seen by whoever asked.');
    expect((await refusal(asSeenBy(1))).status).toBe(404);
    const read = await sendNow(db, { audience: toGroups([group]), ask: acknowledgement() });
    await expandNow(db, read);
    expect((await refusal(ballotsPage(db, session, read, null))).message).toBe('It is no poll.');
  });

  it('without names is said by nobody; how many chose what is saved once it has closed', async () => {
    const id = await voted({ anonymous: true });
    expect((await refusal(ballotsPage(db, session, id, null))).message).toMatch(/nobody sees who chose what/);
    expect((await refusal(ballotsCsv(db, session, id))).status).toBe(409);
    await closeByHand(db, coordinator, id);
    expect(await csvOf(await ballotsCsv(db, session, id))).toEqual([
      '"Tea, or ""coffee""?",Votes',
      '"Tea, black",40',
      `"'=1+1",20`,
    ]);
  });
});

describe('a roll for paper', () => {
  it('has some thousands by name with who has answered, and says how many more there are', async () => {
    const many = await addPeople(db, 3_010);
    const all = await addGroup(db, 'Many', many);
    const id = await sendNow(db, { audience: toGroups([all]), ask: acknowledgement(), mail: false });
    await expandNow(db, id);
    await acknowledge(db, many[2]!, id, 'page');
    const { people, more } = await printedRoll(db, coordinator, id);
    expect([people.length, more]).toEqual([3_000, 10]);
    expect(people.filter(({ answered }) => answered)).toHaveLength(1);
    expect((await refusal(printedRoll(db, member(many[0]!), id))).status).toBe(404);
  });
});
