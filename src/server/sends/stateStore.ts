import { OCCURRENCE_MOVES, type OccurrenceMove } from '../../core/delivery/states.ts';

/**
 * SQL that holds where an occurrence is in a state from which a move leads. Each statement that changes the state of one goes by
 * `OCCURRENCE_MOVES`.
 *
 * @param table what the statement calls `occurrences`
 */
export const mayMove = (move: OccurrenceMove, table: string): string =>
  `${table}.state IN (${OCCURRENCE_MOVES[move].from.map((state) => `'${state}'`).join(', ')})`;

/** SQL for the state of an occurrence after a move: the one it is in, where the move does not lead from it. */
export const moved = (move: OccurrenceMove, table: string): string =>
  `IF(${mayMove(move, table)}, '${OCCURRENCE_MOVES[move].to}', ${table}.state)`;
