import type { Database } from '../database/connection.ts';
import { insertLetter } from './store.ts';

/** Tells somebody by mail what was done with their account. */
export const tellByMail = (db: Database, personId: number, words: string): Promise<void> =>
  insertLetter(db, { personId, kind: 'told', words, hours: 24 });
