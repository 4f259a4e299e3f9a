import { GROUP_SCHEMA, scimGroupSchema, scimMembersSchema } from '../../core/people/scim.ts';
import { isBlank } from '../../core/content/document.ts';
import { z } from 'zod';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { deleteMembers, insertMembers } from '../groups/memberStore.ts';
import { refuseWhereUsed } from '../groups/making.ts';
import { changeGroup, deleteGroupById, insertGroup, lockGroup } from '../groups/store.ts';
import { Problem } from '../problem.ts';
import { filterSql } from './filter.ts';
import { operationsOf, type PatchOperation } from './patch.ts';
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

type Row = store.GroupRow;

/** A fixed group as SCIM tells one (RFC 7643, 4.2). Those by a rule follow from the people, and are not told of. */
function resourceOf(
  row: Row,
  members: readonly { id: number; name: string }[] | null,
  base: string,
): Resource {
  const resource = {
    schemas: [GROUP_SCHEMA],
    id: String(row.id),
    ...(row.externalId === null ? {} : { externalId: row.externalId }),
    displayName: row.name,
  };
  const meta = {
    resourceType: 'Group',
    ...(row.madeMs === null ? {} : { created: new Date(row.madeMs).toISOString() }),
    ...(row.changedMs === null ? {} : { lastModified: new Date(row.changedMs).toISOString() }),
    location: `${base}/Groups/${row.id}`,
  };
  // A version follows from who is in it, and does not hang on whether they are told.
  const { version } = versioned({ ...resource, meta: { ...meta, members: row.members } }).meta;
  return {
    ...resource,
    ...(members === null
      ? {}
      : {
          members: members.map(({ id, name }) => ({
            value: String(id),
            display: name,
            type: 'User',
            $ref: `${base}/Users/${id}`,
          })),
        }),
    meta: { ...meta, version },
  };
}

/** @param withMembers whether their people are told too */
export async function listGroups(
  db: Database,
  { base }: ScimCaller,
  asked: Asked,
  withMembers: boolean,
): Promise<Listed> {
  const which = asked.filter === null ? null : filterSql(asked.filter, store.GROUP_ATTRIBUTES);
  const { groups, total } = await store.groupsWhere(db, which, asked.span);
  const members = withMembers
    ? await store.membersOfGroups(
        db,
        groups.map((row) => row.id),
      )
    : null;
  return listed(
    groups.map((row) => resourceOf(row, members && (members.get(row.id) ?? []), base)),
    total,
    asked.span,
  );
}

export async function oneGroup(
  db: Database,
  { base }: ScimCaller,
  id: string,
  withMembers: boolean,
): Promise<Resource> {
  const row = await store.groupRow(db, idOf(id));
  if (!row) throw noResource(id);
  const members = withMembers ? ((await store.membersOfGroups(db, [row.id])).get(row.id) ?? []) : null;
  return resourceOf(row, members, base);
}

const noted = (
  trx: Database,
  caller: ScimCaller,
  action: string,
  id: number,
  detail: Record<string, unknown> = {},
): Promise<void> =>
  record(trx, {
    actorId: null,
    action,
    subject: 'group',
    subjectId: id,
    detail: { ...detail, by: caller.client.name },
  });

const nameTaken = (error: unknown): never => {
  if (isDuplicate(error)) throw new ScimProblem(409, 'There is a group of this name already.', 'uniqueness');
  throw error;
};

/** The people some members stand for; a 400 problem that names the first who is nobody here. */
async function peopleOf(
  db: Database,
  members: readonly { value: string; type?: string | null | undefined }[],
): Promise<number[]> {
  if (members.some((each) => each.type?.toLowerCase() === 'group'))
    throw new ScimProblem(400, 'members: a group has people in it, and no groups.', 'invalidValue');
  const ids = [
    ...new Set(members.map((each) => (/^[1-9]\d{0,14}$/.test(each.value) ? Number(each.value) : 0))),
  ];
  const known = await store.knownUsers(db, ids);
  const unknown = members.find((each) => !known.has(Number(each.value)));
  if (unknown) throw new ScimProblem(400, `members: there is no user ${unknown.value}.`, 'invalidValue');
  return ids;
}

async function join(trx: Database, caller: ScimCaller, id: number, people: readonly number[]): Promise<void> {
  const joined = await insertMembers(trx, id, people);
  if (joined.length === 0) return;
  await noted(trx, caller, 'add to group', id, { people: joined.slice(0, 100), added: joined.length });
  await emit(trx, 'group.membership changed', { group: id, joined, left: [] });
}

async function leave(
  trx: Database,
  caller: ScimCaller,
  id: number,
  people: readonly number[],
): Promise<void> {
  const left = await deleteMembers(trx, id, people);
  if (left.length === 0) return;
  await noted(trx, caller, 'take out of group', id, { people: left.slice(0, 100) });
  await emit(trx, 'group.membership changed', { group: id, joined: [], left });
}

async function membersNow(trx: Database, id: number): Promise<number[]> {
  return ((await store.membersOfGroups(trx, [id])).get(id) ?? []).map((person) => person.id);
}

/** Has just these people in a group. */
async function replaceMembers(
  trx: Database,
  caller: ScimCaller,
  id: number,
  people: readonly number[],
): Promise<void> {
  const wanted = new Set(people);
  await leave(
    trx,
    caller,
    id,
    (await membersNow(trx, id)).filter((each) => !wanted.has(each)),
  );
  await join(trx, caller, id, people);
}

async function rename(trx: Database, caller: ScimCaller, row: Row, name: string): Promise<void> {
  if (isBlank(name)) throw new ScimProblem(400, 'displayName: give the group a name.', 'invalidValue');
  if (name === row.name) return;
  await changeGroup(trx, row.id, { name }).catch(nameTaken);
  await noted(trx, caller, 'rename group', row.id, { name });
  await emit(trx, 'group.changed', { group: row.id });
}

const told = async (trx: Database, caller: ScimCaller, id: number): Promise<Resource> =>
  oneGroup(trx, caller, String(id), true);

/** Makes a group whose people this client keeps. */
export async function addGroup(db: Database, caller: ScimCaller, body: unknown): Promise<Resource> {
  const group = parsed(scimGroupSchema, body);
  if (isBlank(group.displayName))
    throw new ScimProblem(400, 'displayName: give the group a name.', 'invalidValue');
  return transact(db, async (trx) => {
    const people = await peopleOf(trx, group.members ?? []);
    const id = await insertGroup(trx, group.displayName, null).catch(nameTaken);
    await store.keepGroup(trx, id, caller.client.id, group.externalId ?? null);
    await noted(trx, caller, 'make group', id, { name: group.displayName });
    await emit(trx, 'group.changed', { group: id });
    await join(trx, caller, id, people);
    return told(trx, caller, id);
  });
}

/** A fixed group, held until the transaction ends, where its version is the one that was asked for. */
async function lockedGroup(
  trx: Database,
  caller: ScimCaller,
  id: string,
  ifMatch: string | null,
): Promise<Row> {
  const number = idOf(id);
  const kind = await lockGroup(trx, number);
  const row = kind === 'fixed' ? await store.groupRow(trx, number) : undefined;
  if (!row) throw noResource(id);
  requireVersion(resourceOf(row, null, caller.base), ifMatch);
  return row;
}

/** Changes a fixed group that is held, where its version is the one that was asked for. */
function change(
  db: Database,
  caller: ScimCaller,
  id: string,
  ifMatch: string | null,
  work: (trx: Database, row: Row) => Promise<unknown>,
): Promise<Resource> {
  return transact(db, async (trx) => {
    const row = await lockedGroup(trx, caller, id, ifMatch);
    await work(trx, row);
    return told(trx, caller, row.id);
  });
}

/** Puts a group in the place of the one before (RFC 7644, 3.5.1). */
export function replaceGroup(
  db: Database,
  caller: ScimCaller,
  id: string,
  body: unknown,
  ifMatch: string | null,
): Promise<Resource> {
  const group = parsed(scimGroupSchema, body);
  return change(db, caller, id, ifMatch, async (trx, row) => {
    await rename(trx, caller, row, group.displayName);
    await store.keepGroup(trx, row.id, caller.client.id, group.externalId ?? null);
    await replaceMembers(trx, caller, row.id, await peopleOf(trx, group.members ?? []));
  });
}

const textSchema = z.string().trim().min(1).max(255);

/** `members[value eq "7"]`, by which one is taken out. */
const MEMBER = /^members\s*\[\s*value\s+eq\s+"?(\d{1,15})"?\s*\]$/i;

/** One operation of a patch upon a group. */
async function operate(
  trx: Database,
  caller: ScimCaller,
  row: Row,
  operation: PatchOperation,
): Promise<void> {
  const { op, value } = operation;
  const path = (operation.path ?? '').replace(`${GROUP_SCHEMA}:`, '').trim();
  if (path === '') {
    // Without a path the value names the attributes.
    for (const [name, inner] of Object.entries(parsed(z.record(z.string(), z.unknown()), value)))
      if (!['schemas', 'id', 'meta'].includes(name))
        await operate(trx, caller, row, { op, path: name, value: inner });
    return;
  }
  const one = MEMBER.exec(path);
  if (one?.[1] !== undefined && op === 'remove') return leave(trx, caller, row.id, [Number(one[1])]);
  switch (path.toLowerCase()) {
    case 'displayname':
      if (op === 'remove') throw new ScimProblem(400, 'A group has a name.', 'mutability');
      return rename(trx, caller, row, parsed(textSchema, value).slice(0, 120));
    case 'externalid':
      return store.keepGroup(
        trx,
        row.id,
        caller.client.id,
        op === 'remove' ? null : parsed(textSchema, value),
      );
    case 'members': {
      if (op === 'remove' && (value === undefined || value === null))
        return replaceMembers(trx, caller, row.id, []);
      const named = parsed(scimMembersSchema, value);
      if (op === 'remove')
        return leave(
          trx,
          caller,
          row.id,
          named.map((each) => Number(each.value)).filter(Number.isSafeInteger),
        );
      const people = await peopleOf(trx, named);
      return op === 'add' ? join(trx, caller, row.id, people) : replaceMembers(trx, caller, row.id, people);
    }
    default:
      throw new ScimProblem(400, `A group has no ${path} that could be changed.`, 'invalidPath');
  }
}

/** Changes parts of a group (RFC 7644, 3.5.2): its name, its id elsewhere, who is in it. */
export function patchGroup(
  db: Database,
  caller: ScimCaller,
  id: string,
  body: unknown,
  ifMatch: string | null,
): Promise<Resource> {
  const operations = operationsOf(body);
  return change(db, caller, id, ifMatch, async (trx, row) => {
    for (const operation of operations) await operate(trx, caller, row, operation);
    await store.keepGroup(trx, row.id, caller.client.id, undefined);
  });
}

/** Deletes a group; refused where something here still speaks of it. */
export async function deleteGroup(
  db: Database,
  caller: ScimCaller,
  id: string,
  ifMatch: string | null,
): Promise<void> {
  await transact(db, async (trx) => {
    const row = await lockedGroup(trx, caller, id, ifMatch);
    try {
      await refuseWhereUsed(trx, row.id);
    } catch (error) {
      if (error instanceof Problem) throw new ScimProblem(409, error.message, 'mutability');
      throw error;
    }
    await deleteGroupById(trx, row.id);
    await noted(trx, caller, 'delete group', row.id);
    await emit(trx, 'group.changed', { group: row.id });
  });
}
