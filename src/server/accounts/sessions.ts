import Bowser from 'bowser';
import type { SessionLine } from '../../core/access/session.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { notFound } from '../problem.ts';
import type { OpenSession } from './service.ts';
import { endOtherSessions, endSession, sessionsOf } from './store.ts';

/** A browser in words, by what it says it is. */
function browserWords(agent: string): string {
  if (agent === '') return 'a browser';
  const { browser, os, platform } = Bowser.parse(agent);
  const where = [os.name, platform.type === 'mobile' ? 'phone' : platform.type === 'tablet' ? 'tablet' : '']
    .filter(Boolean)
    .join(', ');
  return `${browser.name ?? 'a browser'}${where === '' ? '' : ` on ${where}`}`;
}

/** Where somebody is signed in, the one in use last first. */
export async function sessionLines(db: Database, session: OpenSession): Promise<SessionLine[]> {
  const found = await sessionsOf(db, session.actor.id);
  return found.map(({ id, hash, agent, createdMs, seenMs }) => ({
    id,
    browser: browserWords(agent),
    createdMs,
    seenMs,
    here: hash.equals(session.hash),
  }));
}

/** Ends one of one's own sessions: it is signed out at its next press, and its device is pushed to no more. */
export async function endOwnSession(db: Database, session: OpenSession, id: number): Promise<void> {
  const { actor } = session;
  await transact(db, async (trx) => {
    if (!(await endSession(trx, actor.id, id))) throw notFound('session');
    await record(trx, { actorId: actor.id, action: 'end session', subject: 'person', subjectId: actor.id });
  });
}

/** Ends every session of one's own but this one. */
export async function endOtherOwnSessions(db: Database, session: OpenSession): Promise<void> {
  const { actor } = session;
  await transact(db, async (trx) => {
    await endOtherSessions(trx, actor.id, session.hash);
    await record(trx, { actorId: actor.id, action: 'end session', subject: 'person', subjectId: actor.id });
  });
}
