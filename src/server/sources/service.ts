import type { z } from 'zod';
import {
  addressOf,
  type SourceAnswer,
  type sourceInputSchema,
  type sourceTrialSchema,
} from '../../core/automation/source.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { cellWords } from '../../core/sheets/cell.ts';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import { askForJson, SourceError, valuesOf, type Asking } from './asking.ts';
import { seal, unseal } from '../sealing.ts';
import { changeSource, insertSource, sourceById, type SourceRow } from './store.ts';

/** A source with its secret, which is sealed and never shown again; empty leaves the one there is. */
function requireKeeping(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

/** The secret that is kept for a source, only where it still goes to the origin it was kept for. */
const keptFor = (kept: SourceRow, source: Pick<SourceRow, 'url'>): Buffer | null =>
  new URL(kept.url).origin === new URL(source.url).origin ? kept.sealed : null;

const nameTaken = (error: unknown): never => {
  if (!isDuplicate(error)) throw error;
  throw new Problem(422, 'There is a source of this name already.', {
    errors: [{ field: 'source.name', detail: 'There is a source of this name already. Choose another.' }],
  });
};

export async function addSource(
  db: Database,
  actor: Actor,
  { source, secret }: z.infer<typeof sourceInputSchema>,
  sealWith: string,
): Promise<number> {
  requireKeeping(actor);
  return transact(db, async (trx) => {
    const id = await insertSource(trx, source, secret === '' ? null : seal(sealWith, secret), actor.id);
    await record(trx, { actorId: actor.id, action: 'make', subject: 'source', subjectId: id });
    return id;
  }).catch(nameTaken);
}

export async function alterSource(
  db: Database,
  actor: Actor,
  id: number,
  { source, secret }: z.infer<typeof sourceInputSchema>,
  sealWith: string,
): Promise<void> {
  requireKeeping(actor);
  await transact(db, async (trx) => {
    const kept = await sourceById(trx, id);
    if (!kept) throw notFound('source');
    await changeSource(trx, id, source, secret === '' ? keptFor(kept, source) : seal(sealWith, secret));
    await record(trx, { actorId: actor.id, action: 'change', subject: 'source', subjectId: id });
  }).catch(nameTaken);
}

/** What a source answers to some inputs, and what of it would be used. */
export async function trySource(
  db: Database,
  actor: Actor,
  { source, secret, id, inputs }: z.infer<typeof sourceTrialSchema>,
  asking: Asking,
): Promise<SourceAnswer> {
  requireKeeping(actor);
  const kept = id === null ? undefined : await sourceById(db, id);
  const sealed = kept ? keptFor(kept, source) : null;
  const sent = secret !== '' ? secret : sealed ? unseal(asking.secret, sealed) : '';
  try {
    const answer = await askForJson(
      addressOf(source.url, new Map(Object.entries(inputs))),
      source.header !== '' && sent !== '' ? { [source.header]: sent } : {},
      asking.inside,
    );
    const found = valuesOf(source, answer);
    return {
      answer: JSON.stringify(answer, null, 2).slice(0, 4000),
      values: source.fields.map((field) => ({
        name: field.name,
        value: cellWords({ ...field, choices: [] }, found.get(`found.${field.name}`) ?? '', 'UTC'),
      })),
      problem: null,
    };
  } catch (error) {
    if (error instanceof SourceError) return { answer: '', values: [], problem: error.message };
    throw error;
  }
}
