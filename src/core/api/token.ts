import { z } from 'zod';

/** What a token lets an outside program do, with its words. It never reaches further than its owner. */
export const SCOPES = {
  'announcements:read': 'read drafts, what is planned and what became of it',
  'announcements:write': 'write, change and delete drafts',
  'announcements:send': 'send, move and take back',
  'asks:read': 'read who was asked and who has answered',
  'boards:read': 'read boards, posts and replies',
  'boards:write': 'post and reply',
  'boards:moderate': 'decide on what is held, pin, hide and lock, make boards and change their settings',
  'groups:read': 'read groups and who is in them',
  'groups:write': 'make, change and delete groups, and choose who is in them',
  'people:read': 'read the directory',
  'people:write': 'add people, change them and their roles, invite and mark them as left; make stations',
  'automations:read': 'read automations and what they did',
  'automations:write': 'write, publish, switch and run automations',
  'patterns:read': 'read patterns and what is made from them',
  'patterns:write':
    'keep patterns, make places from them with their groups, boards, record sheets and automations, and take these back',
  'sessions:read': 'read the calendar',
  'sessions:write': 'make sessions, call them off, and follow calendars elsewhere',
  'gateways:read': 'read ways in and out, and senders',
  'gateways:write': 'make, change, switch and delete ways in and out, and senders',
  'shelf:read': 'read the shelf and what is asked of it, and ask',
  'shelf:write': 'write answers, make subjects and close questions',
  'settings:read': 'read settings of the organisation, and how long what is kept',
  'settings:write': 'change settings of the organisation, and choose how long what is kept',
  'audit:read': 'read who did what',
  'records:read': 'read record sheets',
  'records:write': 'add, change and delete records, make sheets and have them follow a source',
} as const;
export type Scope = keyof typeof SCOPES;
export const SCOPE_NAMES = Object.keys(SCOPES) as [Scope, ...Scope[]];

/** How long a token may hold, in days. */
export const TOKEN_DAYS = [7, 30, 90, 365] as const;

/** What is asked of whoever makes a token. */
export const newTokenSchema = z
  .object({
    name: z.string().trim().min(1, 'Say which program it is for').max(80, 'A name has at most 80 characters'),
    scopes: z
      .array(z.enum(SCOPE_NAMES))
      .min(1, 'Choose at least one thing it may do')
      .transform((scopes) => SCOPE_NAMES.filter((scope) => scopes.includes(scope))),
    days: z.literal(TOKEN_DAYS, 'Choose how long it holds'),
  })
  .strict();

/** A token as it is listed; itself it is shown once, when it is made. Instants in milliseconds since 1970. */
export interface TokenLine {
  id: number;
  name: string;
  owner: string;
  /** Whether it is the reader's own. */
  mine: boolean;
  scopes: Scope[];
  madeMs: number;
  expiresMs: number;
  /** When it was used last; null where it never was. */
  usedMs: number | null;
  /** Calls of the last seven days. */
  calls: number;
}

/** Calls a token may make in a minute. */
export const CALLS_A_MINUTE = 600;
