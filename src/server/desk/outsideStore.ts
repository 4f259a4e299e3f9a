import type { OutsideTrouble } from '../../core/desk/desk.ts';
import { rows, type Database } from '../database/connection.ts';

/** How often a way out must have failed one message, or a source have failed to be read, before the first screen says so. */
const FAILURES = 3;

/** What stands outside and does not answer: ways out and outside places, sources that sheets follow, calendars. */
export const outsideInTrouble = (db: Database): Promise<OutsideTrouble[]> =>
  rows(
    db,
    `SELECT CONCAT('/gateways/out/', h.id) AS path, h.name, COALESCE(h.why_paused, d.reason, 'It does not answer.') AS why
     FROM hooks_out h LEFT JOIN (
       SELECT l.hook_id, MAX(l.id) AS id FROM hook_deliveries l WHERE l.state IN ('waiting', 'sending') AND l.attempts >= ${FAILURES} GROUP BY l.hook_id
     ) w ON w.hook_id = h.id LEFT JOIN hook_deliveries d ON d.id = w.id
     WHERE h.why_paused IS NOT NULL OR (h.state = 'on' AND w.id IS NOT NULL)
     UNION ALL SELECT CONCAT('/sheets/', s.id), s.name, f.trouble FROM sheet_sources f JOIN sheets s ON s.id = f.sheet_id
       WHERE f.trouble IS NOT NULL AND f.failures >= ${FAILURES}
     UNION ALL SELECT '/calendar/followed', c.name, c.trouble FROM followed_calendars c WHERE c.trouble IS NOT NULL AND c.failures >= ${FAILURES}
     ORDER BY 2 LIMIT 20`,
  );
