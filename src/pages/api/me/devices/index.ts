import { deviceSchema } from '../../../../core/notices/noticeSchema.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { connectDevice } from '../../../../server/notices/service.ts';

/** Connects a device that takes push messages: a subscription as the Push API gives it, with a label. */
export const POST = endpointWith(deviceSchema, (device, { db, session, settings }) =>
  connectDevice(db, session.actor, device, settings.PUSH_STANDIN_URL ?? null, session.hash),
);
