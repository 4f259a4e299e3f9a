import { z } from 'zod';
import { BUNDLINGS } from './bundling.ts';

export const bundlingSchema = z.enum(BUNDLINGS, 'Choose when routine matter comes');
