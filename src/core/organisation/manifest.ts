import { z } from 'zod';

/** What an archive of a whole organisation says of itself, in `manifest.json`. */
export const manifestSchema = z
  .object({
    format: z.literal('organisation archive'),
    version: z.literal(1).meta({ description: 'of this format; another version is read by another program' }),
    laidOut: z.string().max(100).meta({ description: 'the last change of the database it was taken from' }),
    organisation: z.string().max(120),
    takenAt: z.iso.datetime().meta({ description: 'all of it is as of this instant, UTC' }),
    tables: z
      .array(
        z.object({
          name: z.string().regex(/^[a-z_]{1,64}$/),
          file: z.string().regex(/^tables\/[a-z_]{1,64}\.jsonl$/),
          rows: z.int().min(0),
          sha256: z.string().regex(/^[0-9a-f]{64}$/),
          columns: z
            .array(
              z.object({
                name: z.string().regex(/^[a-z0-9_]{1,64}$/),
                kind: z.enum(['plain', 'json', 'date', 'instant', 'bytes']),
              }),
            )
            .min(1)
            .max(100),
        }),
      )
      .max(500)
      .meta({ description: 'JSON Lines: an object a row; what is null is left out' }),
    uploads: z
      .array(
        z.object({
          key: z.string().regex(/^[A-Za-z0-9_-]{22}$/),
          file: z.string().max(400),
          bytes: z.int().min(0),
          sha256: z.string().regex(/^[0-9a-f]{64}$/),
        }),
      )
      .max(1_000_000),
    leftOut: z
      .array(z.object({ what: z.string(), why: z.string() }))
      .meta({ description: 'tables and columns that are not in it, and why' }),
    readable: z
      .array(z.string().max(400))
      .max(100)
      .meta({ description: 'copies for people and spreadsheets' }),
  })
  .meta({
    title: 'Archive of an organisation',
    description: 'Manifest of an archive taken out of Clear Bell',
  });

export type Manifest = z.infer<typeof manifestSchema>;
export type ColumnKind = Manifest['tables'][number]['columns'][number]['kind'];
