import { lookup as lookupNow } from 'node:dns/promises';
import ipaddr from 'ipaddr.js';
import { isPublicAddress } from '../outside/address.ts';
import { Problem } from '../problem.ts';

const refuse = (detail: string): Problem =>
  new Problem(422, detail, { errors: [{ field: 'endpoint', detail }] });

const INSIDE = 'That address is on the internal network. A push service is outside.';

/**
 * Refuses an endpoint that is not https, or whose host is on the internal network or cannot be found. It is looked at again when
 * something is sent there.
 *
 * @param standIn the address of the stand-in push service of a demo, which is on the internal network
 */
export async function requirePushAddress(endpoint: string, standIn: string | null): Promise<void> {
  const url = new URL(endpoint);
  if (standIn !== null && url.origin === new URL(standIn).origin) return;
  if (url.protocol !== 'https:') throw refuse('A push service has an address that begins with https://.');
  if (url.username !== '' || url.password !== '')
    throw refuse('A push service has an address without a name and password in it.');
  const host = url.hostname.replace(/^\[|\]$/g, '');
  if (ipaddr.isValid(host)) {
    if (!isPublicAddress(host)) throw refuse(INSIDE);
    return;
  }
  const found = await lookupNow(host, { all: true }).catch(() => []);
  if (found.length === 0)
    throw refuse('No push service is found at that address. Try again with a connection, or another device.');
  if (found.some(({ address }) => !isPublicAddress(address))) throw refuse(INSIDE);
}
