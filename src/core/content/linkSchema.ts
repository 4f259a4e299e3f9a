import { z } from 'zod';
import { isSafeLink } from './link.ts';

export const linkSchema = z
  .string()
  .trim()
  .max(2000, 'A link has at most 2,000 characters')
  .refine(isSafeLink, 'A link begins with https://, http://, mailto: or tel:');
