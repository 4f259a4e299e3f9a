import {
  ENTERPRISE_SCHEMA,
  MOST_MORE,
  scimUserSchema,
  USER_SCHEMA,
  type ScimUser,
} from '../../core/people/scim.ts';
import { sortNameOf } from '../../core/people/names.ts';
import { normalMail } from '../../core/people/mailAddress.ts';
import { isZone } from '../../core/timing/wallTime.ts';
import { z } from 'zod';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { withdrawAll } from '../access/store.ts';
import { moveStanding } from '../people/standing.ts';
import { changePerson, insertPerson, lockCoordinators, organisation, stations } from '../people/store.ts';
import { filterSql } from './filter.ts';
import { patched } from './patch.ts';
import { noResource, ScimProblem } from './problem.ts';
import {
  listed,
  idOf,
  parsed,
  requireVersion,
  versioned,
  type Asked,
  type Listed,
  type Resource,
  type ScimCaller,
} from './resource.ts';
import * as store from './store.ts';

type Row = store.UserRow;

/** What is not kept beside: it is told anew each time, or has its own place here. */
const OWN = new Set([
  'schemas',
  'id',
  'meta',
  'groups',
  'userName',
  'externalId',
  'active',
  'displayName',
  'title',
  'timezone',
  'password',
]);

/** A user as SCIM tells one (RFC 7643, 4.1): what a client keeps of them, and over it what holds here. */
function resourceOf(row: Row, groups: readonly { id: number; name: string }[], base: string): Resource {
  const { more } = row;
  const named = more.name as Record<string, unknown> | undefined;
  const kept = (more.emails ?? []) as { value: string; primary?: boolean }[];
  const others = kept.filter((each) => normalMail(each.value) !== row.mail);
  const mine = kept.find((each) => normalMail(each.value) === row.mail);
  const extended = ENTERPRISE_SCHEMA in more;
  return versioned({
    ...more,
    schemas: [USER_SCHEMA, ...(extended ? [ENTERPRISE_SCHEMA] : [])],
    id: String(row.id),
    ...(row.externalId === null ? {} : { externalId: row.externalId }),
    userName: row.userName,
    displayName: row.name,
    name: { ...named, formatted: row.name },
    active: row.standing !== 'left',
    ...(row.mail === null && others.length === 0
      ? {}
      : {
          emails: [
            ...(row.mail === null ? [] : [{ type: 'work', ...mine, value: row.mail, primary: true }]),
            ...others.map((each) => ({ ...each, primary: false })),
          ],
        }),
    ...(row.occupation === '' ? {} : { title: row.occupation }),
    timezone: row.zone,
    ...(groups.length === 0
      ? {}
      : {
          groups: groups.map(({ id, name }) => ({
            value: String(id),
            display: name,
            type: 'direct',
            $ref: `${base}/Groups/${id}`,
          })),
        }),
    meta: {
      resourceType: 'User',
      created: new Date(row.madeMs).toISOString(),
      lastModified: new Date(row.changedMs).toISOString(),
      location: `${base}/Users/${row.id}`,
    },
  });
}

async function resource(db: Database, row: Row, base: string): Promise<Resource> {
  return resourceOf(row, (await store.groupsOfUsers(db, [row.id])).get(row.id) ?? [], base);
}

export async function listUsers(db: Database, { base }: ScimCaller, asked: Asked): Promise<Listed> {
  const who = asked.filter === null ? null : filterSql(asked.filter, store.USER_ATTRIBUTES);
  const { users, total } = await store.usersWhere(db, who, asked.span);
  const groups = await store.groupsOfUsers(
    db,
    users.map((row) => row.id),
  );
  return listed(
    users.map((row) => resourceOf(row, groups.get(row.id) ?? [], base)),
    total,
    asked.span,
  );
}

export async function oneUser(db: Database, { base }: ScimCaller, id: string): Promise<Resource> {
  const row = await store.userById(db, idOf(id));
  if (!row) throw noResource(id);
  return resource(db, row, base);
}

/** What a user as it was sent comes to here. */
interface Wanted {
  name: string;
  mail: string | null;
  /** Undefined where they are not sent, so that what holds here stays. */
  sortName: string | undefined;
  greeting: string | undefined;
  occupation: string;
  zone: string | null;
  stationId: number | null | undefined;
  active: boolean;
  userName: string;
  externalId: string | null;
  more: Record<string, unknown>;
}

const isMail = (text: string): boolean => z.email().safeParse(text).success;

async function wantedOf(db: Database, user: ScimUser): Promise<Wanted> {
  const { displayName, name, userName } = user;
  const written =
    [displayName, name?.formatted, [name?.givenName, name?.familyName].filter(Boolean).join(' ')].find(
      Boolean,
    ) ?? userName;
  const emails = user.emails ?? [];
  const address = (emails.find((each) => each.primary === true) ?? emails[0])?.value;
  if (address !== undefined && !isMail(normalMail(address)))
    throw new ScimProblem(400, `emails: ${address} is not a mail address.`, 'invalidValue');
  const mail = address ?? (isMail(normalMail(userName)) ? userName : null);
  const more = Object.fromEntries(Object.entries(user).filter(([key]) => !OWN.has(key)));
  if (JSON.stringify(more).length > MOST_MORE)
    throw new ScimProblem(
      400,
      `What is kept of a user beside the core attributes is at most ${MOST_MORE.toLocaleString('en-GB')} characters.`,
      'invalidValue',
    );
  return {
    name: written.slice(0, 160),
    mail: mail === null ? null : normalMail(mail),
    sortName: sortNameOf(name?.givenName ?? '', name?.familyName ?? '').slice(0, 160) || undefined,
    greeting: user.nickName ?? undefined,
    occupation: user.title ?? '',
    zone: typeof user.timezone === 'string' && isZone(user.timezone) ? user.timezone : null,
    stationId: await stationOf(db, user),
    active: user.active ?? true,
    userName,
    externalId: user.externalId ?? null,
    more,
  };
}

/** The station that is called as the department is; undefined where none is, so that what holds here stays. */
async function stationOf(db: Database, user: ScimUser): Promise<number | undefined> {
  const extension = user[ENTERPRISE_SCHEMA] as { department?: unknown } | undefined;
  if (typeof extension?.department !== 'string') return undefined;
  const wished = extension.department.trim().toLowerCase();
  return (await stations(db)).find((each) => each.name.toLowerCase() === wished)?.id;
}

const taken = (what: string): ScimProblem =>
  new ScimProblem(409, `Somebody has this ${what} already.`, 'uniqueness');

async function requireFree(db: Database, wanted: Wanted, except: number): Promise<void> {
  const other = await store.calledSo(db, wanted.userName, wanted.mail, except);
  if (other) throw taken('userName or mail address');
}

const asTaken = (error: unknown): never => {
  if (isDuplicate(error)) throw taken('userName or mail address');
  throw error;
};

const noted = (trx: Database, caller: ScimCaller, action: string, id: number): Promise<void> =>
  record(trx, {
    actorId: null,
    action,
    subject: 'person',
    subjectId: id,
    detail: { by: caller.client.name },
  });

/** Moves somebody's standing as their client says; the last coordinator stays. */
async function stand(trx: Database, caller: ScimCaller, id: number, active: boolean): Promise<void> {
  if (!active) {
    const coordinators = await lockCoordinators(trx);
    if (coordinators.length === 1 && coordinators[0] === id)
      throw new ScimProblem(
        409,
        'This is the last coordinator here. Make somebody else one first.',
        'mutability',
      );
  }
  await moveStanding(trx, id, !active, { actorId: null, detail: { by: caller.client.name } });
}

/** Adds a user. One that was deleted there and comes again is who they were. */
export async function addUser(db: Database, caller: ScimCaller, body: unknown): Promise<Resource> {
  const user = parsed(scimUserSchema, body);
  const wanted = await wantedOf(db, user);
  return transact(db, async (trx) => {
    const other = await store.calledSo(trx, wanted.userName, wanted.mail, 0);
    if (other && !other.deleted) throw taken('userName or mail address');
    if (other) return again(trx, caller, other.id, wanted);
    const id = await insertPerson(trx, {
      name: wanted.name,
      mail: wanted.mail,
      role: 'member',
      stationId: wanted.stationId ?? null,
      zone: await zoneFor(trx, wanted),
    }).catch(asTaken);
    const known = {
      ...(wanted.occupation === '' ? {} : { occupation: wanted.occupation }),
      ...(wanted.sortName === undefined ? {} : { sortName: wanted.sortName }),
      ...(wanted.greeting === undefined ? {} : { greeting: wanted.greeting }),
    };
    if (Object.keys(known).length > 0) await changePerson(trx, id, known);
    await store.keepUser(trx, id, { ...wanted, clientId: caller.client.id }).catch(asTaken);
    await noted(trx, caller, 'add', id);
    await emit(trx, 'person.added', { person: id });
    if (!wanted.active) await stand(trx, caller, id, false);
    return made(trx, caller, id);
  });
}

async function zoneFor(db: Database, wanted: Wanted): Promise<string> {
  if (wanted.zone !== null) return wanted.zone;
  const [home, places] = await Promise.all([organisation(db), stations(db)]);
  return places.find((each) => each.id === wanted.stationId)?.zone ?? home?.zone ?? 'UTC';
}

async function made(trx: Database, caller: ScimCaller, id: number): Promise<Resource> {
  const row = await store.userById(trx, id);
  if (!row) throw noResource(String(id));
  return resource(trx, row, caller.base);
}

async function again(trx: Database, caller: ScimCaller, id: number, wanted: Wanted): Promise<Resource> {
  await store.keepUser(trx, id, { ...wanted, clientId: caller.client.id }).catch(asTaken);
  const row = await store.userById(trx, id, true);
  if (!row) throw noResource(String(id));
  return write(trx, caller, row, wanted);
}

/** Writes a user as wanted over how they are; what does not change is not touched. Call it with their row held. */
async function write(trx: Database, caller: ScimCaller, before: Row, wanted: Wanted): Promise<Resource> {
  const { id } = before;
  // What was noted here stays; what the source had said and says no more goes.
  const greeting = wanted.greeting ?? (before.more.nickName === undefined ? undefined : '');
  const change = {
    ...(wanted.name === before.name ? {} : { name: wanted.name }),
    ...(wanted.mail === before.mail ? {} : { mail: wanted.mail }),
    ...(wanted.sortName === undefined || wanted.sortName === before.sortName
      ? {}
      : { sortName: wanted.sortName }),
    ...(greeting === undefined || greeting === before.greeting ? {} : { greeting }),
    ...(wanted.occupation === before.occupation ? {} : { occupation: wanted.occupation }),
    ...(wanted.zone === null || wanted.zone === before.zone ? {} : { zone: wanted.zone }),
    ...(wanted.stationId === undefined || wanted.stationId === before.stationId
      ? {}
      : { stationId: wanted.stationId }),
  };
  await store.keepUser(trx, id, { ...wanted, clientId: caller.client.id }).catch(asTaken);
  if (Object.keys(change).length > 0) {
    await changePerson(trx, id, change).catch(asTaken);
    if ('mail' in change) await withdrawAll(trx, id);
    await noted(trx, caller, 'change person', id);
    await emit(trx, 'person.changed', { person: id });
  }
  if (wanted.active !== (before.standing !== 'left')) await stand(trx, caller, id, wanted.active);
  return made(trx, caller, id);
}

/** Changes a user as a function says what it becomes, where its version is the one that was asked for. */
function change(
  db: Database,
  caller: ScimCaller,
  id: string,
  ifMatch: string | null,
  become: (before: Resource) => unknown,
): Promise<Resource> {
  return transact(db, async (trx) => {
    const row = await store.userById(trx, idOf(id), true);
    if (!row) throw noResource(id);
    const before = await resource(trx, row, caller.base);
    requireVersion(before, ifMatch);
    const user = parsed(scimUserSchema, become(before));
    const wanted = await wantedOf(trx, user);
    await requireFree(trx, wanted, row.id);
    return write(trx, caller, row, wanted);
  });
}

/** Puts a user in the place of the one before (RFC 7644, 3.5.1). */
export const replaceUser = (
  db: Database,
  caller: ScimCaller,
  id: string,
  body: unknown,
  ifMatch: string | null,
): Promise<Resource> => change(db, caller, id, ifMatch, () => body);

/** Changes parts of a user (RFC 7644, 3.5.2). */
export const patchUser = (
  db: Database,
  caller: ScimCaller,
  id: string,
  body: unknown,
  ifMatch: string | null,
): Promise<Resource> => change(db, caller, id, ifMatch, (before) => namedAnew(before, patched(before, body)));

/** Where only parts of the name were changed, the whole follows from them. */
function namedAnew(before: Resource, after: Record<string, unknown>): Record<string, unknown> {
  const named = (of: Record<string, unknown>) => (of.name ?? {}) as Record<string, unknown>;
  const [was, is] = [named(before), named(after)];
  const whole = after.displayName !== before.displayName || is.formatted !== was.formatted;
  if (whole) {
    const formatted = after.displayName === before.displayName ? is.formatted : after.displayName;
    return { ...after, displayName: formatted, name: { ...is, formatted } };
  }
  if (is.givenName === was.givenName && is.familyName === was.familyName) return after;
  return { ...after, displayName: null, name: { ...is, formatted: null } };
}

/** Takes a user out: they have left, and are not told of any more (RFC 7644, 3.6). What they did stays. */
export async function deleteUser(
  db: Database,
  caller: ScimCaller,
  id: string,
  ifMatch: string | null,
): Promise<void> {
  await transact(db, async (trx) => {
    const row = await store.userById(trx, idOf(id), true);
    if (!row) throw noResource(id);
    requireVersion(await resource(trx, row, caller.base), ifMatch);
    await stand(trx, caller, row.id, false);
    const { userName, externalId, more } = row;
    await store.keepUser(trx, row.id, { userName, externalId, more, clientId: caller.client.id });
    await store.noteDeleted(trx, row.id);
  });
}
