import { z } from 'zod';
import { TEXT_FORMS } from './textForms.ts';

/** In which form texts are asked for. */
export const formSchema = z.object({
  as: z.enum(TEXT_FORMS, 'Say as what: md (CommonMark) or eml (mail)').default('md'),
});
