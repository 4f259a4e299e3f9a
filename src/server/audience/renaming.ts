import { change, type Database } from '../database/connection.ts';

/** The texts in which an audience can stand, as JSON. */
const AUDIENCES = [
  ['announcements', 'plan'],
  ['automations', 'draft'],
  ['automation_versions', 'automation'],
  ['calendar_sessions', 'audience'],
  ['groups', 'rule'],
  ['hooks_out', 'hook'],
  ['pattern_versions', 'document'],
  ['saved_audiences', 'expression'],
  ['sends', 'plan'],
] as const;

/**
 * Lets every audience that is written down speak of something under its new name, so that it goes on meaning the same people.
 *
 * @param from how it begins or stands as JSON, as `JSON.stringify` writes it
 */
export async function replaceInAudiences(trx: Database, from: string, to: string): Promise<void> {
  for (const [table, column] of AUDIENCES)
    await change(
      trx,
      `UPDATE \`${table}\` SET ${column} = REPLACE(${column}, ?, ?) WHERE INSTR(${column}, ?) > 0`,
      [from, to, from],
    );
}
