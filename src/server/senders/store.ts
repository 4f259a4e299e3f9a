import type { Image } from '../../core/content/section.ts';
import { imageSchema } from '../../core/content/sectionSchema.ts';
import type { Sender } from '../../core/senders/sender.ts';
import type { SenderInput } from '../../core/senders/senderSchema.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** The named senders, by name. */
export const allSenders = (db: Database): Promise<{ id: number; name: string }[]> =>
  rows(db, 'SELECT id, name FROM senders ORDER BY name');

const readPicture = (json: string | null): Image | null =>
  json === null ? null : imageSchema.parse(JSON.parse(json));

/** The named senders with their pictures, and in how much each is named. */
export async function sendersInUse(db: Database): Promise<Sender[]> {
  const found = await rows<Omit<Sender, 'picture'> & { picture: string | null }>(
    db,
    `SELECT s.id, s.name, s.picture,
       (SELECT COUNT(*) FROM automations a LEFT JOIN automation_versions v ON v.id = a.live_version_id
        WHERE JSON_VALUE(a.draft, '$.senderId') = s.id OR JSON_VALUE(v.automation, '$.senderId') = s.id) AS automations,
       (SELECT COUNT(*) FROM hooks_in h WHERE JSON_VALUE(h.hook, '$.senderId') = s.id) AS waysIn
     FROM senders s ORDER BY s.name`,
  );
  return found.map((row) => ({ ...row, picture: readPicture(row.picture) }));
}

const stored = ({ name, picture }: SenderInput): { name: string; picture: string | null } => ({
  name,
  picture: picture && JSON.stringify(picture),
});

/** @throws the database's duplicate-key error where there is a sender of this name */
export async function insertSender(db: Database, sender: SenderInput): Promise<number> {
  const [id] = await db('senders').insert(stored(sender));
  return id ?? 0;
}

/** @throws the database's duplicate-key error where there is another sender of this name */
export async function updateSender(db: Database, id: number, sender: SenderInput): Promise<void> {
  const { name, picture } = stored(sender);
  await change(db, 'UPDATE senders SET name = ?, picture = ? WHERE id = ?', [name, picture, id]);
}

export async function deleteSenderById(db: Database, id: number): Promise<void> {
  await change(db, 'DELETE FROM senders WHERE id = ?', [id]);
}

/** What a statement over `announcement_versions v` selects to tell the picture of whoever it stands under; `pictureOf` reads it. */
export const PICTURE =
  "(SELECT JSON_INSERT(n.picture, '$.sender', n.id) FROM senders n WHERE n.name = v.byline) AS senderPicture";

/** The picture of the sender of a name; nothing where there is none. */
export async function pictureUnder(
  db: Database,
  byline: string,
): Promise<{ id: number; picture: Image } | undefined> {
  if (byline === '') return undefined;
  const [row] = await rows<{ id: number; picture: string }>(
    db,
    'SELECT id, picture FROM senders WHERE name = ? AND picture IS NOT NULL',
    [byline],
  );
  const picture = row && readPicture(row.picture);
  return row && picture ? { id: row.id, picture } : undefined;
}
