import { lookup } from 'node:dns';
import { lookup as lookupNow } from 'node:dns/promises';
import type { LookupFunction } from 'node:net';
import ipaddr from 'ipaddr.js';
import { Problem } from '../problem.ts';

/**
 * Whether an IP address is an ordinary one that is reached from everywhere. Everything with a purpose of its own is not:
 * private, loopback, link-local, multicast, and the forms of IPv6 that carry an IPv4 address (mapped, 6to4, Teredo,
 * translated), through which a private one could be reached.
 */
export function isPublicAddress(address: string): boolean {
  if (!ipaddr.isValid(address)) return false;
  return ipaddr.process(address).range() === 'unicast';
}

/** Resolves a name only to addresses outside, at the moment of connecting, since a name may lead elsewhere by then. */
export const outsideOnly: LookupFunction = (hostname, options, done) => {
  lookup(hostname, { ...options, all: true }, (error, found) => {
    // Where the look-up fails there is no list at all.
    const first = error ? undefined : found.find(({ address }) => isPublicAddress(address));
    if (!first) done(error ?? new Error('That address is inside the house'), '', 4);
    else if (options.all) done(null, [first]);
    else done(null, first.address, first.family);
  });
};

const refuse = (detail: string): Problem =>
  new Problem(422, detail, { errors: [{ field: 'endpoint', detail }] });

const INSIDE = 'That address is inside the house. A push service is outside.';

/**
 * Refuses an endpoint that is not https, or whose host is inside the house or cannot be found. It is looked at again when
 * something is sent there.
 *
 * @param standIn the address of the stand-in push service of a demo, which is inside the house
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
