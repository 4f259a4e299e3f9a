import { z } from 'zod';
import { MOST_WORDS } from './letter.ts';

/** Whom to invite: everybody who has not signed in yet, a group, or some people. */
export const invitationSchema = z.object({
  to: z.discriminatedUnion(
    'kind',
    [
      z.object({ kind: z.literal('everybody') }),
      z.object({ kind: z.literal('group'), id: z.int().positive() }),
      z.object({ kind: z.literal('people'), ids: z.array(z.int().positive()).min(1).max(1000) }),
    ],
    'Say whom to invite: everybody, a group, or some people',
  ),
  words: z.string().trim().max(MOST_WORDS, `What you write has at most ${MOST_WORDS} characters`).default(''),
});
export type Invitation = z.infer<typeof invitationSchema>;

/** Whose invitations are withdrawn at once. */
export const withdrawnSchema = z.object({ ids: z.array(z.int().positive()).min(1).max(1000) });

/** A password as somebody chooses it. How strong it is, is asked of the server. */
export const newPasswordSchema = z
  .string('Write a password')
  .min(1, 'Write a password')
  .max(200, 'A password has at most 200 characters');

export const changePasswordSchema = z.object({
  /** The one in use; empty where there is none yet. */
  old: z.string().max(1000),
  password: newPasswordSchema,
});

export const confirmCodesSchema = z.object({
  code: z.string().trim().min(1, 'Write the six digits the app shows').max(40),
});

export const passkeyNameSchema = z
  .string()
  .trim()
  .min(1, 'Give it a name by which you know the device, such as "Phone"')
  .max(80, 'A name has at most 80 characters');
