import { z } from 'zod';

/** With whom a draft is shared for comments, and who may be asked to clear it. */
export interface DraftSharing {
  readers: { id: number; name: string }[];
  mayClear: { id: number; name: string }[];
}

export const sharedSchema = z.object({ personId: z.int().positive(), shared: z.boolean() });
