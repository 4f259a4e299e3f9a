import { endpointWith } from '../../../server/http/endpoint.ts';
import { imageAddressSchema, keepFromAddress } from '../../../server/uploads/fromAddress.ts';

/** Keeps the image at an address. */
export const POST = endpointWith(imageAddressSchema, (given, { db, session, settings }) =>
  keepFromAddress(db, session.actor, given, settings.LOOKUP_ORIGINS),
);
