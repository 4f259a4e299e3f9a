import { patchBodyValidation, scimPatch, type ScimPatchOperation, type ScimResource } from 'scim-patch';
import { z } from 'zod';
import { ScimProblem } from './problem.ts';
import { parsed, type Resource } from './resource.ts';

const MOST_OPERATIONS = 1_000;

const operationSchema = z.looseObject({
  op: z
    .string()
    .transform((op) => op.toLowerCase())
    .pipe(z.enum(['add', 'remove', 'replace'])),
  path: z.string().max(500).nullish(),
  value: z.unknown().optional(),
});
const patchSchema = z.looseObject({
  schemas: z
    .array(z.string())
    .refine(
      (schemas) => schemas.includes('urn:ietf:params:scim:api:messages:2.0:PatchOp'),
      'must hold urn:ietf:params:scim:api:messages:2.0:PatchOp',
    ),
  Operations: z.array(operationSchema).min(1).max(MOST_OPERATIONS),
});

export interface PatchOperation {
  op: 'add' | 'remove' | 'replace';
  path: string | null;
  value: unknown;
}

/** The operations of a patch (RFC 7644, 3.5.2); some clients write their names in capitals. */
export function operationsOf(body: unknown): PatchOperation[] {
  return parsed(patchSchema, body).Operations.map(({ op, path, value }) => {
    if (/__proto__|prototype|constructor/.test(path ?? ''))
      throw new ScimProblem(400, `There is no attribute ${path ?? ''}.`, 'invalidPath');
    return { op, path: path ?? null, value };
  });
}

const TYPES = [
  'invalidSyntax',
  'invalidPath',
  'noTarget',
  'invalidValue',
  'invalidFilter',
  'mutability',
] as const;

/** A resource after a patch; what it was is not touched. */
export function patched(resource: Resource, body: unknown): Record<string, unknown> {
  const operations = operationsOf(body).map(({ op, path, value }) => ({
    op,
    ...(path === null ? {} : { path }),
    ...(value === undefined ? {} : { value }),
  })) as ScimPatchOperation[];
  // What is read only is not for a patch to look at or to change.
  const meta = { resourceType: 'User', created: new Date(0), lastModified: new Date(0) };
  const target = { ...resource, groups: undefined, meta };
  try {
    patchBodyValidation({
      schemas: ['urn:ietf:params:scim:api:messages:2.0:PatchOp'],
      Operations: operations,
    });
    return { ...scimPatch(target as unknown as ScimResource, operations, { mutateDocument: false }) };
  } catch (error) {
    const told = (error as { scimCode?: string }).scimCode;
    const type = TYPES.find((each) => each === told) ?? 'invalidSyntax';
    throw new ScimProblem(400, error instanceof Error ? error.message : 'The patch cannot be read.', type);
  }
}
