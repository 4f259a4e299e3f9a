import { z } from 'zod';
import { uploadKeySchema } from '../content/sectionSchema.ts';
import { FILE_ORDERS } from './files.ts';

export const filesAskedSchema = z.object({ order: z.enum(FILE_ORDERS).default('newest') });
export const fileArchivedSchema = z.object({ key: uploadKeySchema, archived: z.boolean() });
