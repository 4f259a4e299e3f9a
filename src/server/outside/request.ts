import { request as plainRequest } from 'node:http';
import { request as safeRequest } from 'node:https';
import ipaddr from 'ipaddr.js';
import { isPublicAddress, outsideOnly } from './address.ts';

/** Why an outside address could not be asked: what kind of failure, and the words of the system beneath. */
export class OutsideError extends Error {
  readonly kind: 'inside' | 'too large' | 'too slow' | 'unreachable';

  constructor(kind: OutsideError['kind'], words = '') {
    super(words);
    this.kind = kind;
  }
}

export interface OutsideRequest {
  method?: 'GET' | 'POST';
  headers?: Record<string, string>;
  body?: string;
  /** Origins on the internal network that may be asked, which the operator lists. */
  inside: readonly string[];
  timeoutMs: number;
  /** The most bytes of an answer that are read. */
  most: number;
}

export interface OutsideAnswer {
  status: number;
  headers: Record<string, string | string[] | undefined>;
  body: Buffer;
}

/**
 * Asks an address outside the house: within a time, reading at most so many bytes, without following redirections, and never
 * on the internal network but where the operator lists it, which is looked at when the connection is made.
 *
 * @throws an `OutsideError`
 */
export function requestOutside(address: string, asked: OutsideRequest): Promise<OutsideAnswer> {
  const { method = 'GET', headers = {}, body, inside, timeoutMs, most } = asked;
  const url = new URL(address);
  const listed = inside.includes(url.origin);
  const host = url.hostname.replace(/^\[|\]$/g, '');
  if (!listed && ipaddr.isValid(host) && !isPublicAddress(host))
    return Promise.reject(new OutsideError('inside'));
  return new Promise((resolve, reject) => {
    const request = (url.protocol === 'https:' ? safeRequest : plainRequest)(
      url,
      {
        method,
        headers: {
          ...headers,
          ...(body === undefined ? {} : { 'content-length': String(Buffer.byteLength(body)) }),
        },
        ...(listed ? {} : { lookup: outsideOnly }),
      },
      (response) => {
        const parts: Buffer[] = [];
        let bytes = 0;
        response.on('data', (part: Buffer) => {
          bytes += part.length;
          if (bytes > most) {
            response.destroy();
            reject(new OutsideError('too large'));
          } else parts.push(part);
        });
        response.on('error', (error) => reject(new OutsideError('unreachable', error.message)));
        response.on('end', () =>
          resolve({
            status: response.statusCode ?? 0,
            headers: response.headers,
            body: Buffer.concat(parts),
          }),
        );
      },
    );
    // For the whole of it: an answer that comes byte by byte is not waited for either.
    const timer = setTimeout(() => {
      reject(new OutsideError('too slow'));
      request.destroy();
    }, timeoutMs);
    request.on('close', () => clearTimeout(timer));
    request.on('error', (error) => reject(new OutsideError('unreachable', error.message)));
    request.end(body);
  });
}
