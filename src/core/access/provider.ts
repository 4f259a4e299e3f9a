import { z } from 'zod';

/** The claims of OpenID Connect by which an identity in another system can be known. */
export const IDENTITY_CLAIMS = ['sub', 'preferred_username', 'email'] as const;
export type IdentityClaim = (typeof IDENTITY_CLAIMS)[number];

/** Where people can sign in with the account they have elsewhere (OpenID Connect Core 1.0). */
export const providerSchema = z.object({
  name: z
    .string()
    .trim()
    .min(1, 'Give it the name by which your people know it')
    .max(80, 'A name has at most 80 characters'),
  /** The issuer: its address, under which `/.well-known/openid-configuration` is. */
  issuer: z
    .url({
      protocol: /^https?$/,
      error: 'Write the address of the provider, such as https://login.example.org',
    })
    .max(300, 'An address has at most 300 characters'),
  clientId: z
    .string()
    .trim()
    .min(1, 'Write the client id the provider gave')
    .max(200, 'A client id has at most 200 characters'),
  /** Whether a first sign-in is matched by a mail address that the provider says is verified. */
  byMail: z.boolean(),
  /** By which identity a first sign-in is matched too; null for none. */
  byIdentity: z
    .object({
      system: z.string().trim().min(1, 'Say which system').max(40, 'A system has at most 40 characters'),
      claim: z.enum(IDENTITY_CLAIMS),
    })
    .nullable(),
});
export type Provider = z.infer<typeof providerSchema>;

const matched = (given: { byMail: boolean; byIdentity: unknown }): boolean =>
  given.byMail || given.byIdentity !== null;
const MATCHED = {
  path: ['byMail'],
  message: 'Say how people are found: by verified mail address, by an identity, or both',
};

/** The client secret is told once; left out, the one that is kept stays. */
const secret = z.string().trim().max(700, 'A client secret has at most 700 characters');

export const newProviderSchema = z
  .object({ provider: providerSchema.refine(matched, MATCHED), secret })
  .strict();
export const changedProviderSchema = z
  .object({
    provider: providerSchema.refine(matched, MATCHED),
    secret: secret.nullable(),
    on: z.boolean(),
  })
  .strict();

/** A provider as those who look after it see it. */
export interface ProviderLine extends Provider {
  id: number;
  on: boolean;
  hasSecret: boolean;
  /** How many people have signed in with it. */
  people: number;
}

/** An account elsewhere that signs somebody in. Instants in milliseconds since 1970. */
export interface SignOnLine {
  providerId: number;
  provider: string;
  sinceMs: number;
}
