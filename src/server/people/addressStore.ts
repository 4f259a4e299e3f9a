import type { Address } from '../../core/people/person.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** The addresses somebody has besides the one that mail goes to, in the order they were noted. */
export function addressesOf(db: Database, personId: number): Promise<Address[]> {
  return rows(db, 'SELECT id, mail FROM person_addresses WHERE person_id = ? ORDER BY id', [personId]);
}

export async function addressById(db: Database, personId: number, id: number): Promise<Address | undefined> {
  const [found] = await rows<Address>(
    db,
    'SELECT id, mail FROM person_addresses WHERE id = ? AND person_id = ?',
    [id, personId],
  );
  return found;
}

/** @throws the database's duplicate-key error where it is a further address of somebody already */
export async function insertAddress(db: Database, personId: number, mail: string): Promise<void> {
  await change(db, 'INSERT INTO person_addresses (person_id, mail) VALUES (?, ?)', [personId, mail]);
}

export async function deleteAddress(db: Database, id: number): Promise<void> {
  await change(db, 'DELETE FROM person_addresses WHERE id = ?', [id]);
}

/**
 * Whose an address is, the one mail goes to or a further one; those who left and linked contacts are among them. Held until the
 * transaction ends, so that nobody else is given it meanwhile.
 */
export async function holderOf(db: Database, mail: string): Promise<number | undefined> {
  const [main] = await rows<{ id: number }>(db, 'SELECT id FROM people WHERE mail = ? FOR UPDATE', [mail]);
  if (main) return main.id;
  const [further] = await rows<{ id: number }>(
    db,
    'SELECT person_id AS id FROM person_addresses WHERE mail = ? FOR UPDATE',
    [mail],
  );
  return further?.id;
}
