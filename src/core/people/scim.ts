import { z } from 'zod';

export const USER_SCHEMA = 'urn:ietf:params:scim:schemas:core:2.0:User';
export const ENTERPRISE_SCHEMA = 'urn:ietf:params:scim:schemas:extension:enterprise:2.0:User';
export const GROUP_SCHEMA = 'urn:ietf:params:scim:schemas:core:2.0:Group';

/** Most people in one request about a group. */
export const MOST_MEMBERS = 20_000;
/** Most characters of what is kept for a client beside what is used here, as JSON. */
export const MOST_MORE = 20_000;

/** A truth value; some clients write it as a word. */
const truth = z.preprocess(
  (value) =>
    typeof value === 'string' ? ({ true: true, false: false }[value.toLowerCase()] ?? value) : value,
  z.boolean(),
);

const text = (most: number) => z.string().trim().max(most);
const optional = <T extends z.ZodType>(schema: T) => schema.nullish();

/** A user as a client sends one (RFC 7643, 4.1). What is not named here is kept for the client as it is. */
export const scimUserSchema = z.looseObject({
  userName: text(254).min(1),
  externalId: optional(text(255)),
  active: optional(truth),
  displayName: optional(text(160)),
  name: optional(
    z.looseObject({
      formatted: optional(text(160)),
      givenName: optional(text(100)),
      familyName: optional(text(100)),
    }),
  ),
  emails: optional(z.array(z.looseObject({ value: text(254), primary: optional(truth) })).max(50)),
  nickName: optional(text(80)),
  title: optional(text(80)),
  timezone: optional(text(64)),
});
export type ScimUser = z.infer<typeof scimUserSchema>;

const memberSchema = z.looseObject({ value: z.string().max(30), type: optional(z.string()) });

/** A group as a client sends one (RFC 7643, 4.2). */
export const scimGroupSchema = z.looseObject({
  displayName: text(120).min(1),
  externalId: optional(text(255)),
  members: optional(z.array(memberSchema).max(MOST_MEMBERS)),
});

export const scimMembersSchema = z.preprocess(
  (value) => (value !== null && typeof value === 'object' && !Array.isArray(value) ? [value] : value),
  z.array(memberSchema).max(MOST_MEMBERS),
);

/** What a system that keeps people up to date is called here. */
export const scimClientSchema = z
  .object({
    name: z
      .string()
      .trim()
      .min(1, 'Give it a name, such as the system of the personnel office')
      .max(80, 'A name has at most 80 characters'),
  })
  .strict();

/** A system that keeps people up to date here, as those who look after it see it. Instants in milliseconds since 1970. */
export interface ScimClientLine {
  id: number;
  name: string;
  madeMs: number;
  madeBy: string;
  usedMs: number | null;
  /** How many people it keeps, of those who are here. */
  people: number;
}
