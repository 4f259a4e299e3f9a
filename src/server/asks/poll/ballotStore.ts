import type { Votes } from '../../../core/asks/poll/ballot.ts';
import { optionsOf, type NumberedOption, type Poll } from '../../../core/asks/poll/poll.ts';
import { change, rows, type Database } from '../../database/connection.ts';

/** A ballot as it is kept. One of a named poll carries its voter; one of an anonymous poll a station at most. */
export interface NewBallot {
  key: Buffer;
  who: { personId: number } | { stationId: number | null };
  choice: string;
}

/** Writes ballots, or changes those whose keys are there. */
export async function castBallots(
  db: Database,
  occurrenceId: number,
  ballots: readonly NewBallot[],
): Promise<void> {
  if (ballots.length === 0) return;
  await change(
    db,
    `INSERT INTO ballots (occurrence_id, ballot_key, person_id, station_id, choice)
     VALUES ${ballots.map(() => '(?, ?, ?, ?, ?)').join(', ')} ON DUPLICATE KEY UPDATE choice = VALUES(choice)`,
    ballots.flatMap(({ key, who, choice }) => [
      occurrenceId,
      key,
      'personId' in who ? who.personId : null,
      'stationId' in who ? who.stationId : null,
      choice,
    ]),
  );
}

/** The ballot under a key, as it is stored. */
export async function ballotByKey(
  db: Database,
  occurrenceId: number,
  key: Buffer,
): Promise<string | undefined> {
  const [row] = await rows<{ choice: string }>(
    db,
    'SELECT choice FROM ballots WHERE occurrence_id = ? AND ballot_key = ?',
    [occurrenceId, key],
  );
  return row?.choice;
}

/** Under which of some keys there is a ballot, each in hexadecimal. */
export async function knownBallots(
  db: Database,
  occurrenceId: number,
  keys: readonly Buffer[],
): Promise<Set<string>> {
  if (keys.length === 0) return new Set();
  const found = await rows<{ key: Buffer }>(
    db,
    `SELECT ballot_key AS \`key\` FROM ballots WHERE occurrence_id = ? AND ballot_key IN (${keys.map(() => '?').join(', ')})`,
    [occurrenceId, ...keys],
  );
  return new Set(found.map(({ key }) => key.toString('hex')));
}

/** The ballots of a poll, equal ones together. */
export function ballotsOf(db: Database, occurrenceId: number): Promise<Votes<string>[]> {
  return rows(
    db,
    'SELECT choice AS vote, COUNT(*) AS n FROM ballots WHERE occurrence_id = ? GROUP BY choice',
    [occurrenceId],
  );
}

/** The same by station: of a named poll where each voter is now, of an anonymous one where they were when they voted. */
export function ballotsByStation(
  db: Database,
  occurrenceId: number,
): Promise<(Votes<string> & { station: string | null })[]> {
  return rows(
    db,
    `SELECT s.name AS station, x.vote, CAST(SUM(x.n) AS SIGNED) AS n FROM (
       SELECT p.station_id, b.choice AS vote, COUNT(*) AS n FROM ballots b JOIN people p ON p.id = b.person_id
       WHERE b.occurrence_id = ? GROUP BY p.station_id, b.choice
       UNION ALL SELECT b.station_id, b.choice, COUNT(*) FROM ballots b
       WHERE b.occurrence_id = ? AND b.person_id IS NULL GROUP BY b.station_id, b.choice) x
     LEFT JOIN stations s ON s.id = x.station_id GROUP BY s.id, s.name, x.vote`,
    [occurrenceId, occurrenceId],
  );
}

/** The stations to note on anonymous ballots: each voter's, where enough were asked there; else none. */
export async function stationsForBallots(
  db: Database,
  occurrenceId: number,
  personIds: readonly number[],
  least: number,
): Promise<Map<number, number>> {
  if (personIds.length === 0) return new Map();
  const voters = await rows<{ id: number; stationId: number }>(
    db,
    `SELECT id, station_id AS stationId FROM people WHERE station_id IS NOT NULL AND id IN (${personIds.map(() => '?').join(', ')})`,
    personIds,
  );
  const stations = [...new Set(voters.map(({ stationId }) => stationId))];
  if (stations.length === 0) return new Map();
  const asked = await rows<{ stationId: number; n: number }>(
    db,
    stations
      .map(
        () =>
          `SELECT ? AS stationId, COUNT(*) AS n FROM (SELECT 1 FROM roll r JOIN people p ON p.id = r.person_id
           WHERE r.occurrence_id = ? AND p.station_id = ? LIMIT ?) some`,
      )
      .join(' UNION ALL '),
    stations.flatMap((stationId) => [stationId, occurrenceId, stationId, least]),
  );
  const enough = new Set(asked.filter(({ n }) => n >= least).map(({ stationId }) => stationId));
  return new Map(
    voters.filter(({ stationId }) => enough.has(stationId)).map(({ id, stationId }) => [id, stationId]),
  );
}

/** A page of the ballots of a named poll with their voters, by name. */
export function namedBallots(
  db: Database,
  occurrenceId: number,
  after: { name: string; id: number } | null,
  most: number,
): Promise<{ personId: number; name: string; station: string | null; choice: string }[]> {
  return rows(
    db,
    `SELECT p.id AS personId, p.shown_name AS name, s.name AS station, b.choice
     FROM ballots b JOIN people p ON p.id = b.person_id LEFT JOIN stations s ON s.id = p.station_id
     WHERE b.occurrence_id = ? AND (? IS NULL OR (p.name, p.id) > ((SELECT q.name FROM people q WHERE q.id = ?), ?)) ORDER BY p.name, p.id LIMIT ?`,
    [occurrenceId, after?.id ?? null, after?.id ?? 0, after?.id ?? 0, most],
  );
}

/** Options that were added after the poll had gone out, in the order they were added. */
export async function addedOptions(
  db: Database,
  occurrenceIds: readonly number[],
): Promise<Map<number, NumberedOption[]>> {
  if (occurrenceIds.length === 0) return new Map();
  const found = await rows<{
    occurrenceId: number;
    id: number;
    label: string;
    wall: string | null;
    zone: string | null;
    addedBy: string;
  }>(
    db,
    `SELECT a.occurrence_id AS occurrenceId, a.id, a.label, a.wall, a.zone, p.shown_name AS addedBy
     FROM ask_options a JOIN people p ON p.id = a.added_by
     WHERE a.occurrence_id IN (${occurrenceIds.map(() => '?').join(', ')}) ORDER BY a.occurrence_id, a.id`,
    occurrenceIds,
  );
  const options = new Map<number, NumberedOption[]>();
  for (const { occurrenceId, wall, zone, ...row } of found)
    options.set(occurrenceId, [
      ...(options.get(occurrenceId) ?? []),
      { ...row, at: wall !== null && zone !== null ? { wall, zone } : null },
    ]);
  return options;
}

/** The options of a poll that has gone out, those added later included. */
export async function pollOptions(db: Database, occurrenceId: number, poll: Poll): Promise<NumberedOption[]> {
  return [...optionsOf(poll), ...((await addedOptions(db, [occurrenceId])).get(occurrenceId) ?? [])];
}

/**
 * Adds an option under a number.
 *
 * @throws the database's duplicate-key error where another was added under it meanwhile
 */
export async function insertOption(
  db: Database,
  occurrenceId: number,
  option: Omit<NumberedOption, 'addedBy'>,
  addedBy: number,
): Promise<void> {
  await db('ask_options').insert({
    occurrence_id: occurrenceId,
    id: option.id,
    label: option.label.trim(),
    wall: option.at?.wall ?? null,
    zone: option.at?.zone ?? null,
    added_by: addedBy,
  });
}
