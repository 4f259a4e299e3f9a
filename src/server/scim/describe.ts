import { ENTERPRISE_SCHEMA, GROUP_SCHEMA, USER_SCHEMA } from '../../core/people/scim.ts';

/** Most resources of one page. */
export const MOST_LISTED = 200;

const CORE = 'urn:ietf:params:scim:schemas:core:2.0';

/** What this service can do (RFC 7643, 5). */
export const serviceConfig = (base: string): Record<string, unknown> => ({
  schemas: [`${CORE}:ServiceProviderConfig`],
  patch: { supported: true },
  bulk: { supported: false, maxOperations: 0, maxPayloadSize: 0 },
  filter: { supported: true, maxResults: MOST_LISTED },
  changePassword: { supported: false },
  sort: { supported: false },
  etag: { supported: true },
  authenticationSchemes: [
    {
      type: 'oauthbearertoken',
      name: 'Bearer token',
      description: 'The token that was told once when the system was added (RFC 6750)',
      primary: true,
    },
  ],
  meta: { resourceType: 'ServiceProviderConfig', location: `${base}/ServiceProviderConfig` },
});

/** The kinds of resources (RFC 7643, 6). */
export const resourceTypes = (base: string): Record<string, unknown>[] =>
  [
    {
      id: 'User',
      name: 'User',
      endpoint: '/Users',
      description: 'Somebody here',
      schema: USER_SCHEMA,
      schemaExtensions: [{ schema: ENTERPRISE_SCHEMA, required: false }],
    },
    {
      id: 'Group',
      name: 'Group',
      endpoint: '/Groups',
      description: 'A group whose people are picked',
      schema: GROUP_SCHEMA,
    },
  ].map((type) => ({
    schemas: [`${CORE}:ResourceType`],
    ...type,
    meta: { resourceType: 'ResourceType', location: `${base}/ResourceTypes/${type.id}` },
  }));

interface Attribute {
  name: string;
  type: string;
  multiValued?: boolean;
  description: string;
  required?: boolean;
  mutability?: string;
  uniqueness?: string;
  caseExact?: boolean;
  subAttributes?: Record<string, unknown>[];
  referenceTypes?: string[];
}

const attribute = ({ name, type, ...more }: Attribute): Record<string, unknown> => ({
  name,
  type,
  multiValued: false,
  required: false,
  ...(type === 'string' ? { caseExact: false } : {}),
  mutability: 'readWrite',
  returned: 'default',
  uniqueness: 'none',
  ...more,
});

const text = (name: string, description: string, more: Partial<Attribute> = {}): Record<string, unknown> =>
  attribute({ name, type: 'string', description, ...more });

const USER_ATTRIBUTES = [
  text('userName', 'What the system that keeps them calls them; unique', {
    required: true,
    uniqueness: 'server',
  }),
  attribute({
    name: 'name',
    type: 'complex',
    description: 'Their name; the whole of it is what is shown here',
    subAttributes: [
      text('formatted', 'The whole name'),
      text('familyName', 'The family name'),
      text('givenName', 'The given name'),
    ],
  }),
  text('displayName', 'The name that is shown; it goes before the parts of name'),
  text('nickName', 'How to greet them'),
  text('title', 'Their occupation'),
  text('timezone', 'The IANA zone by whose clock they read'),
  attribute({ name: 'active', type: 'boolean', description: 'False for whoever has left' }),
  attribute({
    name: 'emails',
    type: 'complex',
    multiValued: true,
    description: 'Mail addresses; mail goes to the primary one',
    subAttributes: [
      text('value', 'The address'),
      text('type', 'Such as work or home'),
      attribute({ name: 'primary', type: 'boolean', description: 'Whether mail goes there' }),
    ],
  }),
  attribute({
    name: 'groups',
    type: 'complex',
    multiValued: true,
    mutability: 'readOnly',
    description: 'The fixed groups they are in',
    subAttributes: [
      text('value', 'The id of the group', { mutability: 'readOnly' }),
      text('display', 'Its name', { mutability: 'readOnly' }),
      text('type', 'direct', { mutability: 'readOnly' }),
      attribute({
        name: '$ref',
        type: 'reference',
        referenceTypes: ['Group'],
        mutability: 'readOnly',
        description: 'Its address',
      }),
    ],
  }),
];

const GROUP_ATTRIBUTES = [
  text('displayName', 'The name of the group; unique', { required: true, uniqueness: 'server' }),
  attribute({
    name: 'members',
    type: 'complex',
    multiValued: true,
    description: 'Who is in it',
    subAttributes: [
      text('value', 'The id of the user', { mutability: 'immutable' }),
      text('display', 'Their name', { mutability: 'readOnly' }),
      text('type', 'User', { mutability: 'immutable' }),
      attribute({
        name: '$ref',
        type: 'reference',
        referenceTypes: ['User'],
        mutability: 'immutable',
        description: 'Their address',
      }),
    ],
  }),
];

/** What is known of each kind of resource (RFC 7643, 7). */
export const schemas = (base: string): Record<string, unknown>[] =>
  [
    { id: USER_SCHEMA, name: 'User', description: 'Somebody here', attributes: USER_ATTRIBUTES },
    {
      id: ENTERPRISE_SCHEMA,
      name: 'EnterpriseUser',
      description: 'Their place in the organisation',
      attributes: [text('department', 'The name of their station, where there is one of that name')],
    },
    {
      id: GROUP_SCHEMA,
      name: 'Group',
      description: 'A group whose people are picked',
      attributes: GROUP_ATTRIBUTES,
    },
  ].map((schema) => ({
    schemas: [`${CORE}:Schema`],
    ...schema,
    meta: { resourceType: 'Schema', location: `${base}/Schemas/${schema.id}` },
  }));
