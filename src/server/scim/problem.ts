/** Why something is refused, in the words of RFC 7644, 3.12. */
export type ScimType =
  | 'invalidFilter'
  | 'tooMany'
  | 'uniqueness'
  | 'mutability'
  | 'invalidSyntax'
  | 'invalidPath'
  | 'noTarget'
  | 'invalidValue'
  | 'invalidVers'
  | 'sensitive';

/** A refusal as SCIM tells it. */
export class ScimProblem extends Error {
  readonly status: number;
  readonly type: ScimType | null;

  constructor(status: number, detail: string, type: ScimType | null = null) {
    super(detail);
    this.status = status;
    this.type = type;
  }
}

export const noResource = (id: string): ScimProblem => new ScimProblem(404, `There is no resource ${id}.`);

/** The body of a refusal (RFC 7644, 3.12). */
export const scimError = ({ status, type, message }: ScimProblem): Record<string, unknown> => ({
  schemas: ['urn:ietf:params:scim:api:messages:2.0:Error'],
  status: String(status),
  ...(type === null ? {} : { scimType: type }),
  detail: message,
});
