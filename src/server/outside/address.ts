import { lookup } from 'node:dns';
import type { LookupFunction } from 'node:net';
import ipaddr from 'ipaddr.js';

/**
 * Whether an IP address is an ordinary one that is reached from everywhere. Everything with a purpose of its own is not:
 * private, loopback, link-local, multicast, and the forms of IPv6 that carry an IPv4 address (mapped, 6to4, Teredo,
 * translated), through which a private one could be reached.
 */
export function isPublicAddress(address: string): boolean {
  if (!ipaddr.isValid(address)) return false;
  return ipaddr.process(address).range() === 'unicast';
}

/** A name that leads nowhere but on the internal network. */
export class InsideAddress extends Error {
  constructor() {
    super('That address is on the internal network');
  }
}

/** Resolves a name only to addresses outside, at the moment of connecting, since a name may lead elsewhere by then. */
export const outsideOnly: LookupFunction = (hostname, options, done) => {
  lookup(hostname, { ...options, all: true }, (error, found) => {
    // Where the look-up fails there is no list at all.
    const first = error ? undefined : found.find(({ address }) => isPublicAddress(address));
    if (!first) done(error ?? new InsideAddress(), '', 4);
    else if (options.all) done(null, [first]);
    else done(null, first.address, first.family);
  });
};
