import type { Database } from '../database/connection.ts';

export interface Deed {
  actorId: number | null;
  action: string;
  subject: string;
  subjectId: number | null;
  detail?: Record<string, unknown>;
}

/** Records who did what. Call it in the transaction of the deed. */
export async function record(db: Database, deed: Deed): Promise<void> {
  await db('audit').insert({
    actor_id: deed.actorId,
    action: deed.action,
    subject: deed.subject,
    subject_id: deed.subjectId,
    detail: deed.detail ? JSON.stringify(deed.detail) : null,
  });
}
