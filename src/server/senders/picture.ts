import { z } from 'zod';
import { imagePath } from '../../core/content/section.ts';
import { imageSchema } from '../../core/content/sectionSchema.ts';
import type { Database } from '../database/connection.ts';
import { addressIn } from '../uploads/address.ts';
import { pictureUnder } from './store.ts';

const withSender = imageSchema.extend({ sender: z.int().positive() });

/** Where the picture of the sender of a name is read from a mail; null where there is none. */
export async function mailedPicture(db: Database, byline: string): Promise<string | null> {
  const found = await pictureUnder(db, byline);
  return found ? addressIn('sender', found.id, 'mail')(imagePath(found.picture, 'mail', 1)) : null;
}

/** Where the picture of a sender is read, from what was selected as `PICTURE`; null where it has none. */
export function pictureOf(json: string | null): string | null {
  if (json === null) return null;
  const { sender, ...picture } = withSender.parse(JSON.parse(json));
  return addressIn('sender', sender)(imagePath(picture, 'page', 1));
}
