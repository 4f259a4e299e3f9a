import { change, rows, type Database } from '../database/connection.ts';
import { callOffPlaces } from '../gateways/placeStore.ts';
import { anythingWent } from './occurrenceStore.ts';
import { deleteChases } from './chaseStore.ts';
import { mayMove, moved } from './stateStore.ts';
import { SEND_OR_ITS_CHASES } from './store.ts';

/**
 * Takes back what of an occurrence has not gone: its buckets, and the mail, copies and inbox deliveries that wait. Nothing
 * where all of it has gone.
 */
export async function recallOccurrence(
  db: Database,
  occurrenceId: number,
): Promise<'all of it' | 'the rest of it' | 'nothing'> {
  const buckets = await change(
    db,
    "UPDATE buckets SET state = 'recalled' WHERE occurrence_id = ? AND state IN ('planned', 'held')",
    [occurrenceId],
  );
  const waiting = await change(
    db,
    `UPDATE deliveries SET state = 'called off', try_at = NULL, reason = NULL
     WHERE occurrence_id = ? AND state IN ('waiting', 'resting')`,
    [occurrenceId],
  );
  const placesWaiting = await callOffPlaces(db, occurrenceId);
  const expanding = await rows(
    db,
    "SELECT 1 FROM buckets WHERE occurrence_id = ? AND state = 'expanding' LIMIT 1",
    [occurrenceId],
  );
  const onTheWire = await rows(
    db,
    "SELECT 1 FROM deliveries WHERE occurrence_id = ? AND state = 'sending' LIMIT 1",
    [occurrenceId],
  );
  const gone = await anythingWent(db, occurrenceId);
  // What an engine is writing at this moment, and nothing of which is there yet, is too late to be taken back. What is
  // on the wire may yet come back refused, and then goes no more.
  if (
    buckets === 0 &&
    waiting + placesWaiting === 0 &&
    onTheWire.length === 0 &&
    !(expanding.length > 0 && gone)
  )
    return 'nothing';
  // What is on the wire or being written at this moment is held against this when it comes to its turn.
  await change(db, 'UPDATE occurrences SET taken_back_at = NOW(3) WHERE id = ?', [occurrenceId]);
  if (gone || expanding.length > 0) return 'the rest of it';
  await change(
    db,
    `UPDATE occurrences o SET o.state = ${moved('recall', 'o')}, o.taken_back_at = NULL WHERE o.id = ? AND ${mayMove('recall', 'o')}`,
    [occurrenceId],
  );
  return 'all of it';
}

/** Forgets the occurrences of a recurring send that have not begun and stand where its rule put them. */
export async function deletePlanned(db: Database, sendId: number): Promise<number> {
  const untouched = `o.send_id = ? AND o.state = 'scheduled' AND o.recurs_at <> '' AND o.moved_to IS NULL
    AND NOT EXISTS (SELECT 1 FROM buckets x WHERE x.occurrence_id = o.id AND x.state IN ('expanding', 'expanded', 'failed'))`;
  const found = await rows<{ id: number }>(
    db,
    `SELECT o.id FROM occurrences o WHERE ${untouched} FOR UPDATE`,
    [sendId],
  );
  if (found.length === 0) return 0;
  for (const { id } of found) await deleteChases(db, id);
  const ids = found.map((row) => row.id);
  const marks = ids.map(() => '?').join(', ');
  await change(
    db,
    `DELETE FROM buckets WHERE occurrence_id IN (${marks}) AND state IN ('planned', 'held', 'skipped')`,
    ids,
  );
  return change(
    db,
    `DELETE FROM occurrences WHERE id IN (${marks}) AND NOT EXISTS (SELECT 1 FROM buckets b WHERE b.occurrence_id = occurrences.id)`,
    ids,
  );
}

/** Takes back everything of a send and its chases that has not begun, without an end to what has. */
export async function recallPlanned(db: Database, sendId: number, why: string): Promise<void> {
  await change(
    db,
    `UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id JOIN sends s ON s.id = o.send_id SET b.state = 'recalled'
     WHERE ${SEND_OR_ITS_CHASES} AND b.state IN ('planned', 'held')`,
    [sendId, sendId],
  );
  await change(
    db,
    `UPDATE occurrences o JOIN sends s ON s.id = o.send_id SET o.state = ${moved('call off', 'o')}, o.failure = ?
     WHERE ${SEND_OR_ITS_CHASES} AND ${mayMove('call off', 'o')}
       AND NOT EXISTS (SELECT 1 FROM buckets b WHERE b.occurrence_id = o.id AND b.state NOT IN ('recalled', 'skipped'))`,
    [why, sendId, sendId],
  );
}
