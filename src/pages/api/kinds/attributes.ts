import { attributeChangeSchema, attributeRemovalSchema } from '../../../core/people/kinds.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';
import { changeAttribute, removeAttribute } from '../../../server/people/kinds.ts';

export const PUT = endpointWith(attributeChangeSchema, (given, { db, session }) =>
  changeAttribute(db, session.actor, given),
);

export const DELETE = endpointWith(attributeRemovalSchema, ({ name }, { db, session }) =>
  removeAttribute(db, session.actor, name),
);
