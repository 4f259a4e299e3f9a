import { z } from 'zod';

/** Somebody at the desk, as a draft is shared with them or they are asked to clear it. */
export interface AtDesk {
  id: number;
  name: string;
}

export const sharedSchema = z.object({ personId: z.int().positive(), shared: z.boolean() });
