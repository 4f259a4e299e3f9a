import {
  groupOf,
  hookOf,
  listensToAsks,
  sheetOf,
  type Automation,
} from '../../core/automation/automation.ts';
import { automationProblems } from '../../core/automation/problems.ts';
import type { Audience } from '../../core/audience/expression.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import type { Problem as Fault } from '../../core/content/announcement.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { attributeKey } from '../../core/people/kinds.ts';
import { list } from '../../core/words.ts';
import { outsidePlaces } from '../gateways/outStore.ts';
import { ruleOf } from '../gateways/places.ts';
import { boardsFor } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { hookInById } from '../gateways/inStore.ts';
import { groupsToClear } from '../sends/clearance.ts';
import { mayRead, UNSEEN_SHEET } from '../sheets/rights.ts';
import { attributeForms } from '../people/kindsStore.ts';
import { sheetById } from '../sheets/store.ts';
import { whyNotCalled } from './calling.ts';
import { fieldsFor } from './fields.ts';
import { mayKnowSession } from './sessionDates.ts';

/** Whom an automation may reach at most, so that it can be told beforehand whether its owner may. */
function mostReached({ when, tell }: Automation): Audience | null {
  if (tell.to?.kind === 'audience') return tell.to.audience;
  const groupId = groupOf(when);
  if (tell.to?.kind === 'person' && groupId !== null) return { kind: 'group', id: groupId };
  return null;
}

const holdsDates = async (db: Database, attribute: string): Promise<boolean> =>
  (await attributeForms(db)).get(attributeKey(attribute))?.kind === 'date';

/** What keeps an automation from listening to what it listens to. */
async function whenProblems(
  db: Database,
  actor: Actor,
  { when }: Automation,
  now: AudienceContext,
): Promise<Fault[]> {
  const problems: Fault[] = [];
  const add = (detail: string): unknown => problems.push({ field: 'when', detail });
  const groupId = groupOf(when);
  if (groupId !== null && !now.groups.has(groupId))
    add('The group it listens to is not there any more. Choose another.');
  if (when.kind === 'person date' && when.of && !(await holdsDates(db, when.of.name)))
    add(`No attribute of people is called “${when.of.name}” and holds dates any more. Choose another.`);
  if (when.kind === 'session' && !(await mayKnowSession(db, actor, when.sessionId)))
    add('The session it goes by is not there any more, or not for you. Choose another.');
  if (listensToAsks(when) && when.whose === 'all' && actor.role !== 'coordinator')
    add('Only a coordinator may have it listen to what others ask. Choose your own asks.');
  const hookId = hookOf(when);
  if (hookId !== null && !(await hookInById(db, hookId)))
    add('The way in it listens to is not there any more. Choose another.');
  const sheetId = sheetOf(when);
  const sheet = sheetId === null ? undefined : await sheetById(db, sheetId);
  if (sheetId !== null && !sheet) add('The record sheet it reads is not there any more. Choose another.');
  if (sheet && !(await mayRead(db, actor, sheet.id))) add(UNSEEN_SHEET);
  if (when.kind === 'sent in' && sheet && sheet.form === null)
    add(`${sheet.name} has no form yet. Give it one first.`);
  return problems;
}

/** What keeps an automation from being put to work, as it is written and as rights stand. */
export async function publishProblems(
  db: Database,
  actor: Actor,
  automation: Automation,
  writtenBy: number,
): Promise<Fault[]> {
  const [{ fields }, now, all] = await Promise.all([
    fieldsFor(db, automation),
    audienceContext(db),
    boardsFor(db, actor),
  ]);
  const problems = automationProblems(automation, fields);
  const { tell } = automation;
  problems.push(...(await whenProblems(db, actor, automation, now)));
  const named = [...tell.boards, ...(tell.otherwise?.boards ?? [])];
  const boards = all.filter((board) => named.includes(board.id));
  if (boards.length < new Set(named).size)
    problems.push({ field: 'tell', detail: 'A board it goes up on is not there any more. Choose another.' });
  const barred = whyNotCalled(
    { owner: actor, now, boards: new Map(boards.map((board) => [board.id, board])) },
    named,
    automation.content,
  );
  if (barred !== null) problems.push({ field: 'content', detail: barred });
  const places = (await outsidePlaces(db)).filter(({ id }) => tell.outside.includes(id));
  if (places.length < new Set(tell.outside).size)
    problems.push({
      field: 'tell',
      detail: 'An outside place it travels to is not there any more. Choose another.',
    });
  for (const audience of [mostReached(automation), tell.otherwise?.audience ?? null]) {
    const decision = decide(actor, {
      kind: 'address',
      audience,
      boards: boards.map((board) => board.rules),
      outside: places.map(({ hook }) => ruleOf(hook)),
      recurs: true,
    });
    if (decision.outcome === 'denied' && !problems.some((each) => each.detail === decision.reason))
      problems.push({ field: 'tell', detail: decision.reason });
  }
  const clearance = await groupsToClear(db, mostReached(automation), boards, now);
  if (clearance.length > 0 && writtenBy === actor.id)
    problems.push({
      field: 'tell',
      detail: `${list(clearance, 'and')} ${clearance.length === 1 ? 'asks' : 'ask'} for a second person’s clearance. Let somebody else look at it and publish it.`,
    });
  return problems;
}
