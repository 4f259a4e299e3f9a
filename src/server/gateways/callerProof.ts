import { timingSafeEqual } from 'node:crypto';
import { Webhook, WebhookVerificationError } from 'standardwebhooks';
import { Problem } from '../problem.ts';

const same = (one: string, other: string): boolean => {
  const [a, b] = [Buffer.from(one), Buffer.from(other)];
  return a.byteLength === b.byteLength && timingSafeEqual(a, b);
};

/**
 * Whether a call proves that it knows the secret: signed by Standard Webhooks (`webhook-id`, `webhook-timestamp` no more than
 * five minutes off, `webhook-signature`), or with the secret as a bearer token (RFC 6750).
 *
 * @throws a 401 problem with what is wrong
 */
export function requireProof(secret: string, headers: Headers, body: Buffer): void {
  const bearer = /^Bearer\s+(\S+)$/i.exec(headers.get('authorization') ?? '')?.[1];
  if (bearer !== undefined) {
    if (same(bearer, secret)) return;
    throw new Problem(401, 'That is not the secret of this address.');
  }
  if (headers.get('webhook-signature') === null)
    throw new Problem(
      401,
      'Sign the call by Standard Webhooks, or send the secret in an Authorization header: Bearer and the secret.',
    );
  try {
    new Webhook(secret).verify(
      body,
      {
        'webhook-id': headers.get('webhook-id') ?? '',
        'webhook-timestamp': headers.get('webhook-timestamp') ?? '',
        'webhook-signature': headers.get('webhook-signature') ?? '',
      },
      { jsonParse: false },
    );
  } catch (error) {
    if (error instanceof WebhookVerificationError)
      throw new Problem(
        401,
        /timestamp/i.test(error.message)
          ? 'The time of the signature is more than five minutes off, or is none. Set the clock, and sign anew.'
          : 'The signature does not fit what was sent. Sign the exact bytes of the body, with the secret of this address.',
      );
    throw error;
  }
}
