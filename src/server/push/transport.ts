import { request as httpRequest } from 'node:http';
import { request as httpsRequest } from 'node:https';
import webPush from 'web-push';
import { outsideOnly } from '../outside/address.ts';
import type { VapidKeys } from './keys.ts';
import type { DeviceRow } from './store.ts';

/** What a push message says: JSON, encrypted for one device (RFC 8291). */
export interface PushMessage {
  title: string;
  text: string;
  /** Where pressing it leads, as a path of the application. */
  path: string;
  why: string;
  urgent: boolean;
  /** Where one press acknowledges what it tells of, as a path; null where it takes more than that. */
  answer: string | null;
}

export type PushOutcome =
  | { kind: 'taken' }
  /** The device is no more: forget it. */
  | { kind: 'gone' }
  | { kind: 'refused'; reason: string }
  | { kind: 'later'; reason: string; waitMs: number | null };

export interface PushTransport {
  send(device: DeviceRow, message: PushMessage): Promise<PushOutcome>;
}

const TTL_S = 24 * 3600;
const TIMEOUT_MS = 10_000;
/** However slowly it answers, byte by byte, it is not waited for longer. */
const LONGEST_MS = 20_000;

/**
 * Sends push messages by RFC 8030, encrypted by RFC 8291 and signed by RFC 8292.
 *
 * @param contact where a push service may write to, as a mailto: or https: address
 * @param standIn the address of the stand-in push service of a demo, the one allowed on the internal network
 */
export function pushTransport(keys: VapidKeys, contact: string, standIn: string | null): PushTransport {
  return {
    async send(device, message) {
      let details;
      try {
        details = webPush.generateRequestDetails(
          { endpoint: device.endpoint, keys: { p256dh: device.p256dh, auth: device.auth } },
          JSON.stringify(message),
          {
            vapidDetails: { subject: contact, ...keys },
            TTL: TTL_S,
            urgency: message.urgent ? 'high' : 'normal',
            contentEncoding: 'aes128gcm',
          },
        );
      } catch {
        // Its keys are none: no message can ever be made for it.
        return { kind: 'gone' };
      }
      const url = new URL(details.endpoint);
      const inside = standIn !== null && url.origin === new URL(standIn).origin;
      if (!inside && url.protocol !== 'https:') return { kind: 'refused', reason: 'Not a push service' };
      return post(url, details.headers, details.body, inside);
    },
  };
}

function post(
  url: URL,
  headers: Record<string, string | number>,
  body: Buffer,
  inside: boolean,
): Promise<PushOutcome> {
  return new Promise((resolve) => {
    const bounded = AbortSignal.timeout(LONGEST_MS);
    const request = (url.protocol === 'https:' ? httpsRequest : httpRequest)(
      url,
      {
        method: 'POST',
        headers,
        timeout: TIMEOUT_MS,
        signal: bounded,
        ...(inside ? {} : { lookup: outsideOnly }),
      },
      (response) => {
        response.on('error', (error) => resolve({ kind: 'later', reason: error.message, waitMs: null }));
        response.resume();
        response.on('end', () =>
          resolve(outcomeOf(response.statusCode ?? 0, response.headers['retry-after'])),
        );
      },
    );
    request.on('timeout', () => request.destroy(new Error('The push service did not answer in time')));
    request.on('error', (error) => resolve({ kind: 'later', reason: error.message, waitMs: null }));
    request.end(body);
  });
}

/** What a push service's answer means (RFC 8030, sections 5 and 7.3). */
export function outcomeOf(status: number, retryAfter: string | undefined): PushOutcome {
  if (status >= 200 && status < 300) return { kind: 'taken' };
  if (status === 404 || status === 410) return { kind: 'gone' };
  if (status === 429 || status >= 500) {
    const seconds = Number(retryAfter);
    return {
      kind: 'later',
      reason: `The push service answered ${status}`,
      waitMs: Number.isFinite(seconds) && seconds > 0 ? seconds * 1000 : null,
    };
  }
  return { kind: 'refused', reason: `The push service answered ${status}` };
}
