import { zodResolver } from '@hookform/resolvers/zod';
import type { FieldValues, Resolver } from 'react-hook-form';
import type { z } from 'zod';

/** Checks a form by the schema of its endpoint; what is sent is what was filled in, which the endpoint reads likewise. */
export const bySchema = <T extends FieldValues>(schema: z.ZodType<unknown, T>): Resolver<T> =>
  zodResolver(schema, undefined, { raw: true }) as Resolver<T>;
